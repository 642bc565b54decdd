import fc from 'fast-check';
import type { Project } from '../document/document.js';
import { base, place, run } from '../document/project.fixture.js';
import { noTiming } from '../timing/mapping.js';
import { apply, applyDifference, type Difference } from './apply.js';
import { moveStepFirst, moveStepLast } from './commute.js';
import { type CommandInput, commandSchema } from './registry.js';

/** Does commands one after the other and keeps their differences. */
function done(project: Project, ...commands: (CommandInput | ((now: Project) => CommandInput))[]) {
  const steps: Difference[] = [];
  let now = project;
  for (const one of commands) {
    const applied = apply(now, commandSchema.parse(typeof one === 'function' ? one(now) : one), noTiming);
    if (!applied.ok) throw new Error(applied.code);
    steps.push(applied.difference);
    now = applied.project;
  }
  return { after: now, steps };
}

const forward = (project: Project, steps: readonly Difference[]): Project =>
  steps.reduce((now, step) => applyDifference(now, step.forward), project);
const backward = (project: Project, steps: readonly Difference[]): Project =>
  [...steps].reverse().reduce((now, step) => applyDifference(now, step.backward), project);

const claim = (id: string, num: number): CommandInput => ({ type: 'setClaim', sourceIds: [id], claimed: { num, den: 1 } });
describe('a step of one window taken back past those of another', () => {
  test('steps on different things change places: the rest stays, and both orders lead to the same document', () => {
    const { after, steps } = done(base, claim('pan', 100), claim('floes', 50), (now) => place(now, 'talk', 0, 'p2'));
    const moved = moveStepLast(after, steps);
    if (!moved.ok) throw new Error('should commute');
    expect(forward(base, moved.steps)).toEqual(after);
    expect(backward(after, moved.steps)).toEqual(base);
    const undone = applyDifference(after, moved.steps.at(-1)?.backward ?? []);
    expect(undone.sources.map((s) => s.claimed?.num)).toEqual([undefined, 50, undefined]);
    expect(undone.timelines[0]?.clips).toHaveLength(2);
  });

  test('done again it goes back to where it was, past what the other window took back', () => {
    const { after, steps } = done(base, claim('pan', 100), claim('floes', 50));
    const moved = moveStepFirst(base, steps);
    if (!moved.ok) throw new Error('should commute');
    expect(forward(base, moved.steps)).toEqual(after);
    expect(applyDifference(base, moved.steps[0]?.forward ?? []).sources.map((s) => s.claimed?.num)).toEqual([
      undefined,
      50,
      undefined,
    ]);
  });

  test('steps on the same thing do not, and the one that touches it is named', () => {
    const { after, steps } = done(base, claim('pan', 100), claim('floes', 50), claim('pan', 120));
    expect(moveStepLast(after, steps)).toEqual({ ok: false, by: 2 });
    expect(moveStepFirst(base, steps)).toEqual({ ok: false, by: 0 });
  });

  test('a step that another one stands on stays: a clip needs its source, a clip its place', () => {
    const without = run(base, { type: 'removeSources', sourceIds: ['talk'] });
    const added = base.sources.find((s) => s.id === 'talk');
    if (!added) throw new Error('no source');
    const used = done(without, { type: 'addSources', sources: [added] }, (now) => place(now, 'talk', 0, 'p1'));
    expect(moveStepLast(used.after, used.steps)).toEqual({ ok: false, by: 1 });
    const placed = run(base, place(base, 'floes', 0, 'p1') as CommandInput);
    const [clip] = placed.timelines[0]?.clips ?? [];
    const replaced = done(placed, { type: 'removeClips', timelineId: 't', clipIds: [clip?.id ?? ''] }, (now) =>
      place(now, 'pan', 0, 'p1'),
    );
    expect(moveStepLast(replaced.after, replaced.steps)).toEqual({ ok: false, by: 1 });
  });

  test('clips keep their order and their places where others came before and after them', () => {
    const { after, steps } = done(
      base,
      (now) => place(now, 'floes', 0, 'p1'),
      (now) => place(now, 'talk', 1000, 'p1'),
      (now) => place(now, 'pan', 3000, 'p2'),
    );
    const moved = moveStepLast(after, steps);
    if (!moved.ok) throw new Error('should commute');
    const undone = applyDifference(after, moved.steps.at(-1)?.backward ?? []);
    expect(undone.timelines[0]?.clips.map((c) => c.sourceId).sort()).toEqual(['pan', 'pan', 'talk', 'talk']);
    expect(forward(base, moved.steps)).toEqual(after);
  });
});

describe('in any order of any steps', () => {
  const kinds = fc.constantFrom('claim', 'place', 'rename', 'mark', 'level', 'remove', 'timeline');
  const asked = fc.record({ kind: kinds, at: fc.nat({ max: 5 }), n: fc.nat({ max: 5000 }) });

  /** Something like what was asked, as the project stands; null where there is nothing to do it to. */
  function commandFor(now: Project, { kind, at, n }: { kind: string; at: number; n: number }): CommandInput | null {
    const source = now.sources[at % now.sources.length];
    const timeline = now.timelines[0];
    const clip = timeline?.clips[at % Math.max(1, timeline.clips.length)];
    if (!source || !timeline) return null;
    if (kind === 'claim') return { type: 'setClaim', sourceIds: [source.id], claimed: { num: 25 + n, den: 1 } };
    if (kind === 'place') return place(now, source.id, n * 10, at % 2 ? 'p1' : 'p2');
    if (kind === 'rename') return { type: 'renameTimeline', timelineId: 't', name: `Cut ${n}` };
    if (kind === 'mark') return { type: 'markFrames', marks: [{ timelineId: 't', frame: n, name: `at ${n}` }] };
    if (kind === 'timeline') {
      const rate = { num: 24, den: 1 };
      return { type: 'addTimeline', timeline: { id: `t${n}`, name: `T${n}`, rate, width: 64, height: 64 } };
    }
    if (!clip) return null;
    if (kind === 'level') return { type: 'setSound', timelineId: 't', clipIds: [clip.id], level: (n % 12) - 6 };
    return { type: 'removeClips', timelineId: 't', clipIds: [clip.id] };
  }

  test('moved steps lead where the old ones led, back where they began, and leave the others their effect', () => {
    let moves = 0;
    fc.assert(
      fc.property(fc.array(asked, { minLength: 2, maxLength: 8 }), (all) => {
        const steps: Difference[] = [];
        let after = base;
        for (const one of all) {
          const command = commandFor(after, one);
          const applied = command && apply(after, commandSchema.parse(command), noTiming);
          if (!applied?.ok) continue;
          steps.push(applied.difference);
          after = applied.project;
        }
        if (steps.length < 2) return;
        const last = moveStepLast(after, steps);
        if (last.ok) {
          moves++;
          expect(forward(base, last.steps)).toEqual(after);
          expect(backward(after, last.steps)).toEqual(base);
          // Taken back and done again it is as it was, whichever way.
          const without = applyDifference(after, last.steps.at(-1)?.backward ?? []);
          expect(applyDifference(without, last.steps.at(-1)?.forward ?? [])).toEqual(after);
          const again = moveStepFirst(base, last.steps);
          expect(again.ok).toBe(true);
          if (again.ok) expect(forward(base, again.steps)).toEqual(after);
        }
        const first = moveStepFirst(base, steps);
        if (first.ok) {
          expect(forward(base, first.steps)).toEqual(after);
          expect(backward(after, first.steps)).toEqual(base);
        }
      }),
      { numRuns: 300 },
    );
    expect(moves).toBeGreaterThan(50);
  });
});
