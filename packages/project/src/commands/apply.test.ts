import { rate } from '@thawline/core/time';
import { base, madeSequence, madeSource, newId, place, run } from '../document/project.fixture.js';
import {
  apply,
  applyDifference,
  type Command,
  clipsFor,
  commandSchema,
  describe as describeCommand,
  noTiming,
  type Project,
  type Source,
  segmentsOf,
  shownAt,
  type Timeline,
  tallyFrames,
} from '../index.js';

function refusal(project: Project, command: Command): string {
  const applied = apply(project, command);
  return applied.ok ? 'applied' : applied.code;
}

describe('laws', () => {
  test('every command is taken back exactly, and done again exactly', () => {
    const placed = run(base, place(base, 'pan'));
    const [picture] = placed.timelines[0]?.clips ?? [];
    if (!picture) throw new Error('no clip');
    const commands: Command[] = [
      { type: 'renameProject', name: 'Other' },
      { type: 'removeSources', sourceIds: ['floes'], withUses: false },
      { type: 'removeSources', sourceIds: ['pan', 'talk'], withUses: true },
      { type: 'setClaim', sourceIds: ['pan'], claimed: rate(600) },
      { type: 'renewSource', source: { ...madeSource('pan', rate(25), 20, true), mediaId: 'other' } },
      {
        type: 'addTimeline',
        timeline: { id: 'u', name: 'Second', rate: rate(24), width: 1280, height: 720, startFrame: 0, dropFrame: false },
      },
      { type: 'renameTimeline', timelineId: 't', name: 'Renamed' },
      { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 1920, height: 1080 },
      { type: 'moveClips', timelineId: 't', clipIds: [picture.id], byFrames: 30, byLanes: 1 },
      { type: 'trimClip', timelineId: 't', clipId: picture.id, start: 10, end: 90 },
      { type: 'setFit', timelineId: 't', clipIds: [picture.id], fit: 'pictures' },
      { type: 'removeClips', timelineId: 't', clipIds: [picture.id] },
      { type: 'removeTimeline', timelineId: 't' },
      { type: 'duplicateTimeline', timelineId: 't', newId: 'd', name: 'Again' },
      { type: 'carryTimeline', timelineId: 't', newId: 'c', name: 'Carried', rate: rate(24) },
      { type: 'setRange', timelineId: 't', range: { from: 3, to: 9 } },
      { type: 'setLanes', timelineId: 't', lanes: [...(placed.timelines[0]?.lanes ?? [])].reverse() },
      { type: 'openEdit', file: 'a.otio', sources: [madeSource('new', rate(25), 9)], timelines: [] },
      { type: 'setFraming', timelineId: 't', clipIds: [picture.id], framing: 'fill' },
      { type: 'slipClips', timelineId: 't', clipIds: [picture.id], byPictures: 0 },
      { type: 'splitClips', timelineId: 't', clipIds: [], frame: picture.start + 5, seed: 's' },
      { type: 'linkClips', timelineId: 't', clipIds: [picture.id], link: null },
      { type: 'replaceSource', sourceId: 'pan', byId: 'talk' },
      place(placed, 'talk', 300),
    ];
    const before = JSON.stringify(placed);
    for (const command of commands) {
      const applied = apply(placed, commandSchema.parse(command));
      if (!applied.ok) throw new Error(`${command.type}: ${applied.code}`);
      expect(applyDifference(applied.project, applied.difference.backward)).toEqual(placed);
      expect(applyDifference(placed, applied.difference.forward)).toEqual(applied.project);
      expect(describeCommand(command, placed)).not.toBe('');
    }
    expect(JSON.stringify(placed)).toBe(before);
  });

  test('trimming a head keeps every frame on the picture it had', () => {
    const placed = run(base, place(base, 'pan'));
    const clip = placed.timelines[0]?.clips.find((c) => c.laneId === 'p1');
    if (!clip) throw new Error('no clip');
    const trimmed = run(placed, { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 23, end: 150 });
    for (let frame = 23; frame < 150; frame++) {
      expect(pictureAt(trimmed, frame)).toBe(pictureAt(placed, frame));
    }
    const pulled = run(trimmed, { type: 'trimClip', timelineId: 't', clipId: clip.id, start: 0, end: 200 });
    for (let frame = 0; frame < 200; frame++) expect(pictureAt(pulled, frame)).toBe(pictureAt(placed, frame));
  });
});

