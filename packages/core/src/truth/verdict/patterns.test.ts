import { costOf, explain, PATTERNS } from './patterns.js';

const still = (length: number): Uint8Array => new Uint8Array(length);
const evidenceOf = (cycle: readonly boolean[], length: number, strength = 5): Float64Array =>
  Float64Array.from({ length }, (_, k) => (cycle[k % cycle.length] ? strength : -strength));

describe('explaining evidence', () => {
  test.each(PATTERNS.filter((p) => p.name !== 'still').map((p) => [p.name, p] as const))(
    'finds %s in its own evidence',
    (name, p) => {
      const length = Math.max(120, p.cycle.length * 5);
      const runs = explain(evidenceOf(p.cycle, length), still(length));
      expect(runs.map((r) => r.pattern.name)).toEqual([name]);
      expect(runs[0]).toMatchObject({ from: 0, to: length });
    },
  );

  test('runs meet, cover everything and keep their order, whatever the evidence', () => {
    let state = 7;
    const evidence = Float64Array.from({ length: 700 }, () => {
      state = (state * 16807) % 2147483647;
      return (state / 2147483647) * 12 - 6;
    });
    const runs = explain(evidence, still(700));
    expect(runs[0]?.from).toBe(0);
    expect(runs.at(-1)?.to).toBe(700);
    for (let i = 1; i < runs.length; i++) expect(runs[i]?.from).toBe(runs[i - 1]?.to);
  });

  test('one picture against its stretch does not end the stretch', () => {
    const evidence = evidenceOf([false, true, true], 90);
    evidence[31] = -6;
    expect(explain(evidence, still(90)).map((r) => r.pattern.name)).toEqual(['every-3']);
  });

  test('a change of pattern is placed where it happens', () => {
    const evidence = Float64Array.from([...evidenceOf([false], 60), ...evidenceOf([false, true], 60)]);
    const runs = explain(evidence, still(120));
    expect(runs.map((r) => r.pattern.name)).toEqual(['new', 'every-2']);
    expect(Math.abs((runs[1]?.from ?? 0) - 60)).toBeLessThanOrEqual(1);
  });

  test('where nothing moves it is still, not padded', () => {
    const runs = explain(new Float64Array(60), new Uint8Array(60).fill(1));
    expect(runs.map((r) => r.pattern.name)).toEqual(['still']);
  });

  test('no changes, no runs', () => {
    expect(explain(new Float64Array(0), new Uint8Array(0))).toEqual([]);
  });
});

test('a pattern costs least on its own evidence', () => {
  const named = (name: string) => PATTERNS.find((p) => p.name === name) ?? PATTERNS[0];
  const pulldown = named('2:3');
  if (!pulldown) throw new Error('no patterns');
  const evidence = evidenceOf(pulldown.cycle, 100);
  const own = costOf(pulldown, evidence, 0, 100);
  for (const p of PATTERNS) if (p !== pulldown) expect(costOf(p, evidence, 0, 100)).toBeGreaterThan(own);
});
