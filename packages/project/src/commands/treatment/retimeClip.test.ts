import { frameState, SHARES } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { base, madeSource, newId, place, run } from '../../document/project.fixture.js';
import {
  apply,
  type Clip,
  type CommandInput,
  cadenceOf,
  carriedTimeline,
  commandSchema,
  curveOf,
  frozen,
  lengthSpeed,
  mappingOf,
  noTiming,
  type Project,
  reversed,
  shownAt,
  slowed,
  tallyFrames,
  describe as told,
} from '../../index.js';

/** Shot at 100, 800 pictures, with sound; behind it something else. */
const project = run(
  run(base, { type: 'addSources', sources: [madeSource('icicles', rate(100), 800, true)] }),
  place(run(base, { type: 'addSources', sources: [madeSource('icicles', rate(100), 800, true)] }), 'icicles', 0, 'p1'),
  place(base, 'floes', 200, 'p1'),
);
const clipOf = (p: Project, name = 'icicles', lane = 'p1'): Clip =>
  p.timelines[0]?.clips.find((c) => c.sourceId === name && c.laneId === lane) as Clip;
const timelineOf = (p: Project) => p.timelines[0] as Project['timelines'][number];
const sourceOf = (p: Project, name = 'icicles') => p.sources.find((s) => s.id === name) as Project['sources'][number];
const mapping = (p: Project) => mappingOf(clipOf(p), sourceOf(p), timelineOf(p), noTiming);
const retime = (p: Project, more: object): Project =>
  run(p, { type: 'retimeClip', timelineId: 't', clipId: clipOf(p).id, follow: 'move', ...more } as CommandInput);
const refusal = (p: Project, more: object) => {
  const command = { type: 'retimeClip', timelineId: 't', clipId: clipOf(p).id, follow: 'move', ...more };
  const applied = apply(p, commandSchema.parse(command));
  return applied.ok ? null : [applied.code, applied.facts.fault];
};
const pictureAt = (p: Project, frame: number): number => {
  const shown = shownAt(p, timelineOf(p), frame, noTiming);
  return shown ? shown.picture + shown.nextShare / SHARES : Number.NaN;
};

describe('one speed', () => {
  test('a quarter shows every picture once, and what follows moves', () => {
    const slow = retime(project, { speed: rate(1, 4) });
    expect(clipOf(slow)).toMatchObject({ start: 0, length: 800, speed: rate(1, 4), fit: 'nearest' });
    expect([0, 1, 799].map((n) => pictureAt(slow, n))).toEqual([0, 1, 799]);
    expect(clipOf(slow, 'floes').start).toBe(200 + 600);
    // Its sound runs with it.
    expect(clipOf(slow, 'icicles', 's1').length).toBe(800);
    expect(tallyFrames(slow, timelineOf(slow), noTiming).hitches).toEqual([]);
  });

  test('kept in place it shows fewer pictures', () => {
    const slow = retime(project, { speed: rate(1, 4), follow: 'keep' });
    expect(clipOf(slow).length).toBe(200);
    expect(clipOf(slow, 'floes').start).toBe(200);
    expect(pictureAt(slow, 199)).toBe(199);
  });

  test('speed is that of the action: a source read at 25 already runs at a quarter', () => {
    const read = run(project, {
      type: 'readAt',
      readings: [{ sourceId: 'icicles', reading: { rate: rate(25), pictures: 'once', from: 'typed', sound: 'along' } }],
      uses: 'move',
    });
    const same = retime(read, { speed: rate(1, 4) });
    expect(clipOf(same).speed).toEqual(rate(1));
    expect(clipOf(retime(same, { speed: rate(1) })).length).toBe(200);
  });

  test('a length typed gives the exact speed, and that gives the length', () => {
    for (const frames of [3, 7, 333, 1000, 1999]) {
      const speed = lengthSpeed(clipOf(project), sourceOf(project), { timeline: timelineOf(project), frames, known: noTiming });
      if (!speed) throw new Error('no speed');
      expect(clipOf(retime(project, { speed })).length).toBe(frames);
    }
  });

  test('what is no length gives no speed, and a speed that no clip holds is refused', () => {
    for (const frames of [0, -3, 2.5, Number.NaN, Number.POSITIVE_INFINITY, 1e15])
      expect(
        lengthSpeed(clipOf(project), sourceOf(project), { timeline: timelineOf(project), frames, known: noTiming }),
      ).toBeNull();
    const fast = run(project, {
      type: 'readAt',
      readings: [{ sourceId: 'icicles', reading: { rate: rate(400), pictures: 'once', from: 'typed', sound: 'along' } }],
      uses: 'move',
    });
    expect(refusal(fast, { speed: rate(1, 100) })).toEqual(['bad-speed', undefined]);
  });

  test('a cut clip keeps its first and its last picture, at any speed and back', () => {
    const cut = run(project, { type: 'trimClip', timelineId: 't', clipId: clipOf(project).id, start: 50, end: 100 });
    expect([pictureAt(cut, 50), pictureAt(cut, 99)]).toEqual([200, 396]);
    const slow = retime(cut, { speed: rate(1, 8) });
    expect(clipOf(slow).start).toBe(50);
    expect([pictureAt(slow, 50), pictureAt(slow, 50 + clipOf(slow).length - 1)]).toEqual([200, 396]);
  });

  test('out of bounds it is refused by the command itself', () => {
    for (const speed of [rate(1, 101), rate(101)])
      expect(commandSchema.safeParse({ type: 'retimeClip', timelineId: 't', clipId: 'x', follow: 'move', speed }).success).toBe(
        false,
      );
  });
});

