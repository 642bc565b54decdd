import { positionAt, stepMap } from '@thawline/core/cadence';
import { type Rate, rate, rateToNumber } from '@thawline/core/time';
import { base, place, run } from '../document/project.fixture.js';
import {
  apply,
  type Clip,
  type Command,
  carryCuts,
  clipEnd,
  mappingOf,
  noTiming,
  type Project,
  reportCarry,
  type Timeline,
} from '../index.js';

const NTSC = rate(30000, 1001);
const FILM = rate(24000, 1001);

const carryTo = (r: Rate, from = 't', newId = `c${r.num}`): Command => ({
  type: 'carryTimeline',
  timelineId: from,
  newId,
  name: 'Carried',
  rate: r,
});
const timeline = (project: Project, id: string): Timeline => project.timelines.find((t) => t.id === id) as Timeline;
const mappingIn = (project: Project, t: Timeline, clip: Clip) =>
  mappingOf(clip, project.sources.find((s) => s.id === clip.sourceId) as never, t, noTiming);
const places = (t: Timeline) => t.clips.map((c) => [c.id, c.start, c.length, c.inPicture, c.headTrim, c.fit, c.speed]);

/** Clips that meet, a gap, a trimmed head, each picture once, a blend. */
const edit = (() => {
  let project = run(base, place(base, 'pan'));
  project = run(project, place(project, 'talk'));
  project = run(project, place(project, 'floes', 620));
  const [pan, , talk, , floes] = timeline(project, 't').clips as Clip[];
  return run(
    project,
    { type: 'trimClip', timelineId: 't', clipId: pan?.id ?? '', start: 7, end: 200 },
    { type: 'splitClips', timelineId: 't', clipIds: [talk?.id ?? ''], frame: 301, seed: 'cut' },
    { type: 'setFit', timelineId: 't', clipIds: [floes?.id ?? ''], fit: 'pictures' },
  );
})();

test('25 to 50 and back is the same edit', () => {
  const there = run(edit, carryTo(rate(50)));
  const back = run(there, carryTo(rate(25), 'c50'));
  expect(timeline(back, 'c25').clips).toEqual(timeline(edit, 't').clips);
  expect(timeline(there, 't')).toBe(timeline(edit, 't'));
});

const pairs: [Rate, Rate][] = [
  [rate(25), rate(30)],
  [rate(24), rate(60000, 1001)],
  [FILM, rate(24)],
  [NTSC, rate(60000, 1001)],
  [rate(25), rate(120)],
];

test.each(pairs)('cuts carried to a higher rate and back lie where they were (%p, %p)', (from, to) => {
  const spans = Array.from({ length: 400 }, (_, i) => ({ start: i * 3 + (i % 7), end: i * 3 + 3 + (i % 7) })).map((s, i) => ({
    ...s,
    start: i === 0 ? 0 : s.start,
  }));
  const there = carryCuts(spans, from, to);
  const back = carryCuts(
    spans.map((s) => ({ start: there.get(s.start) as number, end: there.get(s.end) as number })),
    to,
    from,
  );
  for (const { start, end } of spans) {
    expect(back.get(there.get(start) as number)).toBe(start);
    expect(back.get(there.get(end) as number)).toBe(end);
  }
});

test.each([FILM, rate(24), NTSC, rate(48), rate(50), rate(60000, 1001)])(
  'at %p: what met meets, nothing overlaps or vanishes, a cut moves by half a frame at most',
  (to) => {
    const carried = timeline(run(edit, carryTo(to)), `c${to.num}`);
    const before = timeline(edit, 't');
    before.clips.forEach((clip, i) => {
      const now = carried.clips[i] as Clip;
      expect(now.length).toBeGreaterThanOrEqual(1);
      before.clips.forEach((other, j) => {
        if (clipEnd(clip) === other.start) expect(clipEnd(now)).toBe(carried.clips[j]?.start);
      });
      for (const [a, b] of [
        [clip.start, now.start],
        [clipEnd(clip), clipEnd(now)],
      ] as const)
        expect(Math.abs(a / 25 - b / rateToNumber(to))).toBeLessThanOrEqual(0.5 / rateToNumber(to) + 1e-9);
    });
    const report = reportCarry(edit, before, to, noTiming);
    expect(report.furthestMs).toBeLessThanOrEqual(report.halfFrameMs + 1e-6);
    expect(report.pushed).toBe(0);
  },
);

test.each([FILM, rate(24), rate(50), rate(60000, 1001)])(
  'at %p every clip begins on the same picture and stays in real time',
  (to) => {
    const project = run(edit, carryTo(to));
    const carried = timeline(project, `c${to.num}`);
    timeline(edit, 't').clips.forEach((clip, i) => {
      const was = mappingIn(edit, timeline(edit, 't'), clip);
      const is = mappingIn(project, carried, carried.clips[i] as Clip);
      expect(positionAt(is, 0).picture).toBe(positionAt(was, 0).picture);
      // Half way through, in time, both show the same picture but for one frame's worth.
      const half = Math.floor(clip.length / 2);
      const there = Math.round((half * rateToNumber(to)) / 25);
      const apart = Math.abs(positionAt(is, there).picture - positionAt(was, half).picture);
      expect(apart).toBeLessThanOrEqual(Math.ceil(rateToNumber(rate(50)) / Math.min(25, rateToNumber(to))) + 1);
    });
  },
);

test('pieces of under a frame keep one, and what follows makes room', () => {
  const spans = Array.from({ length: 6 }, (_, i) => ({ start: i, end: i + 1 }));
  const cuts = carryCuts(spans, rate(120), rate(24));
  expect(spans.map((s) => [cuts.get(s.start), cuts.get(s.end)])).toEqual([
    [0, 1],
    [1, 2],
    [2, 3],
    [3, 4],
    [4, 5],
    [5, 6],
  ]);
});

test('the report names hitches before and after, and what has too few pictures', () => {
  const report = reportCarry(edit, timeline(edit, 't'), rate(60000, 1001), noTiming);
  const pan = report.clips.find((c) => c.source.id === 'pan');
  expect(pan?.hitchesBefore).toBe(stepMap(mappingIn(edit, timeline(edit, 't'), pan?.before as Clip)).hitches.length);
  expect(pan?.hitches).toBe(0);
  expect(report.clips.every((c) => c.missing <= 1)).toBe(true);
  expect(report.cuts[0]).toMatchObject({ frame: 7, to: 17 });
});

test('timecode, in and out and marks go along', () => {
  const project = run(
    edit,
    { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360, startFrame: 90_000 + 12 },
    { type: 'setRange', timelineId: 't', range: { from: 50, to: 75 } },
    carryTo(NTSC),
  );
  expect(timeline(project, 'c30000')).toMatchObject({ startFrame: 108_000 + 14, range: { from: 60, to: 90 }, dropFrame: false });
});

test('a timeline with clips is carried, never re-timed in place', () => {
  const applied = apply(edit, { type: 'setTimelineFormat', timelineId: 't', rate: rate(24), width: 640, height: 360 }, noTiming);
  expect(applied).toMatchObject({ ok: false, code: 'timeline-has-clips' });
});

test('a duplicate is the same under another name', () => {
  const project = run(edit, { type: 'duplicateTimeline', timelineId: 't', newId: 'd', name: 'Again' });
  expect(project.timelines.map((t) => t.id)).toEqual(['t', 'd']);
  expect(places(timeline(project, 'd'))).toEqual(places(timeline(project, 't')));
});
