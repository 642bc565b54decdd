import { rate } from '@thawline/core/time';
import { base, place, run } from '../document/project.fixture.js';
import { checkTimeline, holdMarks, noTiming, reusedStretches } from '../index.js';

const timelineOf = (project: typeof base) => project.timelines[0] ?? base.timelines[0];
const check = (project: typeof base, faults: Record<string, { held: number[]; jumps: number[] }> = {}) => {
  const timeline = timelineOf(project);
  if (!timeline) throw new Error('no timeline');
  return checkTimeline(project, timeline, { known: noTiming, faultsOf: (id) => faults[id] ?? { held: [], jumps: [] } });
};

describe('frames of a timeline', () => {
  test('50 in 25 shows every second picture: each frame new, nothing skipped beyond the usual step', () => {
    const found = check(run(base, place(base, 'floes')));
    expect(found.findings).toEqual([]);
    expect([found.fresh, found.trueRate]).toEqual([200, 25]);
  });

  test('what the rate leaves out is told apart from what the source holds and lacks', () => {
    // 29.97 in 25 skips; pictures 40 and 41 are held in the file, and before 60 some are missing.
    const project = run(base, place(base, 'pan'));
    const found = check(project, { 'm-pan': { held: [40, 41], jumps: [60] } });
    expect(found.frames.rate).toBe(0);
    expect(found.frames.source).toBeGreaterThanOrEqual(1);
    expect(found.frames.skip).toBeGreaterThan(30);
    const [held] = found.findings.filter((f) => f.cause === 'source');
    expect(held?.picture).toBeGreaterThanOrEqual(40);
    expect(held?.picture).toBeLessThanOrEqual(41);
    expect(found.fresh + found.frames.source).toBe(found.range.to - found.range.from);
  });

  test('a slower source is held by the rate: 24 in 25, one frame a second', () => {
    const slow = run(base, {
      type: 'readAt',
      readings: [{ sourceId: 'talk', reading: { rate: rate(24), pictures: 'once', from: 'typed', sound: 'along' } }],
      uses: 'move',
      except: [],
    });
    const found = check(run(slow, place(slow, 'talk')));
    expect(found.frames.rate).toBe(found.findings.length);
    expect(found.frames.rate).toBeGreaterThanOrEqual(16);
    expect(found.trueRate).toBeCloseTo(24, 1);
    expect(found.frames.source + found.frames.skip + found.frames.jump).toBe(0);
  });

  test('a person’s word on a picture counts', () => {
    const project = run(base, place(base, 'talk'), { type: 'judgePicture', sourceId: 'talk', picture: 7, as: 'new' });
    const found = check(project, { 'm-talk': { held: [7, 9], jumps: [] } });
    expect(found.findings.map((f) => [f.from, f.cause])).toEqual([[9, 'source']]);
  });

  test('a run of held pictures is one finding; pictures left out that were held anyway are no loss', () => {
    const each3 = Array.from({ length: 400 }, (_, k) => k).filter((k) => k % 3 !== 0);
    const padded = { 'm-talk': { held: each3, jumps: [] } };
    const found = check(run(base, place(base, 'talk')), padded);
    expect(found.findings[0]).toMatchObject({ from: 1, to: 3, cause: 'source', before: 0, picture: 1 });
    expect(found.trueRate).toBeCloseTo(25 / 3, 1);
  });

  test('a cut within one picture is a hold, a cut elsewhere is none; sources without a check are named', () => {
    const placed = run(base, place(base, 'talk'));
    const clip = timelineOf(placed)?.clips[0];
    if (!clip) throw new Error('nothing placed');
    const timeline = timelineOf(placed);
    if (!timeline) throw new Error('no timeline');
    const cut = (inPicture: number) => ({
      ...placed,
      timelines: [
        {
          ...timeline,
          clips: [
            { ...clip, length: 10 },
            { ...clip, id: 'second', start: 10, length: 10, inPicture },
          ],
        },
      ],
    });
    expect(check(cut(9)).findings.map((f) => [f.from, f.cause])).toEqual([[10, 'cut']]);
    expect(check(cut(100)).findings).toEqual([]);
    expect(check(cut(5)).findings).toEqual([]);
    expect(checkTimeline(placed, timeline, { known: noTiming, faultsOf: () => undefined }).uncheckedIds).toEqual(['talk']);
  });

  test('a timeline within another brings its own findings', () => {
    const inner = run(base, place(base, 'talk'));
    const outer = run(inner, {
      type: 'addTimeline',
      timeline: { id: 'o', name: 'Outer', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false },
    });
    const clip = timelineOf(inner)?.clips[0];
    const lane = outer.timelines[1]?.lanes.find((l) => l.kind === 'picture');
    if (!clip || !lane) throw new Error('nothing placed');
    const nested = {
      ...outer,
      timelines: outer.timelines.map((t) =>
        t.id === 'o' ? { ...t, clips: [{ ...clip, id: 'n', sourceId: 't', laneId: lane.id }] } : t,
      ),
    };
    const [, own] = nested.timelines;
    if (!own) throw new Error('no timeline');
    const found = checkTimeline(nested, own, { known: noTiming, faultsOf: () => ({ held: [30], jumps: [50] }) });
    expect(found.findings.map((f) => [f.from, f.cause])).toEqual([
      [30, 'source'],
      [50, 'jump'],
    ]);
  });
});

