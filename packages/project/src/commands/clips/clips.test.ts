import { positionAt } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { base, newId, place, run } from '../../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Clip,
  type Command,
  clipEnd,
  clipsFor,
  clipsToPaste,
  copyClips,
  layersAt,
  mappingOf,
  noTiming,
  type Project,
  picturesOfLayers,
  shownAt,
  sourceOf,
  type Timeline,
} from '../../index.js';

const timeline = (project: Project, id = 't'): Timeline => project.timelines.find((t) => t.id === id) as Timeline;
const only = (project: Project, id = 't'): Clip => timeline(project, id).clips[0] as Clip;
const ids = (project: Project) => timeline(project).clips.map((c) => c.id);
const refused = (project: Project, command: Command) => {
  const applied = apply(project, command, noTiming);
  return applied.ok ? null : applied.code;
};
const shows = (project: Project, frame: number, id = 't') => {
  const shown = shownAt(project, timeline(project, id), frame, noTiming);
  return shown && [shown.source.id, shown.picture];
};
const placed = run(base, place(base, 'pan'));
const filled = run(placed, place(placed, 'talk'));

test('a split leaves every frame showing what it showed, also of the sound, and is one step back', () => {
  const command: Command = { type: 'splitClips', timelineId: 't', clipIds: [], frame: 50, seed: 's' };
  const applied = apply(filled, command, noTiming);
  if (!applied.ok) throw new Error(applied.code);
  expect(timeline(applied.project).clips).toHaveLength(6);
  for (let frame = 0; frame < 600; frame += 7) expect(shows(applied.project, frame)).toEqual(shows(filled, frame));
  const right = timeline(applied.project).clips.filter((c) => c.start === 50);
  expect(new Set(right.map((c) => c.link)).size).toBe(1);
  expect(right[0]?.link).not.toBe(only(filled).link);
  expect(applyDifference(applied.project, applied.difference.backward)).toEqual(filled);
});

test('slipping shows later pictures at the same place, and stops at the ends', () => {
  const clip = only(filled);
  const trimmed = run(filled, { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 20, end: 100 });
  const slipped = run(trimmed, { type: 'slipClips', timelineId: 't', clipIds: [clip.id], byPictures: 10 });
  expect(only(slipped)).toMatchObject({ start: 20, length: 80 });
  expect(shows(slipped, 20)).toEqual(['pan', (shows(trimmed, 20)?.[1] as number) + 10]);
  expect(refused(trimmed, { type: 'slipClips', timelineId: 't', clipIds: [clip.id], byPictures: -1 })).toBe('past-source');
  expect(refused(trimmed, { type: 'slipClips', timelineId: 't', clipIds: [clip.id], byPictures: 200 })).toBe('past-source');
});

test('gaps close everywhere at once, or on one lane with what is linked', () => {
  const [pan, , talk] = ids(filled);
  const apart = run(filled, { type: 'moveClips', timelineId: 't', clipIds: [pan ?? '', talk ?? ''], byFrames: 30, byLanes: 0 });
  const wider = run(apart, { type: 'moveClips', timelineId: 't', clipIds: [talk ?? ''], byFrames: 12, byLanes: 0 });
  for (const laneId of [null, 'p1']) {
    const closed = run(wider, { type: 'closeGaps', timelineId: 't', laneId });
    expect(timeline(closed).clips.map((c) => c.start)).toEqual(timeline(filled).clips.map((c) => c.start));
  }
  expect(refused(filled, { type: 'closeGaps', timelineId: 't', laneId: null })).toBe('no-gaps');
});

test('unlinked sound stays when its picture moves; linked again it goes along', () => {
  const [picture, sound] = ids(placed) as [string, string];
  const parted = run(
    placed,
    { type: 'linkClips', timelineId: 't', clipIds: [picture], link: null },
    { type: 'moveClips', timelineId: 't', clipIds: [picture], byFrames: 5, byLanes: 0 },
  );
  expect(timeline(parted).clips.map((c) => c.start)).toEqual([5, 0]);
  const joined = run(
    parted,
    { type: 'linkClips', timelineId: 't', clipIds: [picture, sound], link: 'again' },
    { type: 'moveClips', timelineId: 't', clipIds: [sound], byFrames: 3, byLanes: 0 },
  );
  expect(timeline(joined).clips.map((c) => c.start)).toEqual([8, 3]);
  expect(refused(parted, { type: 'linkClips', timelineId: 't', clipIds: [picture], link: 'x' })).toBe('one-clip');
});