function pictureAt(project: Project, frame: number): number | undefined {
  const timeline = project.timelines[0];
  return timeline && shownAt(project, timeline, frame, noTiming)?.picture;
}

describe('placing', () => {
  test('a whole source comes with its sound, linked, in real time', () => {
    const clips = run(base, place(base, 'pan')).timelines[0]?.clips ?? [];
    expect(clips.map((c) => [c.laneId, c.start, c.length])).toEqual([
      ['p1', 0, 200],
      ['s1', 0, 200],
    ]);
    expect(clips[0]?.link).toBe(clips[1]?.link);
  });

  test('a second one goes behind the first, and a taken place to the next free one', () => {
    const one = run(base, place(base, 'pan'));
    const two = run(one, place(one, 'talk'));
    expect(two.timelines[0]?.clips[2]?.start).toBe(200);
    const three = run(two, place(two, 'floes', 50));
    expect(three.timelines[0]?.clips[4]?.start).toBe(600);
  });

  test('a frozen picture is placed for as long as a still, its sound for as long as it is', () => {
    const timeline = base.timelines[0] as Timeline;
    const frozen = (name: string) =>
      clipsFor({ timeline, source: base.sources.find((s) => s.id === name) as Source, fit: 'freeze', newId }, noTiming);
    expect(frozen('floes').map((c) => [c.laneId, c.length, c.fit])).toEqual([['p1', 125, 'freeze']]);
  });

  test('linked sound moves and is trimmed with its picture', () => {
    const placed = run(base, place(base, 'pan'));
    const id = placed.timelines[0]?.clips[0]?.id ?? '';
    const moved = run(
      placed,
      { type: 'moveClips', timelineId: 't', clipIds: [id], byFrames: 7, byLanes: 0 },
      { type: 'trimClip', timelineId: 't', clipId: id, start: 10, end: 60 },
    );
    expect(moved.timelines[0]?.clips.map((c) => [c.start, c.length, c.headTrim])).toEqual([
      [10, 50, 3],
      [10, 50, 3],
    ]);
  });
});

describe('refusals change nothing', () => {
  const placed = run(base, place(base, 'pan'));
  const both = run(placed, place(placed, 'talk'));
  const [first, , second] = both.timelines[0]?.clips ?? [];
  test.each<[string, Command]>([
    ['overlap', { type: 'moveClips', timelineId: 't', clipIds: [second?.id ?? ''], byFrames: -1, byLanes: 0 }],
    ['before-start', { type: 'moveClips', timelineId: 't', clipIds: [first?.id ?? ''], byFrames: -1, byLanes: 0 }],
    ['no-lane-there', { type: 'moveClips', timelineId: 't', clipIds: [first?.id ?? ''], byFrames: 0, byLanes: 4 }],
    ['past-source', { type: 'trimClip', timelineId: 't', clipId: second?.id ?? '', start: 200, end: 601 }],
    ['past-source', { type: 'trimClip', timelineId: 't', clipId: second?.id ?? '', start: 199, end: 300 }],
    ['source-in-use', { type: 'removeSources', sourceIds: ['pan'], withUses: false }],
    ['timeline-has-clips', { type: 'setTimelineFormat', timelineId: 't', rate: rate(24), width: 640, height: 360 }],
    ['bad-size', { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 12, height: 360 }],
    ['unknown-clip', { type: 'setFit', timelineId: 't', clipIds: ['nothing'], fit: 'blend' }],
    ['unknown-timeline', { type: 'removeTimeline', timelineId: 'nothing' }],
  ])('%s', (code, command) => {
    expect(refusal(both, command)).toBe(code);
  });
});

