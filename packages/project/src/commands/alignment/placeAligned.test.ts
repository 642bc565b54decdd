import { rate, rateToNumber } from '@thawline/core/time';
import { base, madeSound, madeSource, newId, place, run } from '../../document/project.fixture.js';
import {
  actionSpeed,
  apply,
  type Clip,
  type CommandInput,
  commandSchema,
  isSilent,
  noTiming,
  type Project,
  type Source,
  soundSpan,
  soundWay,
  toEdit,
} from '../../index.js';

const recorder = madeSound('recorder', 230);
const skiffs = [madeSource('skiff-a', rate(25), 5500, true), madeSource('skiff-b', rate(30000, 1001), 6500, true), recorder];
const project = run(base, { type: 'addSources', sources: skiffs });
const ties = [
  { a: 4_120_000, b: 2_885_000 },
  { a: 214_360_000, b: 213_176_000 },
];
const tied = (more: Partial<Extract<CommandInput, { type: 'setTies' }>> = {}): CommandInput => ({
  type: 'setTies',
  aId: 'skiff-a',
  bId: 'skiff-b',
  ties,
  ...more,
});
const placed = (more: object = {}): CommandInput =>
  ({ type: 'placeAligned', aId: 'skiff-a', bId: 'skiff-b', timelineId: 't', seed: 'new', ...more }) as CommandInput;
const refusal = (p: Project, command: CommandInput): string | null => {
  const applied = apply(p, commandSchema.parse(command));
  return applied.ok ? null : applied.code;
};
const clipsOf = (p: Project, source: string, timeline = 't'): Clip[] =>
  p.timelines.find((t) => t.id === timeline)?.clips.filter((c) => c.sourceId === source) ?? [];

/** Seconds of its source that a clip sounds at a moment of its timeline. */
function heardAt(p: Project, clip: Clip, seconds: number, timelineId = 't'): number {
  const timeline = p.timelines.find((t) => t.id === timelineId) as Project['timelines'][number];
  const source = p.sources.find((s) => s.id === clip.sourceId) as Source;
  const { from } = soundSpan(source, clip, timeline, noTiming);
  return from + (seconds - clip.start / rateToNumber(timeline.rate)) * rateToNumber(actionSpeed(source, clip, timeline));
}

describe('ties', () => {
  test('are kept in order, and taken away by none', () => {
    const kept = run(project, tied({ ties: [...ties].reverse() }));
    expect(kept.alignments).toEqual([{ aId: 'skiff-a', bId: 'skiff-b', ties }]);
    expect(run(kept, tied({ ties: [] })).alignments).toEqual([]);
    expect(run(kept, { type: 'removeSources', sourceIds: ['skiff-b'] }).alignments).toEqual([]);
  });

  test('on one moment, crossing, outside or of one source with itself are refused, and nothing is changed', () => {
    expect(refusal(project, tied({ ties: [...ties, { a: 4_120_500, b: 9_000_000 }] }))).toBe('tie-twice');
    expect(refusal(project, tied({ ties: [...ties, { a: 100_000_000, b: 1_000_000 }] }))).toBe('ties-cross');
    expect(refusal(project, tied({ ties: [{ a: 1, b: 999_000_000 }] }))).toBe('tie-outside');
    expect(refusal(project, tied({ bId: 'skiff-a' }))).toBe('id-taken');
    expect(refusal(project, placed())).toBe('no-ties');
  });
});

