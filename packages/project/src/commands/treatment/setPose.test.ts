import { readOtio, writeOtio } from '@thawline/core/exchange';
import { PLAIN_POSE } from '@thawline/core/picture';
import { rate } from '@thawline/core/time';
import { base, madeSource, newId, place, run } from '../../document/project.fixture.js';
import { clipsFor, fromEdit, lossesOf, noTiming, type Project, type Timeline, timelineAsSource, toEdit } from '../../index.js';

const timelineOf = (p: Project): Timeline => p.timelines[0] as Timeline;
const placed = run(base, { type: 'addSources', sources: [madeSource('floe', rate(25), 100)] });
const shown = run(placed, place(placed, 'floe', 0));
const clipIds = timelineOf(shown)
  .clips.filter((c) => c.laneId === 'p1')
  .map((c) => c.id);
const laid = (p: Project, pose: object | null): Project =>
  run(p, { type: 'setPose', timelineId: timelineOf(p).id, clipIds, pose } as never);
const poseIn = (p: Project) => timelineOf(p).clips.find((c) => clipIds.includes(c.id))?.pose;

test('what is said is set, all else stays; nothing done is no pose at all', () => {
  const one = laid(shown, { x: 0.25, crop: { left: 0.1 } });
  expect(poseIn(one)).toEqual({ ...PLAIN_POSE, x: 0.25, crop: { ...PLAIN_POSE.crop, left: 0.1 } });
  const two = laid(one, { turn: 90, crop: { top: 0.2 } });
  expect(poseIn(two)).toMatchObject({ x: 0.25, turn: 90, crop: { left: 0.1, top: 0.2 } });
  expect(laid(two, null)).toEqual(shown);
  // An anchor alone does nothing.
  expect(laid(shown, { anchorX: 0.2 })).toEqual(shown);
});

test('something of the picture has to be left', () => {
  const cut = laid(shown, { crop: { left: 0.6 } });
  expect(() => laid(cut, { crop: { right: 0.4 } })).toThrow('nothing-left');
});

test('OpenTimelineIO gives a pose back, a list says before that it does not', () => {
  const one = laid(shown, { turn: 12.5, scaleX: 0.5, y: -0.1 });
  const text = writeOtio(toEdit(one, timelineOf(one), { known: noTiming, urlOf: () => null }));
  const { edits } = readOtio(text);
  const find = (m: { name: string }) => one.sources.find((s) => s.name === m.name) ?? null;
  const opened = edits[0] && fromEdit(edits[0], { sources: one.sources, newId, find });
  expect(opened?.timelines[0]?.clips.find((c) => c.pose)?.pose).toEqual(poseIn(one));
  expect(lossesOf(one, timelineOf(one), 'edl')).toContain('1 clip is laid by hand. That is left out.');
  expect(lossesOf(one, timelineOf(one), 'otio')).toContain('1 clip is laid by hand. Only Thawline reads that back.');
});

test('a placed timeline that is laid by hand is not unpacked: its clips could not lie so, each by itself', () => {
  const outer = run(shown, {
    type: 'addTimeline',
    timeline: { id: 'o', name: 'Outer', rate: rate(25), width: 640, height: 360 },
  } as never);
  const timeline = outer.timelines[1] as Timeline;
  const source = timelineAsSource(outer, timelineOf(outer));
  const clips = clipsFor({ timeline, source, fit: 'nearest', newId }, noTiming);
  const nested = run(outer, { type: 'placeClips', timelineId: 'o', clips } as never);
  const clipId = nested.timelines[1]?.clips[0]?.id ?? '';
  const unpack = { type: 'unpackClip', timelineId: 'o', clipId, seed: 'u' } as never;
  expect(run(nested, unpack).timelines[1]?.clips.map((c) => c.sourceId)).toEqual(['floe']);
  const posed = run(nested, { type: 'setPose', timelineId: 'o', clipIds: [clipId], pose: { scaleX: 0.5 } } as never);
  expect(() => run(posed, unpack)).toThrow('laid-by-hand');
});
