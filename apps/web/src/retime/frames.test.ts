import { constantTiming, rate } from '@thawline/core/time';
import {
  type Clip,
  type ClipCadence,
  cadenceOf,
  clipsFor,
  emptyProject,
  noTiming,
  type Project,
  type Source,
} from '@thawline/project';
import {
  cleanestSlow,
  countStates,
  lookAt,
  lookOf,
  momentOf,
  positionsOf,
  quickStretches,
  slowRuns,
  speedAt,
  speedWords,
} from './frames.js';

const source: Source = {
  ...{
    id: 's',
    mediaId: 'm',
    name: 'icicles',
    kind: 'film',
    pictures: 400,
    stored: rate(100),
    measured: { rate: rate(100), ppm: 0 },
  },
  ...{ variable: false, seconds: 4, width: 640, height: 360, codec: 'h264', pixelFormat: 'yuv420p', fields: 'progressive' },
  ...{ sound: null, numbers: null, claimed: null, readAt: null, timecode: null, lost: null },
};

/** The source on a timeline of 25, the clip changed. */
function cadence(change: Partial<Clip>): ClipCadence {
  const timeline = {
    ...{ id: 't', name: 'Cut', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false, range: null },
    lanes: [{ id: 'p1', kind: 'picture' as const, name: 'Picture 1', kept: null }],
    ...{ clips: [] as Clip[], marks: [], kept: null },
  };
  const project: Project = { ...emptyProject('Test'), sources: [source], timelines: [timeline] };
  const [clip] = clipsFor({ timeline, source, fit: 'motion', newId: () => 'c' }, noTiming);
  const found = cadenceOf(project, timeline, { ...(clip as Clip), ...change }, noTiming);
  if (!found) throw new Error('no cadence');
  return found;
}

const slow = cadence({ speed: rate(1, 8), length: 300 });

test("keeping pictures shows each once from the clip's first on, whatever its speed or curve", () => {
  expect([0, 1, 7].map((n) => lookAt(slow, n, 'pictures').picture)).toEqual([0, 1, 7]);
  expect(lookAt(slow, 7, 'pictures')).toMatchObject({ share: 0, way: 'pictures' });
  const curve = [
    { frame: 0, picture: 40, way: 'even' as const },
    { frame: 20, picture: 0, way: 'even' as const },
  ];
  const back = cadence({ curve, length: 20, inPicture: 30 });
  expect([0, 5].map((n) => lookAt(back, n, 'pictures').picture)).toEqual([30, 35]);
  expect(momentOf(source, lookAt(back, 5, 'pictures'))).toBeNull();
});

test('each way looks at the same position in its own manner, and only motion has something to make', () => {
  expect(lookAt(slow, 3, 'nearest')).toMatchObject({ picture: 1, share: 0, way: 'nearest' });
  expect(lookAt(slow, 3, 'blend')).toEqual({ picture: 1, next: 2, share: 32768, way: 'blend', mix: 'stored' });
  expect(momentOf(source, lookAt(slow, 3, 'motion'))).toEqual({ mediaId: 'm', picture: 1, next: 2, share: 32768 });
  expect(momentOf(source, lookAt(slow, 4, 'motion'))).toBeNull();
  expect(momentOf(source, lookAt(slow, 3, 'blend'))).toBeNull();
});

test('the edit is looked at with what was chosen for single frames', () => {
  const chosen = cadence({
    speed: rate(1, 8),
    length: 300,
    instead: [
      { frame: 3, as: 'nearest' },
      { frame: 5, as: 'blend' },
    ],
  });
  expect(lookOf(chosen, 1)).toEqual({ picture: 0, next: 1, share: 32768, way: 'motion', mix: 'stored' });
  expect(lookOf(chosen, 3)).toMatchObject({ picture: 2, share: 0 });
  expect(lookOf(chosen, 5)).toEqual({ picture: 2, next: 3, share: 32768, way: 'blend', mix: 'stored' });
  // Beside it motion is still seen as it would be.
  expect(lookAt(chosen, 3, 'motion')).toEqual({ picture: 1, next: 2, share: 32768, way: 'motion', mix: 'stored' });
  expect(countStates(chosen)).toEqual({ real: 150, held: 1, blended: 1, made: 148 });
});

test('speed is that of the action, and what passes under a picture a frame is told as runs', () => {
  const pins = [
    { frame: 0, picture: 0, way: 'even' as const },
    { frame: 50, picture: 200, way: 'even' as const },
    { frame: 90, picture: 220, way: 'held' as const },
    { frame: 100, picture: 220, way: 'even' as const },
  ];
  const curved = cadence({ curve: pins, length: 140 });
  expect([10, 60, 95, 120].map((n) => speedAt(curved.mapping, source, n))).toEqual([1, 0.125, 0, 1]);
  expect(slowRuns(positionsOf(curved.mapping, 0, 140))).toEqual([{ from: 50, to: 90 }]);
  expect(
    speedAt(
      cadence({ curve: [pins[1], { ...pins[0], frame: 60, picture: 0 }] as never, length: 10, headTrim: 50 }).mapping,
      source,
      2,
    ),
  ).toBe(-5);
});

test('the cleanest slow follows from what a check found to be new, exactly', () => {
  expect(cleanestSlow(source, rate(25), 0)).toEqual(rate(1, 4));
  // Each of 200 pictures stored twice: shot at 50 in truth.
  expect(cleanestSlow(source, rate(25), 200)).toEqual(rate(1, 2));
  expect(cleanestSlow({ ...source, measured: { rate: rate(30000, 1001), ppm: 0 } }, rate(24000, 1001), 0)).toEqual(rate(4, 5));
  expect(constantTiming(rate(100), 400).kind).toBe('constant');
});

test('a pan is too quick where its clip runs fast, and calm where it is slowed', () => {
  // Across in two seconds of 100 pictures each.
  const shifts = Array.from({ length: 400 }, (_, k) => ({ x: k === 0 ? 0 : -1 / 200, y: 0 }));
  const real = quickStretches(cadence({}).mapping, shifts);
  expect(real).toHaveLength(1);
  expect(real[0]?.seconds).toBeCloseTo(2, 6);
  expect(quickStretches(cadence({ speed: rate(1, 4), length: 300 }).mapping, shifts)).toEqual([]);
  const pins = [
    { frame: 0, picture: 0, way: 'even' as const },
    { frame: 50, picture: 200, way: 'even' as const },
    { frame: 150, picture: 250, way: 'even' as const },
  ];
  const curved = quickStretches(cadence({ curve: pins, length: 150 }).mapping, shifts);
  expect(curved).toHaveLength(1);
  expect(Math.abs((curved[0]?.to ?? 0) - 50)).toBeLessThanOrEqual(4);
});

test('speeds are written as they are typed', () => {
  expect([0.25, 1, 1 / 3, -0.5].map(speedWords)).toEqual(['25 %', '100 %', '33.333 %', '-50 %']);
});
