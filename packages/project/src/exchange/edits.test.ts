import { type Edit, readEdl, readOtio, writeEdl, writeOtio } from '@thawline/core/exchange';
import { type Rate, rate } from '@thawline/core/time';
import { EVERYTHING, normal } from '../document/everything.fixture.js';
import { base, newId, place, run } from '../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Clip,
  type Command,
  flattened,
  fromEdit,
  lossesOf,
  noTiming,
  type Project,
  type Source,
  type Timeline,
  toEdit,
} from '../index.js';

const timeline = (project: Project, id = 't'): Timeline => project.timelines.find((t) => t.id === id) as Timeline;
const urlOf = (source: Source) => `file:///vessa/${source.name}.mov`;
const options = { known: noTiming, urlOf };
const find = (project: Project) => (media: { name: string }) =>
  project.sources.find((s) => s.name === media.name.replace(/\.mov$/, '')) ?? null;
const parts = (t: Timeline) => t.clips.map(({ id: _, link, ...c }) => ({ ...c, linked: link !== null }));

function made(...more: ((project: Project, clips: Clip[]) => Command)[]): Project {
  let project = run(base, place(base, 'pan'));
  project = run(project, place(project, 'talk', 250));
  project = run(project, place(project, 'floes', 700));
  for (const command of more) project = run(project, command(project, timeline(project).clips as Clip[]));
  return project;
}
const rich = made(
  (_, c) => ({ type: 'trimClip', timelineId: 't', clipId: c[0]?.id ?? '', start: 7, end: 190 }),
  (_, c) => ({ type: 'setFit', timelineId: 't', clipIds: [c[2]?.id ?? ''], fit: 'blend' }),
  (_, c) => ({ type: 'setFit', timelineId: 't', clipIds: [c[4]?.id ?? ''], fit: 'pictures' }),
  (_, c) => ({ type: 'setFraming', timelineId: 't', clipIds: [c[4]?.id ?? ''], framing: 'fill' }),
  (_, c) => ({ type: 'splitClips', timelineId: 't', clipIds: [c[2]?.id ?? ''], frame: 333, seed: 'x' }),
  (_, c) => ({ type: 'setFit', timelineId: 't', clipIds: [c.find((k) => k.start === 333)?.id ?? ''], fit: 'freeze' }),
  () => ({ type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360, startFrame: 90_000 }),
);

test('saved as OpenTimelineIO and opened again a timeline is the same', () => {
  const { edits, troubles } = readOtio(writeOtio(toEdit(rich, timeline(rich), options)));
  expect(troubles).toEqual([]);
  const opened = fromEdit(edits[0] as never, { sources: rich.sources, find: find(rich), newId });
  expect(opened.troubles).toEqual([]);
  const again = opened.timelines[0] as Timeline;
  expect(again).toMatchObject({ name: 'Cut', rate: rate(25), width: 640, height: 360, startFrame: 90_000 });
  const sorted = (t: Timeline) =>
    parts(t).sort((a, b) => (a.laneId < b.laneId ? -1 : a.laneId > b.laneId ? 1 : a.start - b.start));
  expect(sorted(again)).toEqual(sorted(timeline(rich)));
  expect(
    run(rich, { type: 'openEdit', file: 'a.otio', sources: [], timelines: opened.timelines as Timeline[] }).timelines,
  ).toHaveLength(2);
});

test.each([rate(24), rate(30000, 1001), rate(60000, 1001)])('carried to %p, saved and opened, it is the same', (to: Rate) => {
  const carried = run(rich, { type: 'carryTimeline', timelineId: 't', newId: 'u', name: 'Carried', rate: to });
  const { edits } = readOtio(writeOtio(toEdit(carried, timeline(carried, 'u'), options)));
  const opened = fromEdit(edits[0] as never, { sources: rich.sources, find: find(rich), newId });
  const byPlace = (a: { laneId: string; start: number }, b: { laneId: string; start: number }) =>
    a.laneId < b.laneId ? -1 : a.laneId > b.laneId ? 1 : a.start - b.start;
  expect(parts(opened.timelines[0] as Timeline).sort(byPlace)).toEqual(parts(timeline(carried, 'u')).sort(byPlace));
});