test('copied to another rate, clips run as long and show the same pictures; where it is taken they go on', () => {
  const two = run(filled, {
    type: 'addTimeline',
    timeline: { id: 'u', name: 'Other', rate: rate(60000, 1001), width: 640, height: 360, startFrame: 0, dropFrame: true },
  });
  const board = copyClips(timeline(two), [only(two).id]);
  if (!board) throw new Error('nothing copied');
  const clips = clipsToPaste(two, { board, timeline: timeline(two, 'u'), at: 100, newId, known: noTiming });
  const pasted = run(two, { type: 'placeClips', timelineId: 'u', clips });
  // 200 frames of 25 are 8 s: 479.52 frames of 59.94.
  expect(timeline(pasted, 'u').clips.map((c) => [c.start, c.length])).toEqual([
    [100, 480],
    [100, 480],
  ]);
  expect(timeline(pasted, 'u').clips[0]?.link).toBe(timeline(pasted, 'u').clips[1]?.link);
  expect(shows(pasted, 100, 'u')).toEqual(shows(two, 0));
  const again = clipsToPaste(pasted, { board, timeline: timeline(pasted, 'u'), at: 90, newId, known: noTiming });
  expect(again.map((c) => c.start)).toEqual([580, 580]);
  const here = clipsToPaste(two, { board, timeline: timeline(two), at: 0, newId, known: noTiming });
  expect(here[0]).toMatchObject({ length: 200, start: clipEnd(timeline(two).clips[2] as Clip) });
});

test('a clip that uses its source to the end is pasted to any rate, its last picture held for a frame at most', () => {
  const start = run(base, place(base, 'talk'));
  const talk = only(start);
  const tail = run(start, { type: 'trimClip', timelineId: 't', clipId: talk.id, start: 120, end: 400 });
  const board = copyClips(timeline(tail), [talk.id]);
  if (!board) throw new Error('nothing copied');
  for (const to of [rate(24), rate(24000, 1001), rate(30000, 1001), rate(48), rate(60), rate(12)]) {
    const shape = { id: 'u', name: 'Other', rate: to, width: 640, height: 360 };
    const two = run(tail, { type: 'addTimeline', timeline: shape });
    const clips = clipsToPaste(two, { board, timeline: timeline(two, 'u'), at: 0, newId, known: noTiming });
    const pasted = run(two, { type: 'placeClips', timelineId: 'u', clips });
    expect(shows(pasted, 0, 'u')).toEqual(['talk', 120]);
    const [, last] = shows(pasted, only(pasted, 'u').length - 1, 'u') ?? [];
    expect(Number(last)).toBeGreaterThanOrEqual(399 - Math.ceil((25 * to.den) / to.num));
  }
});

describe('a timeline within a timeline', () => {
  const outer = run(filled, {
    type: 'addTimeline',
    timeline: { id: 'o', name: 'Outer', rate: rate(24), width: 640, height: 360, startFrame: 0, dropFrame: false },
  });
  const source = sourceOf(outer, 't');
  if (!source) throw new Error('no source');
  const nested = run(outer, {
    type: 'placeClips',
    timelineId: 'o',
    clips: clipsFor({ timeline: timeline(outer, 'o'), source, fit: 'nearest', start: 10, newId }, noTiming),
  });

  test('its frames are pictures at its own rate', () => {
    expect(source).toMatchObject({ kind: 'timeline', pictures: 600, sound: { seconds: 24 } });
    expect(timeline(nested, 'o').clips.map((c) => [c.start, c.length])).toEqual([
      [10, 576],
      [10, 576],
    ]);
    const layers = picturesOfLayers(layersAt(nested, timeline(nested, 'o'), 10 + 240, noTiming));
    // Frame 240 of 24 is frame 250 of 25, which is picture 50 of the talk.
    expect(layers.map((l) => [l.source?.id, l.picture])).toEqual([['talk', 50]]);
  });

  test('it grows with its edit, and cannot stand in itself', () => {
    const shorter = run(nested, { type: 'removeClips', timelineId: 't', clipIds: [timeline(nested).clips[2]?.id ?? ''] });
    expect(sourceOf(shorter, 't')?.pictures).toBe(200);
    const own = clipsFor({ timeline: timeline(nested), source: sourceOf(nested, 'o') as never, fit: 'nearest', newId }, noTiming);
    expect(refused(nested, { type: 'placeClips', timelineId: 't', clips: own })).toBe('within-itself');
    expect(refused(nested, { type: 'removeTimeline', timelineId: 't' })).toBe('timeline-in-use');
  });

  test('unpacked, its clips lie where they were seen', () => {
    const clip = timeline(nested, 'o').clips[0] as Clip;
    const cut = run(nested, { type: 'trimClip', timelineId: 'o', clipId: clip.id, start: 58, end: 400 });
    const unpacked = run(cut, { type: 'unpackClip', timelineId: 'o', clipId: clip.id, seed: 'un' });
    const clips = timeline(unpacked, 'o').clips;
    expect(clips.map((c) => [c.sourceId, c.start, clipEnd(c)])).toEqual([
      ['pan', 58, 202],
      ['talk', 202, 400],
      ['pan', 58, 202],
      ['talk', 202, 400],
    ]);
    for (const frame of [58, 100, 201, 202, 300, 399]) {
      const [was] = picturesOfLayers(layersAt(cut, timeline(cut, 'o'), frame, noTiming));
      const [is] = picturesOfLayers(layersAt(unpacked, timeline(unpacked, 'o'), frame, noTiming));
      expect(is?.source?.id).toBe(was?.source?.id);
      // Straight from the source instead of by way of 25: at most a picture apart.
      expect(Math.abs((is?.picture ?? 0) - (was?.picture ?? 0))).toBeLessThanOrEqual(1);
    }
    expect(timeline(unpacked, 'o').clips.every((c) => c.length <= 400)).toBe(true);
  });
});

