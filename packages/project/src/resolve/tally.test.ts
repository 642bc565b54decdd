import { rate } from '@thawline/core/time';
import { base, madeSource, place, run } from '../document/project.fixture.js';
import { noTiming, type Project, renderedAt, stateAt, tallyFrames } from '../index.js';

/** Slow motion of 100 in 25 by motion, 400 frames; then 29.97 as it is. */
const shot = run(base, { type: 'addSources', sources: [madeSource('icicles', rate(100), 400)] });
const placed = run(shot, place(shot, 'icicles', 0), place(shot, 'pan', 100));
const clip = placed.timelines[0]?.clips.find((c) => c.sourceId === 'icicles');
const slow = run(placed, {
  type: 'retimeClip',
  timelineId: 't',
  clipId: clip?.id ?? '',
  pins: [
    { frame: 0, picture: 0, way: 'even' },
    { frame: 99, picture: 33, way: 'even' },
  ],
  follow: 'keep',
});
const cut = run(slow, { type: 'setFit', timelineId: 't', clipIds: [clip?.id ?? ''], fit: 'motion' });

const tally = (project: Project, at = rate(25), way: 'nearest' | 'blend' | 'motion' = 'nearest') => {
  const timeline = project.timelines[0] as Project['timelines'][number];
  const rendered = renderedAt(project, timeline, { rate: at, way });
  return tallyFrames(rendered.project, rendered.timeline, noTiming, rendered.range);
};

test('at another rate made frames stay made, and each that comes again is held', () => {
  const own = tally(cut);
  expect(own.made).toBeGreaterThan(60);
  const doubled = tally(cut, rate(50));
  expect(doubled).toMatchObject({ frames: 2 * own.frames, made: own.made, real: own.real, held: own.frames + own.held });
  expect(tally(cut, rate(50), 'motion').held).toBeLessThanOrEqual(1);
});

test('hitches of what was placed stay at another rate, and are told by the sources that have them', () => {
  const own = tally(cut);
  expect(own.hitches.length).toBeGreaterThan(5);
  expect(own.hitching).toEqual(['pan']);
  // Each frame twice: as many hitches, at the frame where each comes by.
  const doubled = tally(cut, rate(50));
  expect(doubled.hitches).toEqual(own.hitches.map((n) => n * 2));
  expect(doubled.hitching).toEqual(['pan']);
});

test('a range tells of its own hitches and sources alone', () => {
  const timeline = cut.timelines[0] as Project['timelines'][number];
  expect(tallyFrames(cut, timeline, noTiming, { from: 0, to: 50 })).toMatchObject({ frames: 50, hitches: [], hitching: [] });
  expect(tallyFrames(cut, timeline, noTiming, { from: 100, to: 160 }).hitching).toEqual(['pan']);
});

test('frames of a file that is not there are not real', () => {
  const lost: Project = {
    ...cut,
    sources: cut.sources.map((s) => (s.id === 'pan' ? { ...s, lost: { url: null } } : s)),
  };
  const found = tally(lost);
  expect(found.missing).toBe(found.frames - 100);
  expect(tally(lost, rate(50)).missing).toBe(2 * found.missing);
  expect(stateAt(lost, lost.timelines[0] as Project['timelines'][number], { frame: 120, before: 119, known: noTiming })).toBe(
    'missing',
  );
});

test('where two clips meet on the same picture, it is held', () => {
  const project = run(base, place(base, 'talk', 0));
  const split = run(project, { type: 'splitClips', timelineId: 't', clipIds: [], frame: 50, seed: 's' });
  const second = split.timelines[0]?.clips.find((c) => c.start === 50 && c.laneId === 'p1');
  const back: Project = {
    ...split,
    timelines: split.timelines.map((t) => ({
      ...t,
      clips: t.clips.map((c) => (c.id === second?.id ? { ...c, headTrim: c.headTrim - 1 } : c)),
    })),
  };
  expect(tally(split).held).toBe(0);
  expect(tally(back).held).toBe(1);
});

test('clips that are switched off are neither seen nor heard, and come back; what lies under them is', () => {
  const project = run(base, place(base, 'talk', 0));
  const all = tally(project);
  const ids = (project.timelines[0]?.clips ?? []).map((c) => c.id);
  const off = run(project, { type: 'switchClips', timelineId: 't', clipIds: ids.slice(0, 1), off: true });
  // Linked sound goes with its picture.
  expect(off.timelines[0]?.clips.every((c) => c.off)).toBe(true);
  expect(tally(off)).toMatchObject({ frames: all.frames, real: 0, held: 0, made: 0 });
  const on = run(off, { type: 'switchClips', timelineId: 't', clipIds: ids.slice(0, 1), off: false });
  expect(on).toEqual(project);
});