test('a file of another program comes back as it was, through a project in which nothing was changed', () => {
  const { edits } = readOtio(JSON.stringify(EVERYTHING));
  const opened = fromEdit(edits[0] as Edit, { sources: [], find: () => null, newId });
  const project = run(
    { ...base, sources: [], timelines: [] },
    { type: 'openEdit', file: 'a.otio', sources: [...opened.lost], timelines: opened.timelines as Timeline[] },
  );
  const whole = project.timelines.find((t) => t.name === 'Vessa') as Timeline;
  expect(whole.marks.map((m) => [m.frame, m.name])).toEqual([
    [3, 'start'],
    [9, 'no colour'],
    [11, 'look'],
    [79, 'far'],
  ]);
  const again = JSON.parse(writeOtio(toEdit(project, whole, { known: noTiming, urlOf: () => null })));
  expect(normal(again)).toEqual(normal(EVERYTHING));
});

test('what somebody changed in the standard fields counts before what stands beside them', () => {
  const json = JSON.parse(writeOtio(toEdit(rich, timeline(rich), options)));
  const clip = json.tracks.children[0].children[1];
  expect(clip.metadata.thawline).toMatchObject({ headTrim: 7, inPicture: 0 });
  clip.source_range.start_time.value = 40;
  const { edits } = readOtio(JSON.stringify(json));
  const opened = fromEdit(edits[0] as never, { sources: rich.sources, find: find(rich), newId });
  expect(opened.timelines[0]?.clips[0]).toMatchObject({ inPicture: 40, headTrim: 0 });
});

test('media that are not there are placed to be found, as long as their uses', () => {
  const { edits } = readOtio(writeOtio(toEdit(rich, timeline(rich), options)));
  const opened = fromEdit(edits[0] as never, { sources: [], find: () => null, newId });
  expect(opened.lost.map((s) => [s.name, s.pictures, s.lost?.url])).toEqual([
    ['pan.mov', 240, 'file:///vessa/pan.mov'],
    ['talk.mov', 400, 'file:///vessa/talk.mov'],
    ['floes.mov', 400, 'file:///vessa/floes.mov'],
  ]);
  expect(opened.troubles.map((t) => t.code)).toEqual(['not-found', 'not-found', 'not-found']);
  const project = run(
    { ...base, sources: [], timelines: [] },
    { type: 'openEdit', file: 'a.otio', sources: [...opened.lost], timelines: opened.timelines as Timeline[] },
  );
  expect(project.timelines[0]?.clips).toHaveLength(timeline(rich).clips.length);
});

test('a list written, read and carried keeps its cuts; what it cannot say is told before', () => {
  const losses = lossesOf(rich, timeline(rich), 'edl');
  expect(losses.join('\n')).toMatch(/blended/);
  expect(losses.join('\n')).toMatch(/fills the frame/);
  const plain = made();
  expect(lossesOf(plain, timeline(plain), 'otio')).toEqual([]);
  const { edits, troubles } = readEdl(writeEdl(flattened(plain, timeline(plain), options)), rate(25));
  expect(troubles).toEqual([]);
  const opened = fromEdit(edits[0] as never, { sources: plain.sources, find: find(plain), newId });
  const place = (t: Timeline) => t.clips.map((c) => [c.sourceId, c.start, c.length, c.inPicture]).sort();
  expect(place(opened.timelines[0] as Timeline)).toEqual(place(timeline(plain)));
});

test('a list has one picture lane: what others hide is cut away', () => {
  const project = run(made(), place(made(), 'floes', 60, 'p2'));
  expect(lossesOf(project, timeline(project), 'edl')).toEqual([
    '2 picture lanes become one: what lies above is cut into what lies beneath.',
  ]);
  const flat = flattened(project, timeline(project), options);
  expect(flat.lanes[0]?.clips.map((c) => [c.name, c.start, c.start + c.length])).toEqual([
    ['pan', 0, 60],
    ['floes', 60, 260],
    ['talk', 260, 650],
    ['floes', 700, 900],
  ]);
});