describe('a curve', () => {
  const pins = [
    { frame: 0, picture: 0, way: 'even' as const },
    { frame: 100, picture: 400, way: 'eased' as const },
    { frame: 300, picture: 500, way: 'even' as const },
  ];

  test('says which picture a frame shows; the clip ends on the picture it ended on, and what follows moves', () => {
    const curved = retime(run(project, { type: 'setFit', timelineId: 't', clipIds: [clipOf(project).id], fit: 'motion' }), {
      pins,
    });
    expect([0, 50, 100, 200, 300].map((n) => pictureAt(curved, n))).toEqual([0, 200, 400, 450, 500]);
    expect(clipOf(curved).length).toBe(375);
    expect(pictureAt(curved, 374)).toBe(796);
    expect(clipOf(curved, 'floes').start).toBe(375);
    const tally = tallyFrames(curved, timelineOf(curved), noTiming);
    expect(tally).toMatchObject({ frames: 575, hitches: [], blended: 0 });
    // Only the slow stretch needs pictures that nobody shot.
    expect(tally.made).toBeGreaterThan(150);
    expect(tally.made).toBeLessThan(200);
    expect(tally.real + tally.held + tally.made).toBe(575);
  });

  test('is taken off again, and goes with another fit that needs none', () => {
    const curved = retime(project, { pins });
    const off = retime(curved, { pins: null });
    expect(clipOf(off)).toMatchObject({ curve: null, inPicture: 0 });
    const once = run(curved, { type: 'setFit', timelineId: 't', clipIds: [clipOf(curved).id], fit: 'freeze' });
    expect(clipOf(once).curve).toBeNull();
  });

  test('pins that make none are refused, with what is wrong', () => {
    expect(refusal(project, { pins: [pins[0], { ...pins[1], frame: 0 }] })).toEqual(['bad-curve', 'two-on-a-frame']);
    expect(refusal(project, { pins: [pins[0], { ...pins[1], picture: 800 }] })).toEqual(['bad-curve', 'past-source']);
    const turning = [{ ...pins[0], way: 'eased', handles: [0.2, 1.6, 0.8, -0.6] }, pins[1]];
    expect(refusal(project, { pins: turning })).toEqual(['bad-curve', 'bad-handles']);
    expect(refusal(project, { pins: turning, backward: true })).toBeNull();
    const far = { type: 'retimeClip', timelineId: 't', clipId: 'x', follow: 'move', pins: [pins[0], { frame: 1e8, picture: 1 }] };
    expect(commandSchema.safeParse(far).success).toBe(false);
  });

  test('split, the two halves show what the whole showed', () => {
    const curved = retime(project, { pins });
    const split = run(curved, { type: 'splitClips', timelineId: 't', clipIds: [clipOf(curved).id], frame: 170, seed: 'x' });
    for (let frame = 0; frame < 375; frame += 5) expect(pictureAt(split, frame)).toBe(pictureAt(curved, frame));
  });

  test('slipped it shows other pictures at the same frames, never past the source', () => {
    const curved = retime(project, { pins });
    const slipped = run(curved, { type: 'slipClips', timelineId: 't', clipIds: [clipOf(curved).id], byPictures: 3 });
    for (const frame of [10, 150, 280]) expect(pictureAt(slipped, frame)).toBe(pictureAt(curved, frame) + 3);
    expect(apply(curved, { type: 'slipClips', timelineId: 't', clipIds: [clipOf(curved).id], byPictures: 400 }).ok).toBe(false);
  });

  test('carried to another rate its pins keep their moments', () => {
    const curved = retime(project, { pins });
    const carried = carriedTimeline(curved, timelineOf(curved), { id: 'n', name: 'At 50', rate: rate(50) }, noTiming);
    const clip = carried.clips.find((c) => c.id === clipOf(curved).id);
    expect(clip?.curve?.map((p) => [p.frame, p.picture])).toEqual([
      [0, 0],
      [200, 400],
      [600, 500],
    ]);
  });

  test('of an edit that was read otherwise stays on its pictures', () => {
    const curved = retime(project, { pins });
    const read = run(curved, {
      type: 'readAt',
      readings: [{ sourceId: 'icicles', reading: { rate: rate(50), pictures: 'once', from: 'typed', sound: 'along' } }],
      uses: 'move',
    });
    for (const frame of [0, 60, 222, 300]) expect(pictureAt(read, frame)).toBe(pictureAt(curved, frame));
  });
});