describe('placing the second recording', () => {
  test('both ends meet to the microsecond, at the exact speed, in one step', () => {
    const after = run(project, place(project, 'skiff-a', 250), placed({ ties }));
    const [picture, sound] = clipsOf(after, 'skiff-b') as [Clip, Clip];
    expect([picture.laneId, sound.laneId]).toEqual(['p2', 's2']);
    expect([picture.link, picture.speed]).toEqual([sound.link, rate(210_291, 210_240)]);
    // A begins at 10 s of the timeline.
    for (const { a, b } of ties) expect(heardAt(after, sound, 10 + a / 1e6)).toBeCloseTo(b / 1e6, 5);
    expect(after.alignments).toHaveLength(1);
    // Its pictures begin on the nearest frame.
    expect(Math.abs(sound.slip)).toBeLessThanOrEqual(20_000);
  });

  test('without the first one there, it comes with it; a new timeline takes both', () => {
    const timeline = { name: 'Two shores', rate: rate(25), width: 640, height: 360 };
    const after = run(project, placed({ ties, timelineId: 'pair', timeline }));
    const [a] = clipsOf(after, 'skiff-a', 'pair') as [Clip];
    const sound = clipsOf(after, 'skiff-b', 'pair').find((c) => c.laneId.startsWith('s')) as Clip;
    const at = a.start / 25;
    expect(heardAt(after, sound, at + 4.12, 'pair')).toBeCloseTo(2.885, 5);
    expect(after.timelines).toHaveLength(project.timelines.length + 1);
  });

  test('a recorder that ran before the camera keeps what there is room for; what lies before frame 0 is cut', () => {
    const early = [
      { a: 1_000_000, b: 61_000_000 },
      { a: 101_000_000, b: 161_000_000 },
    ];
    const after = run(project, place(project, 'skiff-a', 0), placed({ bId: 'recorder', ties: early }));
    const [sound, ...rest] = clipsOf(after, 'recorder');
    expect(rest).toEqual([]);
    expect(sound).toMatchObject({ laneId: 's2', start: 0, headTrim: 1500, link: null });
    expect(heardAt(after, sound as Clip, 1)).toBeCloseTo(61, 6);
    const alone = run(project, placed({ bId: 'recorder', ties: early }));
    expect(clipsOf(alone, 'recorder')[0]).toMatchObject({ start: 0, headTrim: 0 });
    expect(clipsOf(alone, 'skiff-a')[0]?.start).toBe(1500);
  });

  test('several come in one step, each by one that is there: also one that never met the first', () => {
    // The recorder began 21 s before skiff-b, which began 1.2 s after skiff-a; its clock runs 500 ppm slow.
    const heard = [10_000_000, 200_000_000].map((b) => ({ a: b, b: 21_000_000 + 0.9995 * b }));
    const timeline = { name: 'Three', rate: rate(25), width: 640, height: 360 };
    const more = [{ aId: 'skiff-b', bId: 'recorder', ties: heard }];
    const command = placed({ ties, timelineId: 'three', timeline, more });
    const after = run(project, command);
    expect(after.timelines.find((t) => t.id === 'three')?.clips).toHaveLength(5);
    const sounds = ['skiff-a', 'skiff-b', 'recorder'].map((id) => clipsOf(after, id, 'three').at(-1) as Clip);
    expect(new Set(sounds.map((c) => c.laneId)).size).toBe(3);
    for (const tie of heard) {
      // Nothing of the recorder is cut off: the first one made room for it.
      const [a, b, c] = sounds.map((clip) => (seconds: number) => heardAt(after, clip, seconds, 'three'));
      const at = 100 + (tie.a / 1e6 - (b as (s: number) => number)(100)) / 1.000242572;
      expect((b as (s: number) => number)(at)).toBeCloseTo(tie.a / 1e6, 4);
      expect((c as (s: number) => number)(at)).toBeCloseTo(tie.b / 1e6, 4);
      expect((a as (s: number) => number)(at)).toBeGreaterThan(0);
    }
    expect(sounds[2]?.headTrim).toBe(0);
    expect(sounds[2]?.start).toBeLessThanOrEqual(1);
    expect(after.alignments).toHaveLength(2);
    expect(refusal(project, placed({ ties, more: [{ aId: 'skiff-b', bId: 'recorder' }] }))).toBe('no-ties');
  });

  test('a clip that is frozen or curved gives nothing to go by', () => {
    const there = run(project, place(project, 'skiff-a', 0));
    const clipId = clipsOf(there, 'skiff-a')[0]?.id ?? '';
    const frozen = run(there, { type: 'setFit', timelineId: 't', clipIds: [clipId], fit: 'freeze' });
    expect(refusal(frozen, placed({ ties }))).toBe('uneven-anchor');
  });

  test('a clip that is retimed already is followed at its speed', () => {
    const there = run(project, place(project, 'skiff-a', 0));
    const clipId = clipsOf(there, 'skiff-a')[0]?.id ?? '';
    const slow = run(there, { type: 'retimeClip', timelineId: 't', clipId, speed: rate(1, 2), follow: 'move' });
    const after = run(slow, placed({ ties }));
    const sound = clipsOf(after, 'skiff-b').find((c) => c.laneId.startsWith('s')) as Clip;
    for (const { a, b } of ties) expect(heardAt(after, sound, (2 * a) / 1e6)).toBeCloseTo(b / 1e6, 5);
  });
});