test('a speed becomes a time effect and comes back exactly', () => {
  const read = run(made(), {
    type: 'readAt',
    readings: [{ sourceId: 'talk', reading: { rate: rate(24), pictures: 'once', from: 'typed', sound: 'along' } }],
    uses: 'time',
    except: [],
  });
  const text = writeOtio(toEdit(read, timeline(read), options));
  // Read at 24 and sped back to real time there is no effect to tell.
  expect(text).not.toContain('LinearTimeWarp');
  const slow = made((_, c) => ({ type: 'setFit', timelineId: 't', clipIds: [c[4]?.id ?? ''], fit: 'pictures' }));
  const { edits } = readOtio(writeOtio(toEdit(slow, timeline(slow), options)));
  expect(edits[0]?.lanes[0]?.clips.at(-1)?.speed).toEqual(rate(1, 2));
});

/** Park and Miller's generator: the same made-up damage in every run. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

const ODD: readonly unknown[] = [null, -1, 0, 1e15, -1e15, 'x', {}, [], 1e-9, 2 ** 53, true, [[[]]]];

/** A copy with things left out, doubled and replaced by nonsense. */
function damaged(value: unknown, chance: () => number): unknown {
  if (chance() < 0.03) return ODD[Math.floor(chance() * ODD.length)];
  if (Array.isArray(value)) return value.flatMap((v) => (chance() < 0.05 ? [] : chance() < 0.05 ? [v, v] : [damaged(v, chance)]));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).flatMap(([k, v]) => (chance() < 0.03 ? [] : [[k, damaged(v, chance)]])));
}

/** A text with characters left out, put in and exchanged. */
function garbled(text: string, chance: () => number): string {
  const letters = [...text];
  for (let n = 0; n < 6; n++) {
    const at = Math.floor(chance() * letters.length);
    const kind = chance();
    if (kind < 0.3) letters.splice(at, 1 + Math.floor(chance() * 4));
    else letters.splice(at, kind < 0.6 ? 0 : 1, ':;0123456789 \n'[Math.floor(chance() * 14)] as string);
  }
  return letters.join('');
}

test('whatever is wrong in a file, what opens is a whole timeline, and can be saved again', () => {
  const chance = seeded(20_261_123);
  const otio = JSON.parse(writeOtio(toEdit(rich, timeline(rich), options)));
  const list = writeEdl(flattened(rich, timeline(rich), options));
  let opened = 0;
  for (let round = 0; round < 300; round++) {
    const { edits } = round % 2 ? readOtio(JSON.stringify(damaged(otio, chance))) : readEdl(garbled(list, chance), rate(25));
    for (const edit of edits) {
      const made = fromEdit(edit, { sources: [], find: () => null, newId });
      const command = { type: 'openEdit' as const, file: 'x', sources: [...made.lost], timelines: [...made.timelines] };
      const project = run({ ...base, sources: [], timelines: [] }, command);
      for (const t of project.timelines) {
        const again = readOtio(writeOtio(toEdit(project, t, options)));
        expect(again.edits).toHaveLength(1);
      }
      opened++;
    }
  }
  expect(opened).toBeGreaterThan(200);
});

test('opening an edit file changes as immer would have changed: forward gives the document, backward takes it back', () => {
  const from = fromEdit(readOtio(writeOtio(toEdit(rich, timeline(rich), options))).edits[0] as Edit, {
    sources: [],
    find: () => null,
    newId,
  });
  const command = { type: 'openEdit' as const, file: 'x', sources: [...from.lost], timelines: [...from.timelines] };
  const applied = apply(base, command);
  if (!applied.ok) throw new Error(applied.code);
  expect(applyDifference(base, applied.difference.forward)).toEqual(applied.project);
  expect(applyDifference(applied.project, applied.difference.backward)).toEqual(base);
  expect(apply(applied.project, command)).toMatchObject({ ok: false, code: 'id-taken' });
});