describe('what a person asks for, as pins', () => {
  test('the other way round it begins on its last picture and ends on its first', () => {
    const back = retime(project, { pins: reversed(mapping(project)) });
    expect(clipOf(back).length).toBe(200);
    expect([pictureAt(back, 0), pictureAt(back, 199)]).toEqual([796, 0]);
    const again = retime(back, { pins: reversed(mapping(back)) });
    expect([pictureAt(again, 0), pictureAt(again, 199)]).toEqual([0, 796]);
  });

  test('a curve turned round is its own mirror, ease and all', () => {
    const eased = retime(project, {
      pins: [
        { frame: 0, picture: 0, way: 'eased', handles: [0.4, 0.1, 0.7, 0.9] },
        { frame: 60, picture: 300, way: 'held' },
        { frame: 80, picture: 300, way: 'even' },
        { frame: 199, picture: 776, way: 'even' },
      ],
      length: 200,
    });
    const back = retime(eased, { pins: reversed(mapping(eased)), length: 200 });
    const blended = (p: Project) => run(p, { type: 'setFit', timelineId: 't', clipIds: [clipOf(p).id], fit: 'blend' });
    for (let n = 0; n < 200; n += 3) expect(pictureAt(blended(back), n)).toBeCloseTo(pictureAt(blended(eased), 199 - n), 1);
  });

  test('a freeze stands for its frames, and the rest follows later', () => {
    const stood = retime(project, { pins: frozen(mapping(project), 40, 25) });
    expect(clipOf(stood).length).toBe(225);
    expect([39, 40, 64, 65, 66].map((n) => pictureAt(stood, n))).toEqual([156, 160, 160, 160, 164]);
    const twice = retime(stood, { pins: frozen(mapping(stood), 20, 10) });
    expect(clipOf(twice).length).toBe(235);
    expect([19, 25, 30, 50, 75].map((n) => pictureAt(twice, n))).toEqual([76, 80, 80, 160, 160]);
  });

  test('slow here is one change, normal on both sides of it', () => {
    const slow = retime(project, {
      pins: slowed(mapping(project), sourceOf(project), { n: 50, speed: 0.25, ramp: 10, slow: 100, known: noTiming }),
    });
    expect([0, 49, 50].map((n) => pictureAt(slow, n))).toEqual([0, 196, 200]);
    expect(pictureAt(slow, 110) - pictureAt(slow, 109)).toBe(1);
    expect(clipOf(slow).length).toBeGreaterThan(270);
    expect(pictureAt(slow, clipOf(slow).length - 1)).toBeGreaterThan(792);
    expect(curveOf(mapping(slow)).length).toBe(4);
  });
});

