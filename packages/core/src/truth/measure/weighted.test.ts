import { Weighted } from './weighted.js';

/** By sorting, as one would write it down. */
function sorted(entries: readonly (readonly [number, number])[], share: number): number {
  const total = entries.reduce((sum, [, weight]) => sum + weight, 0);
  let sum = 0;
  for (const [value, weight] of [...entries].sort((a, b) => a[0] - b[0])) {
    sum += weight;
    if (sum >= total * share) return value;
  }
  return entries.length > 0 ? Math.max(...entries.map(([value]) => value)) : 0;
}

test('selecting finds what sorting finds, with ties, single entries and none', () => {
  let state = 11;
  const next = (below: number): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
  const weighted = new Weighted(64);
  for (let round = 0; round < 2000; round++) {
    // Whole numbers: sums are exact in any order. Few different values: many ties.
    const entries = Array.from({ length: next(65) }, () => [next(round % 2 ? 5 : 1000), 1 + next(9)] as const);
    weighted.clear();
    for (const [value, weight] of entries) weighted.add(value, weight);
    for (const share of [0.5, 0.75, 0.9, 0.1]) expect(weighted.quantile(share)).toBe(sorted(entries, share));
  }
});