describe('carrying two aligned recordings to another rate', () => {
  const there = run(project, place(project, 'skiff-a', 253), placed({ ties }));
  const carried = (p: Project, from: string, newId: string, to: ReturnType<typeof rate>): Project =>
    run(p, { type: 'carryTimeline', timelineId: from, newId, name: newId, rate: to });

  test.each([rate(24), rate(30000, 1001), rate(24000, 1001), rate(60)])(
    'at %j their sounds still meet to the microsecond',
    (to) => {
      const after = carried(there, 't', 'u', to);
      const [a, b] = ['skiff-a', 'skiff-b'].map((id) => clipsOf(after, id, 'u').find((c) => c.laneId.startsWith('s')) as Clip);
      for (const tie of ties) {
        const at = (a?.start ?? 0) / rateToNumber(to) + tie.a / 1e6 - soundOf(after, a, to);
        expect(heardAt(after, b as Clip, at, 'u')).toBeCloseTo(tie.b / 1e6, 5);
      }
      // Less than a frame of either rate: no more than carrying moved it.
      expect(Math.abs((b?.slip ?? 0) - (clipsOf(there, 'skiff-b')[1]?.slip ?? 0))).toBeLessThan(42_000);
    },
  );
  const soundOf = (p: Project, clip: Clip | undefined, to: ReturnType<typeof rate>): number =>
    heardAt(p, clip as Clip, ((clip as Clip).start ?? 0) / rateToNumber(to), 'u');

  test('what was moved out of step by hand stays so', () => {
    const clip = clipsOf(there, 'skiff-b')[1] as Clip;
    const shorter = { start: clip.start, end: clip.start + clip.length - 50 };
    const moved = run(
      there,
      { type: 'trimClip', timelineId: 't', clipId: clip.id, ...shorter },
      { type: 'slipClips', timelineId: 't', clipIds: [clip.id], byPictures: 3 },
    );
    const slip = clipsOf(moved, 'skiff-b')[1]?.slip;
    expect(clipsOf(carried(moved, 't', 'u', rate(24)), 'skiff-b', 'u')[1]?.slip).toBe(slip);
  });
});

describe('sound of a clip', () => {
  const there = run(project, place(project, 'skiff-a', 0));
  const [, sound] = clipsOf(there, 'skiff-a') as [Clip, Clip];
  const set = (change: object): CommandInput =>
    ({ type: 'setSound', timelineId: 't', clipIds: [sound.id], ...change }) as CommandInput;

  test('is as its source is read until it is said otherwise, and again when that is taken back', () => {
    const reading = { rate: rate(24), pictures: 'once' as const, from: 'typed' as const, sound: 'pitch' as const };
    const read = run(there, { type: 'readAt', readings: [{ sourceId: 'skiff-a', reading }], uses: 'move' });
    const now = (p: Project): Clip => clipsOf(p, 'skiff-a')[1] as Clip;
    const source = read.sources.find((s) => s.id === 'skiff-a') as Source;
    expect(soundWay(source, now(read))).toBe('pitch');
    const off = run(read, set({ way: 'off', level: -6 }));
    expect([soundWay(source, now(off)), isSilent(source, now(off)), now(off).level]).toEqual(['off', true, -6]);
    expect(soundWay(source, now(run(off, set({ way: null }))))).toBe('pitch');
    expect(now(run(off, set({ way: null }))).level).toBe(-6);
  });

  test('comes back from an edit file as it was', () => {
    const changed = run(there, set({ way: 'own', level: 3.5 }));
    const edit = toEdit(changed, changed.timelines[0] as Project['timelines'][number], { known: noTiming, urlOf: () => null });
    const kept = edit.lanes.flatMap((l) => l.clips).map((c) => Object(c.kept?.metadata).thawline as Clip);
    expect(kept.map((c) => [c.sound, c.level, c.slip])).toContainEqual(['own', 3.5, 0]);
  });
});

describe('sound alone', () => {
  test('goes on sound lanes alone, cut to the millisecond', () => {
    const after = run(project, place(project, 'recorder'));
    const [clip] = clipsOf(after, 'recorder') as [Clip];
    expect(clip).toMatchObject({ laneId: 's1', link: null, length: 5750, fit: 'nearest' });
    const onPicture = { ...clip, id: newId(), laneId: 'p1' };
    expect(refusal(after, { type: 'placeClips', timelineId: 't', clips: [onPicture] })).toBe('no-pictures');
    const cut = run(after, { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 100, end: 200 });
    const timeline = cut.timelines[0] as Project['timelines'][number];
    expect(soundSpan(recorder, clipsOf(cut, 'recorder')[0] as Clip, timeline, noTiming)).toEqual({ from: 4, to: 8 });
  });

  test("takes no picture's place", () => {
    const there = run(project, place(project, 'skiff-a'));
    expect(refusal(there, { type: 'replaceSource', sourceId: 'skiff-a', byId: 'recorder' })).toBe('no-pictures');
    expect(refusal(there, { type: 'replaceSource', sourceId: 'skiff-b', byId: 'recorder' })).toBeNull();
  });

  test('has no rate to be read at', () => {
    const reading = { rate: rate(25), pictures: 'once' as const, from: 'typed' as const, sound: 'along' as const };
    expect(refusal(project, { type: 'readAt', readings: [{ sourceId: 'recorder', reading }], uses: 'move' })).toBe('no-rate');
  });
});