test('for single frames another way is chosen, stays with its frame, and is left to the fit again', () => {
  const half = retime(run(project, { type: 'setFit', timelineId: 't', clipIds: [clipOf(project).id], fit: 'motion' }), {
    speed: rate(1, 8),
  });
  const choose = (p: Project, frames: number[], as: 'nearest' | 'blend' | null): Project =>
    run(p, { type: 'chooseFrames', timelineId: 't', clipId: clipOf(p).id, frames, as });
  const state = (p: Project, n: number) => {
    const cadence = cadenceOf(p, timelineOf(p), clipOf(p), noTiming);
    return cadence && frameState(cadence.mapping, cadence.map, n);
  };
  expect([1, 2, 3].map((n) => state(half, n))).toEqual(['made', 'real', 'made']);
  const chosen = choose(choose(half, [1], 'nearest'), [3], 'blend');
  expect([1, 2, 3, 5].map((n) => state(chosen, n))).toEqual(['real', 'held', 'blended', 'made']);
  expect(pictureAt(chosen, 1)).toBe(1);
  const trimmed = run(chosen, { type: 'trimClip', timelineId: 't', clipId: clipOf(chosen).id, start: 1, end: 40 });
  expect([0, 2].map((n) => state(trimmed, n))).toEqual(['real', 'blended']);
  expect([1, 3].map((n) => state(choose(chosen, [1, 3], null), n))).toEqual(['made', 'made']);
});

describe('rebuilt with motion', () => {
  /** Of 400 pictures at 50 every third is new. */
  const held = Array.from({ length: 400 }, (_, k) => k).filter((k) => k % 3 !== 0);
  const placed = run(base, place(base, 'floes', 0, 'p1'));
  const rebuilt = run(placed, { type: 'rebuildSource', sourceId: 'floes', held });

  test('clips keep place and length, new pictures their moments; what held is made between its new neighbours', () => {
    const [before, after] = [clipOf(placed, 'floes'), clipOf(rebuilt, 'floes')];
    expect(after).toMatchObject({ start: before.start, length: before.length, fit: 'motion' });
    const shown = (frame: number) => shownAt(rebuilt, timelineOf(rebuilt), frame, noTiming);
    expect(shown(0)).toMatchObject({ picture: 0, nextShare: 0 });
    // Frame 1 is stored picture 2, which holds 0: two thirds of the way from 0 to 3.
    expect(shown(1)).toMatchObject({ picture: 0, next: 3, nextShare: Math.floor((2 / 3) * SHARES) });
    expect(shown(3)).toMatchObject({ picture: 6, nextShare: 0 });
    expect(tallyFrames(rebuilt, timelineOf(rebuilt), noTiming)).toMatchObject({ held: 0, made: 133, real: 67 });
  });

  test('on a curve, too, what lies between is between new pictures', () => {
    const pins = [
      { frame: 0, picture: 0, way: 'even' as const },
      { frame: 120, picture: 60, way: 'even' as const },
    ];
    const curved = run(rebuilt, {
      type: 'retimeClip',
      timelineId: 't',
      clipId: clipOf(rebuilt, 'floes').id,
      pins,
      follow: 'move',
    });
    // Half a picture a frame: frame 5 is 2.5, between 0 and 3.
    expect(shownAt(curved, timelineOf(curved), 5, noTiming)).toMatchObject({
      picture: 0,
      next: 3,
      nextShare: Math.floor((2.5 / 3) * SHARES),
    });
    expect(shownAt(curved, timelineOf(curved), 6, noTiming)).toMatchObject({ picture: 3, nextShare: 0 });
  });

  test('it is one step, and pictures that cannot hold are refused', () => {
    const applied = apply(placed, commandSchema.parse({ type: 'rebuildSource', sourceId: 'floes', held: [3, 2] }));
    expect(applied.ok).toBe(false);
    expect(apply(placed, commandSchema.parse({ type: 'rebuildSource', sourceId: 'floes', held: [400] })).ok).toBe(false);
    expect(told(commandSchema.parse({ type: 'rebuildSource', sourceId: 'floes', held }), placed)).toBe(
      'Rebuilt the 266 held pictures of floes with motion',
    );
  });
});

