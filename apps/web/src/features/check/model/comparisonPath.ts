import type { ComparisonReply } from '@thawline/contract';
import { type Mapping, SHARES, type StepMap, stepMapOf } from '@thawline/core/cadence';
import { constantTiming, rate, rateToNumber } from '@thawline/core/time';

/** A comparison's path as the weave draws it: pictures of a above, pictures of b below. */
export function pathWeave(found: ComparisonReply): { mapping: Mapping; map: StepMap } | null {
  const { path, rateA, rateB } = found;
  const first = path[0];
  if (!first) return null;
  const mixed = new Map(found.blendsInB.map((m) => [m.b, m]));
  const pictures = Int32Array.from(path, ([a, b]) => mixed.get(b)?.a ?? a);
  const nextShare = Uint16Array.from(path, ([, b]) => Math.min(SHARES - 1, Math.round((mixed.get(b)?.share ?? 0) * SHARES)));
  // Pictures of a that go by in a second of b.
  const paced = rate(Math.max(1, Math.round(found.speed * rateToNumber(rateA) * 1000)), 1000);
  const mapping: Mapping = {
    timing: constantTiming(paced, found.picturesA),
    timeline: rateB,
    fit: 'nearest',
    inPicture: first[0],
    headTrim: 0,
    length: path.length,
  };
  return { mapping, map: stepMapOf(pictures, nextShare) };
}

export interface Difference {
  readonly what: 'dropped' | 'repeated' | 'mixed';
  readonly a: number;
  /** The picture of b at which it is seen. */
  readonly b: number;
  readonly note: string;
}

/** Where the two part, in the order of b. */
export function differencesOf(found: ComparisonReply): Difference[] {
  const at = new Map(found.path.map(([a, b]) => [b, a]));
  const dropped = found.droppedFromA.map((a): Difference => {
    // The first pair after it.
    let low = 0;
    let high = found.path.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((found.path[middle] as [number, number])[0] < a) low = middle + 1;
      else high = middle;
    }
    return { what: 'dropped', a, b: (found.path[low] as [number, number])[1], note: '' };
  });
  const repeated = found.repeatedInB.map((b): Difference => ({ what: 'repeated', a: at.get(b) ?? 0, b, note: '' }));
  const mixed = found.blendsInB.map(
    (m): Difference => ({
      what: 'mixed',
      a: m.a,
      b: m.b,
      note: `${Math.round((1 - m.share) * 100)} and ${Math.round(m.share * 100)} %`,
    }),
  );
  return [...dropped, ...repeated, ...mixed].sort((x, y) => x.b - y.b || x.a - y.a);
}
