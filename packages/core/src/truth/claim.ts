import { type Rate, rateToNumber } from '../time/index.js';

/** What a camera's claim comes to when its pictures are looked at. */
export interface ClaimVerdict {
  readonly kept: boolean;
  /** How many times slower the file plays than it was shot, by the claim: claimed / measured. */
  readonly slow: number;
  /** The rate at which different pictures were really taken: true x slow. */
  readonly fits: number;
}

/** Two true rates that differ by less are the same: a freeze or two do not break a claim. */
const TOLERANCE = 0.005;

/**
 * A claim of 600 pictures a second in a file that plays 25 is 24 times slow motion. If only 8.333 of those 25 are new, the
 * camera took 8.333 x 24 = 200.
 * @param trueRate new pictures a second of the file, as a check found
 */
export function judgeClaim(claimed: Rate, measured: Rate, trueRate: number): ClaimVerdict {
  const slow = rateToNumber(claimed) / rateToNumber(measured);
  const fits = trueRate * slow;
  return { kept: fits >= rateToNumber(claimed) * (1 - TOLERANCE), slow, fits };
}