test('no clip runs longer than its step map can be, however slow it is made', () => {
  const long = run(base, { type: 'addSources', sources: [madeSource('long', rate(25), 1_000_000)] });
  const placed = run(long, place(long, 'long'));
  const slow = (den: number): Extract<Command, { type: 'retimeClip' }> => ({
    type: 'retimeClip',
    timelineId: 't',
    clipId: placed.timelines[0]?.clips[0]?.id ?? '',
    speed: { num: 1, den },
    backward: false,
    follow: 'move',
  });
  expect(run(placed, slow(10)).timelines[0]?.clips[0]?.length).toBe(10_000_000);
  expect(apply(placed, slow(11))).toEqual({
    ok: false,
    code: 'too-long',
    facts: { clip: 'long', frames: 11_000_000, most: 10_000_000 },
  });
  // One that was longer before there was a bound does not stand in the way of the rest.
  const older = structuredClone(placed);
  const [clip] = older.timelines[0]?.clips ?? [];
  if (clip) Object.assign(clip, { fit: 'freeze', length: 50_000_000 });
  const renamed = run(older, { type: 'renameTimeline', timelineId: 't', name: 'Goes on' });
  expect(renamed.timelines[0]?.name).toBe('Goes on');
  // Nor does it hide another one.
  const both = run(older, place(older, 'long', 60_000_000));
  const second = both.timelines[0]?.clips.at(-1)?.id ?? '';
  expect(refusal(both, { ...slow(11), clipId: second })).toBe('too-long');
});

describe('what a timeline shows', () => {
  test('the topmost picture wins, gaps are black', () => {
    const one = run(base, place(base, 'talk', 20));
    const two = run(one, place(one, 'floes', 100, 'p2'));
    const timeline = two.timelines[0];
    if (!timeline) throw new Error('no timeline');
    const seen = segmentsOf(timeline).map((s) => [s.from, s.to, s.clip?.sourceId ?? 'black']);
    expect(seen).toEqual([
      [0, 20, 'black'],
      [20, 100, 'talk'],
      [100, 300, 'floes'],
      [300, 420, 'talk'],
    ]);
    expect(tallyFrames(two, timeline, noTiming)).toMatchObject({ frames: 420, black: 20, real: 400, held: 0, hitches: [] });
  });

  test('keep pictures makes 29.97 in 25 a fifth longer when there is room', () => {
    const placed = run(base, place(base, 'pan'));
    const id = placed.timelines[0]?.clips[0]?.id ?? '';
    const kept = run(placed, { type: 'setFit', timelineId: 't', clipIds: [id], fit: 'pictures' });
    expect(kept.timelines[0]?.clips.map((c) => c.length)).toEqual([240, 240]);
    const back = run(kept, { type: 'setFit', timelineId: 't', clipIds: [id], fit: 'nearest' });
    expect(back.timelines[0]?.clips.map((c) => c.length)).toEqual([200, 200]);
  });
});

test('a renewed source keeps its name, its marks and what a person judged, even as another kind of file', () => {
  const marked = run(
    base,
    { type: 'markPicture', sourceId: 'pan', picture: 3, note: 'calving' },
    { type: 'judgePicture', sourceId: 'pan', picture: 4, as: 'held' },
  );
  const now = { ...madeSequence('pan', rate(12), 90), name: 'another name' };
  const [source] = run(marked, { type: 'renewSource', source: now }).sources;
  expect(source).toMatchObject({
    kind: 'sequence',
    name: 'pan',
    pictures: 90,
    ...{ marks: [{ picture: 3, note: 'calving' }], judged: [{ picture: 4, as: 'held' }] },
  });
  expect(source).not.toHaveProperty('measured');
});