test('hold marks go into the edit where held pictures are seen, in one step, and come off again', () => {
  const placed = run(base, place(base, 'talk'));
  const marks = holdMarks(placed, 'talk', noTiming, () => ({ held: [7, 8, 30], jumps: [] }));
  expect(marks.map((m) => [m.timelineId, m.frame, m.length])).toEqual([
    ['t', 7, 2],
    ['t', 30, 1],
  ]);
  const marked = run(placed, { type: 'markFrames', marks });
  expect(timelineOf(marked)?.marks.map((m) => [m.frame, m.length, m.name])).toEqual([
    [7, 2, 'held: talk 7'],
    [30, 1, 'held: talk 30'],
  ]);
  // The same once more changes nothing; a null name takes a mark off.
  expect(timelineOf(run(marked, { type: 'markFrames', marks }))?.marks).toHaveLength(2);
  const off = run(marked, { type: 'markFrames', marks: [{ timelineId: 't', frame: 7, length: 0, name: null }] });
  expect(timelineOf(off)?.marks.map((m) => m.frame)).toEqual([30]);
});

test('stretches shown twice are told with every place that shows them', () => {
  const placed = run(base, place(base, 'talk'));
  const timeline = timelineOf(placed);
  const clip = timeline?.clips.find((c) => timeline.lanes.find((l) => l.id === c.laneId)?.kind === 'picture');
  if (!timeline || !clip) throw new Error('nothing placed');
  expect(reusedStretches(placed, noTiming)).toEqual([]);
  const twice = {
    ...placed,
    timelines: [
      {
        ...timeline,
        clips: [
          { ...clip, length: 100 },
          { ...clip, id: 'second', start: 100, length: 100, inPicture: 60 },
        ],
      },
    ],
  };
  expect(reusedStretches(twice, noTiming)).toEqual([
    {
      sourceId: 'talk',
      from: 60,
      to: 100,
      uses: [
        { timelineId: 't', clipId: clip.id, frame: 60 },
        { timelineId: 't', clipId: 'second', frame: 100 },
      ],
    },
  ]);
});

describe('a timeline in fields', () => {
  const inFields = (name: string) => {
    const format = { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360 } as const;
    return run(base, { ...format, fields: 'top' }, place(base, name));
  };

  test('50 in 25 interlaced shows a new picture in each field', () => {
    const found = check(inFields('floes'));
    expect(found).toMatchObject({ moments: 2, range: { from: 0, to: 400 }, fresh: 400, trueRate: 50, findings: [] });
  });

  test('each picture of 25 fills both fields of its frame', () => {
    const found = check(inFields('talk'));
    expect(found.trueRate).toBe(25);
    expect(found.frames.rate).toBe(400);
    expect(found.findings[0]).toMatchObject({ from: 1, to: 2, cause: 'rate' });
  });

  test('a picture that its source holds is found in second fields, too, and its frame is marked', () => {
    const faults = { 'm-floes': { held: [41, 42, 43], jumps: [] } };
    const project = inFields('floes');
    const found = check(project, faults);
    expect(found.findings).toMatchObject([{ from: 41, to: 44, cause: 'source', picture: 41 }]);
    const marks = holdMarks(project, 'floes', noTiming, (id) => faults[id as keyof typeof faults]);
    expect(marks).toMatchObject([{ timelineId: 't', frame: 20, length: 2 }]);
  });

  test('in and out are its frames', () => {
    const project = run(inFields('floes'), { type: 'setRange', timelineId: 't', range: { from: 10, to: 20 } });
    expect(check(project).range).toEqual({ from: 20, to: 40 });
  });
});
