import { constantTiming, type Rate, rate } from '../time/index.js';
import { cadenceFacts, type Fit, type Mapping, stepMap } from './index.js';

function facts(source: Rate, timeline: Rate, length: number, fit: Fit = 'nearest') {
  const mapping: Mapping = { timing: constantTiming(source, 100_000), timeline, fit, inPicture: 0, headTrim: 0, length };
  return cadenceFacts(mapping, stepMap(mapping));
}

test('evenness is nothing where every picture comes at its time', () => {
  expect(facts(rate(25), rate(25), 100).unevennessMs).toBe(0);
  expect(facts(rate(100), rate(25), 100).unevennessMs).toBe(0);
  expect(facts(rate(30), rate(25), 100, 'pictures').unevennessMs).toBe(0);
});

test('nearest is late by up to a picture, evenly spread: its root mean square is the picture over the root of twelve', () => {
  expect(facts(rate(24000, 1001), rate(25), 25_000).unevennessMs).toBeCloseTo(1001 / 24 / Math.sqrt(12), 1);
});

test('a blend is even to within its 256ths of a picture', () => {
  expect(facts(rate(30000, 1001), rate(25), 5000, 'blend').unevennessMs).toBeLessThan(0.06);
});

test('skipped and held pictures are counted', () => {
  expect(facts(rate(30), rate(25), 250)).toMatchObject({ skipped: 49, held: 0, blended: 0, hitches: 49 });
  expect(facts(rate(20), rate(25), 250)).toMatchObject({ skipped: 0, held: 50, hitches: 50 });
  expect(facts(rate(25), rate(50), 100)).toMatchObject({ held: 50, hitches: 0 });
});

test('25 read as 24 runs 96 %; 50 kept in 25 runs half as fast and an octave lower', () => {
  expect(facts(rate(25), rate(24), 100, 'pictures').speed).toBeCloseTo(0.96, 9);
  expect(facts(rate(50), rate(25), 100, 'pictures')).toMatchObject({ speed: 0.5, semitones: -12 });
});
