import { random } from '@thawline/rig';
import { PATTERNS, type Pattern, type PatternRun } from '../verdict/patterns.js';
import { fuller, isWithin, meanOfNew } from './contrast.js';

const named = (name: string): Pattern => PATTERNS.find((p) => p.name === name) as Pattern;
const LENGTH = 140;
const runOf = (name: string, phase = 0): PatternRun => ({ pattern: named(name), from: 0, to: LENGTH, phase });

/** Evidence around a middle value of each picture's kind, as far apart as coarse coding lets it be. */
const evidenceOf = (kinds: string, middles: Record<string, number>): Float64Array => {
  const next = random(3);
  return Float64Array.from(
    { length: LENGTH },
    (_, k) => (middles[kinds[k % kinds.length] as string] as number) + 4 * (next() - 0.5),
  );
};

describe('contrast', () => {
  test('pictures that look like the held ones of a run are held, too', () => {
    // One held picture in two is clear, the other gives no evidence at all: one in four is cheaper, but not what is there.
    const evidence = evidenceOf('nwnh', { n: -4, w: 0, h: 2.5 });
    expect(fuller(runOf('one-in-4'), evidence)).toMatchObject({ pattern: named('every-2'), phase: 0 });
  });

  test('pictures that look like the new ones stay new', () => {
    for (const w of [-4, -3, -2.2]) {
      const run = runOf('one-in-4');
      expect(fuller(run, evidenceOf('nwnh', { n: -4, w, h: 4 }))).toBe(run);
    }
  });

  test('what nothing holds in is never made to hold', () => {
    const run = runOf('new');
    expect(fuller(run, evidenceOf('nw', { n: -5, w: -1, h: 0 }))).toBe(run);
  });

  test.each(['every-2', 'every-3', 'one-in-5', '2:3', '2:3:3:2'])('%s stays what it is on its own evidence', (name) => {
    const cycle = named(name)
      .cycle.map((held) => (held ? 'h' : 'n'))
      .join('');
    const run = runOf(name);
    expect(fuller(run, evidenceOf(cycle, { n: -4, h: 3 }))).toBe(run);
  });

  test('one pattern lies within another where all that it holds is held there', () => {
    expect(isWithin(named('one-in-4'), runOf('every-2'))).toBe(true);
    expect(isWithin(named('one-in-5'), runOf('2:3'))).toBe(true);
    expect(isWithin(named('one-in-5'), runOf('every-2'))).toBe(false);
    expect(isWithin(named('every-3'), runOf('every-2'))).toBe(false);
  });

  test('the mean is that of new pictures alone', () => {
    const evidence = Float64Array.from({ length: LENGTH }, (_, k) => (k % 2 === 0 ? -4 : 5));
    expect(meanOfNew(runOf('every-2'), evidence)).toBe(-4);
  });
});
