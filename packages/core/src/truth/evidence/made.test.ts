import { normal, random } from '@thawline/rig';
import { Changes } from '../measure/changes.js';
import { findMade } from './made.js';

/** Changes whose softness swings by a beat, with noise over it. @param soft of picture k */
function softBy(pictures: number, noise: number, soft: (k: number) => number): Changes {
  const changes = new Changes();
  const next = random(5);
  for (let k = 1; k < pictures; k++) changes.columns.soft[changes.add()] = soft(k) + noise * normal(next);
  return changes;
}

/** What a picture at `at` between real ones keeps of its detail, as a logarithm. */
const kept = (at: number): number => {
  const f = at - Math.floor(at);
  return Math.log(f * f + (1 - f) * (1 - f));
};

const find = (changes: Changes, stored: number) => findMade(changes, 0, changes.length, stored);

test.each([
  [25, 30],
  [24, 30],
  [24, 60],
  [50, 60],
  [24_000 / 1001, 60_000 / 1001],
])('%d made into %d is found by its beat', (source, stored) => {
  const [found, ...more] = find(
    softBy(240, 0.1, (k) => 0.3 * kept((k * source) / stored + 0.2)),
    stored,
  );
  expect(found).toMatchObject({ from: 0, to: 240 });
  expect(Math.abs((found?.sourceRate ?? 0) / source - 1)).toBeLessThan(0.003);
  expect(found?.certainty).toBeGreaterThan(0.9);
  expect(more).toEqual([]);
});

test('what does not swing at the beat of two rates is not made, be it noise or the rhythm of an encoder', () => {
  expect(
    find(
      softBy(900, 0.2, () => 0),
      30,
    ),
  ).toEqual([]);
  for (const beat of [2, 3, 4, 8, 12, 15, 30, 60])
    expect(
      find(
        softBy(900, 0.05, (k) => (k % beat === 0 ? 0.3 : 0)),
        30,
      ),
    ).toEqual([]);
});

test('where nothing could be made of a usual rate nothing is looked for, nor in what is short', () => {
  const beat = (k: number): number => 0.5 * kept((k * 25) / 30);
  expect(find(softBy(300, 0.05, beat), 48)).toEqual([]);
  expect(find(softBy(40, 0.05, beat), 30)).toEqual([]);
});

test('a weak beat is found where it goes on for long, and only there', () => {
  const weak = (k: number): number => (k < 2000 ? 0 : 0.1 * kept((k * 25) / 30));
  const [found, ...more] = find(softBy(4000, 0.1, weak), 30);
  expect(found).toMatchObject({ from: 2000, to: 4000, sourceRate: 25 });
  expect(more).toEqual([]);
});