test('lanes come and go, but none with clips', () => {
  const lanes = timeline(filled).lanes;
  const more = run(filled, {
    type: 'setLanes',
    timelineId: 't',
    lanes: [...lanes, { id: 'p9', kind: 'picture', name: 'Titles', kept: null }],
  });
  expect(timeline(more).lanes.map((l) => l.id)).toEqual(['p1', 'p2', 'p9', 's1', 's2']);
  expect(refused(more, { type: 'setLanes', timelineId: 't', lanes: lanes.filter((l) => l.id !== 'p1') })).toBe('lane-in-use');
  expect(timeline(run(more, { type: 'setLanes', timelineId: 't', lanes })).lanes).toEqual(lanes);
});

test('a freeze holds the picture the clip began on, for any length', () => {
  const clip = only(placed);
  const frozen = run(
    placed,
    { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 20, end: 60 },
    { type: 'setFit', timelineId: 't', clipIds: [clip.id], fit: 'freeze' },
    { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 20, end: 2000 },
  );
  const mapping = mappingOf(only(frozen), sourceOf(frozen, 'pan') as never, timeline(frozen), noTiming);
  expect([0, 5, 1900].map((n) => positionAt(mapping, n).picture)).toEqual([23, 23, 23]);
});

test('an empty timeline changes its rate and keeps what its first frame is called', () => {
  const at = (r: ReturnType<typeof rate>): Command => ({
    type: 'setTimelineFormat',
    timelineId: 't',
    rate: r,
    width: 640,
    height: 360,
  });
  const hour = run(base, { ...at(rate(25)), startFrame: 90_000 } as Command);
  expect(timeline(run(hour, at(rate(30000, 1001))))).toMatchObject({ startFrame: 108_000 });
  expect(timeline(run(hour, at(rate(30000, 1001)), at(rate(25))))).toMatchObject({ startFrame: 90_000 });
});

test('drop-frame is refused where it does not exist', () => {
  expect(
    refused(base, { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360, dropFrame: true }),
  ).toBe('no-drop-frame');
});

test('the second half of a split clip is slipped by more pictures than its in point lies in', () => {
  const whole = run(base, place(base, 'talk', 0));
  const split = run(whole, { type: 'splitClips', timelineId: 't', clipIds: [], frame: 100, seed: 's' });
  const right = timeline(split, 't').clips.find((c) => c.start === 100 && c.laneId === 'p1')?.id ?? '';
  const slipped = run(split, { type: 'slipClips', timelineId: 't', clipIds: [right], byPictures: -40 });
  expect(shownAt(slipped, timeline(slipped, 't'), 100, noTiming)?.picture).toBe(60);
  expect(shownAt(slipped, timeline(slipped, 't'), 399, noTiming)?.picture).toBe(359);
  const past = (): unknown => run(split, { type: 'slipClips', timelineId: 't', clipIds: [right], byPictures: -101 });
  expect(past).toThrow('past-source');
});
