import { constantTiming, type Rate, rate, type Timing } from '../time/index.js';
import { EASE, type FrameState, frameContent, frameState, type Mapping, repeats, SHARES, stepMap } from './index.js';

/** Twenty rates: all that are common, and some that nobody chose. */
const RATES: readonly Rate[] = [
  ...[12, 15, 18, 24, 25, 30, 48, 50, 60, 90, 100, 120, 240].map((n) => rate(n)),
  ...[24, 30, 48, 60, 120].map((n) => rate(n * 1000, 1001)),
  rate(2702, 100),
  rate(8_333_333, 1_000_003),
];

const of = (source: Rate, timeline: Rate, fit: Mapping['fit'], more: Partial<Mapping> = {}): Mapping => ({
  timing: constantTiming(source, 100_000),
  timeline,
  fit,
  inPicture: 3,
  headTrim: -2,
  length: 400,
  ...more,
});

const pairs = RATES.flatMap((a) => RATES.map((b) => [a, b] as const));

test('every frame within a 256th of a picture is that picture, on either side, of all pairs of rates', () => {
  for (const [source, timeline] of pairs) {
    const mapping = of(source, timeline, 'motion');
    for (let n = 0; n < mapping.length; n += 7) {
      const product = BigInt(n - 2) * BigInt(source.num) * BigInt(timeline.den);
      const down = BigInt(source.den) * BigInt(timeline.num);
      let whole = product / down;
      if (whole * down > product) whole--;
      const rest = Number(product - whole * down) / Number(down);
      const picture = 3 + Number(whole);
      const part = frameContent(mapping, n).parts[0];
      if (picture < 0 || !part) continue;
      const shown = part.picture + part.nextShare / SHARES - picture;
      const near = rest < 0.99 / 256 ? 0 : rest > 255.01 / 256 ? 1 : rest;
      // Between both, on the border itself, either is right.
      if (Math.abs(shown - near) > 1.1 / 256 || (near !== rest && shown !== near)) throw new Error(`${rest} shows ${shown}`);
    }
  }
});

test('1,900 frames of 24 from 24000/1001 by motion: where a picture is nearly there, it is shown', () => {
  const mapping = of(rate(24000, 1001), rate(24), 'motion', { inPicture: 0, headTrim: 0, length: 1900 });
  const map = stepMap(mapping);
  const made = Array.from({ length: 1900 }, (_, n) => frameState(mapping, map, n)).filter((state) => state === 'made');
  expect(made).toHaveLength(1889);
});

const jittered: Timing = {
  kind: 'variable',
  ticks: Int32Array.from({ length: 500 }, (_, k) => k * 33 + ((k * 7919) % 13) - (k === 0 ? 0 : 6)).sort(),
  end: 500 * 33,
  timeBase: rate(1000),
};
const curve = [
  { frame: 0, picture: 0, way: 'eased', handles: EASE },
  { frame: 90, picture: 50, way: 'held' },
  { frame: 120, picture: 50, way: 'even' },
  { frame: 300, picture: 10, way: 'even' },
] as const;
const fits = ['nearest', 'blend', 'motion', 'pictures', 'freeze'] as const;
const ways: readonly Partial<Mapping>[] = [
  {},
  { curve },
  { shutterDegrees: 180 },
  { shutterDegrees: 360, curve },
  { timing: jittered },
  { timing: jittered, shutterDegrees: 90 },
  { timing: { kind: 'still' } },
  { whole: new Set([5, 6, 7, 90]), mixed: new Set([1, 2, 8]) },
  { whole: new Set([5, 6, 7, 90]), mixed: new Set([1, 2, 8]), shutterDegrees: 200 },
];

test('a frame is counted as what it is made of, whatever the rates, the fit, the curve and the shutter', () => {
  for (const [source, timeline] of pairs.filter((_, i) => i % 5 === 0)) {
    for (const fit of fits)
      for (const way of ways) {
        const mapping = of(source, timeline, fit, { length: 60, ...way });
        const map = stepMap(mapping);
        const still = fit === 'freeze' || mapping.timing.kind === 'still';
        for (let n = 0; n < mapping.length; n++) {
          const content = frameContent(mapping, n);
          const held = n > 0 && !still && repeats(content, frameContent(mapping, n - 1));
          const state: FrameState = held ? 'held' : content.kind;
          if (frameState(mapping, map, n) !== state)
            throw new Error(`${JSON.stringify({ source, timeline, fit, way, n })}: ${state}`);
          const weights = content.parts.reduce((sum, { weight }) => sum + weight, 0);
          if (Math.abs(weights - 1) > 1e-9) throw new Error(`weights of ${weights}`);
        }
      }
  }
});

test('a frame for which a whole picture was chosen shows that alone, with an open shutter too', () => {
  const mapping = of(rate(25), rate(50), 'motion', { headTrim: 0, whole: new Set([3]), shutterDegrees: 180 });
  expect(frameContent(mapping, 3)).toEqual({ kind: 'real', parts: [{ picture: 5, nextShare: 0, weight: 1 }] });
  expect(frameContent(mapping, 1).kind).toBe('made');
});

test('a mix chosen in place of a made picture is blended, a shutter over whole pictures too; a freeze has no shutter', () => {
  const mixed = of(rate(25), rate(50), 'motion', { headTrim: 0, mixed: new Set([3]) });
  expect([1, 2, 3].map((n) => frameContent(mixed, n).kind)).toEqual(['made', 'real', 'blended']);
  expect(frameContent(of(rate(100), rate(25), 'nearest', { shutterDegrees: 180 }), 4)).toMatchObject({
    kind: 'blended',
    parts: [{ weight: 0.5 }, { weight: 0.5 }],
  });
  for (const fit of ['freeze', 'pictures'] as const)
    expect(frameContent(of(rate(100), rate(25), fit, { shutterDegrees: 180 }), 4).kind).toBe('real');
});