test('choices and pins go with what they were made for', () => {
  const motion = run(project, { type: 'setFit', timelineId: 't', clipIds: [clipOf(project).id], fit: 'motion' });
  const chosen = run(retime(motion, { speed: rate(1, 8) }), {
    type: 'chooseFrames',
    timelineId: 't',
    clipId: clipOf(project).id,
    frames: [3],
    as: 'nearest',
  });
  const carried = (to: number) => carriedTimeline(chosen, timelineOf(chosen), { id: 'n', name: 'N', rate: rate(to) }, noTiming);
  const choices = (to: number) => carried(to).clips.find((c) => c.id === clipOf(chosen).id)?.instead;
  expect(choices(25)).toHaveLength(1);
  expect(choices(50)).toEqual([]);
  // The same moments of a copy with half the pictures; never past its last one.
  const pins = [
    { frame: 0, picture: 100, way: 'even' as const },
    { frame: 90, picture: 790, way: 'even' as const },
  ];
  const curved = run(retime(project, { pins }), { type: 'addSources', sources: [madeSource('half', rate(50), 390, true)] });
  const replaced = run(curved, { type: 'replaceSource', sourceId: 'icicles', byId: 'half' });
  expect(clipOf(replaced, 'half').curve?.map((p) => p.picture)).toEqual([50, 389]);
  const renewed = run(curved, {
    type: 'renewSource',
    source: { ...madeSource('icicles', rate(100), 800, true), pictures: 500, seconds: 5 },
  });
  expect(clipOf(renewed).curve?.map((p) => p.picture)).toEqual([100, 499]);
});

test('frames of an open shutter are counted as what it averages', () => {
  const open = (p: Project, degrees: number): Project =>
    run(p, { type: 'setShutter', timelineId: 't', clipIds: [clipOf(p).id], degrees });
  const states = (p: Project): string[] => {
    const cadence = cadenceOf(p, timelineOf(p), clipOf(p), noTiming);
    return cadence ? [0, 1, 2].map((n) => frameState(cadence.mapping, cadence.map, n)) : [];
  };
  // Four pictures a frame: two of them are averaged, one alone is that picture.
  expect(states(project)).toEqual(['real', 'real', 'real']);
  expect(states(open(project, 180))).toEqual(['blended', 'blended', 'blended']);
  expect(states(open(project, 90))).toEqual(['real', 'real', 'real']);
  // At an eighth of the speed a frame is half a picture long: nothing to average, unless motion makes moments of it.
  const slow = retime(project, { speed: rate(1, 8) });
  expect(states(open(slow, 90))).toEqual(['real', 'held', 'real']);
  const fit = { type: 'setFit', timelineId: 't', clipIds: [clipOf(slow).id], fit: 'motion' } as CommandInput;
  expect(states(open(run(slow, fit), 90))).toEqual(['made', 'made', 'made']);
});

test('the history says what was done', () => {
  const id = clipOf(project).id;
  const line = (command: CommandInput) => told(commandSchema.parse(command), project);
  const here = { timelineId: 't', clipId: id };
  expect(line({ type: 'retimeClip', ...here, follow: 'move', speed: rate(1, 3) })).toBe('Set icicles to 33.333 %');
  expect(line({ type: 'retimeClip', ...here, follow: 'move', pins: [{ frame: 0, picture: 0, way: 'even' }] })).toBe(
    'Curved the time of icicles',
  );
  expect(line({ type: 'setShutter', timelineId: 't', clipIds: [id], degrees: 180 })).toBe('Set the shutter of icicles to 180°');
  expect(line({ type: 'chooseFrames', ...here, frames: [3, 4], as: 'nearest' })).toBe('Chose nearest for 2 frames of icicles');
  expect(newId()).not.toBe(newId());
});
