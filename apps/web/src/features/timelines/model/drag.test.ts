import { rate } from '@thawline/core/time';
import { type Clip, noTiming, plainClip, type Timeline } from '@thawline/project';
import { type DragPlace, dropCommand, snapPlaces } from './drag.js';
import { snapped, WEAVE_ZOOMS, wider } from './scale.js';

const clip = (id: string, start: number, length: number, laneId = 'p1'): Clip => ({
  ...plainClip('s'),
  id,
  laneId,
  start,
  length,
});
const timeline: Timeline = {
  ...{
    id: 't',
    name: 'Cut',
    rate: rate(25),
    width: 64,
    height: 36,
    startFrame: 0,
    dropFrame: false,
    range: { from: 40, to: 90 },
  },
  marks: [{ id: 'm', frame: 33, length: 0, name: '', kept: null }],
  kept: null,
  lanes: ['p1', 'p2'].map((id) => ({ id, kind: 'picture', name: id, kept: null })),
  clips: [clip('a', 0, 30), clip('b', 100, 50), clip('c', 10, 5, 'p2')],
};
const at = (frames: number, more: Partial<DragPlace> = {}): DragPlace => ({
  timeline,
  timings: noTiming,
  chosen: [],
  frames,
  over: timeline.lanes[0],
  snap: { places: snapPlaces(timeline, 70), reach: 4 },
  ...more,
});

test('snaps to cuts, the playhead, in and out, marks and the start', () => {
  expect([...snapPlaces(timeline, 70)].sort((a, b) => a - b)).toEqual([0, 10, 15, 30, 33, 40, 70, 90, 100, 150]);
});

test.each([
  [-3, -3],
  [-28, -30],
  [17, 20],
  [19, 20],
  [20, 20],
])('of edges 50 and 80, a move by %i within reach of 20 or 100 becomes %i', (by, wanted) => {
  expect(snapped([50, 80], by, [20, 100], 4)).toBe(wanted);
});

test('a clip that is let go near another one meets it, and not itself', () => {
  const dragged = { what: 'clip', clip: timeline.clips[1] as Clip } as const;
  expect(dropCommand(dragged, at(-72))).toMatchObject({ type: 'moveClips', byFrames: -70 });
  expect(dropCommand(dragged, at(-2))).toMatchObject({ byFrames: -2 });
  expect(dropCommand(dragged, at(-68, { snap: null }))).toMatchObject({ byFrames: -68 });
  expect(dropCommand(dragged, at(-1000, { snap: null }))).toMatchObject({ byFrames: -100 });
});

test('chosen clips go along, as far as the first of them can, and a lane up when let go there', () => {
  const dragged = { what: 'clip', clip: timeline.clips[1] as Clip } as const;
  const command = dropCommand(dragged, at(-90, { chosen: ['b', 'c'], snap: null, over: timeline.lanes[1] }));
  expect(command).toEqual({ type: 'moveClips', timelineId: 't', clipIds: ['b', 'c'], byFrames: -10, byLanes: 1 });
});

test('an end is trimmed to where it is let go, a frame left at least', () => {
  const clipB = timeline.clips[1] as Clip;
  expect(dropCommand({ what: 'head', clip: clipB }, at(20, { snap: null }))).toMatchObject({ start: 120, end: 150 });
  expect(dropCommand({ what: 'head', clip: clipB }, at(-8))).toMatchObject({ start: 90, end: 150 });
  expect(dropCommand({ what: 'tail', clip: clipB }, at(-500, { snap: null }))).toMatchObject({ start: 100, end: 101 });
});

test('the weave goes size by size from the whole clip to the film strip and stops at the ends', () => {
  const seen = [0];
  for (let i = 0; i < 6; i++) seen.push(wider(seen[i] ?? 0, true));
  expect(seen).toEqual([0, 5, 14, 38, 96, 96, 96]);
  expect(wider(WEAVE_ZOOMS[1], false)).toBe(14);
  expect(wider(0, false)).toBe(0);
});
