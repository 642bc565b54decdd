import { over, parseRate, type Rate, rateToNumber } from '../../time/index.js';

/** Whether a camera's claim agrees with its pictures. */
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

/** A camera's claim as people write it. */
export interface Claim {
  /** Claimed pictures a second. */
  readonly rate: Rate;
  /** How many times slower they play, where the claim names it; null: as the file's own rate gives. */
  readonly slow: number | null;
}

/**
 * Reads "600", "1/24 of 600", "600 at 1/24", "24x slow 600", "600, 24 times slower".
 * @returns null where no claim is understood
 */
export function parseClaim(text: string): Claim | null {
  const plain = parseRate(text);
  if (plain) return { rate: plain, slow: null };
  const words = text.trim().toLowerCase();
  const share = /^1\s*\/\s*(\d+(?:\.\d+)?)\s*(?:of|\u00d7|x|\*)\s*(\S+)$/.exec(words);
  if (share) return claimOf(share[2], share[1]);
  const at = /^(\S+?),?\s+(?:at|in|by)\s+1\s*\/\s*(\d+(?:\.\d+)?)$/.exec(words);
  if (at) return claimOf(at[1], at[2]);
  const slower = /^(\S+?),?\s+(\d+(?:\.\d+)?)\s*(?:x|\u00d7|times)\s*slow(?:er)?$/.exec(words);
  if (slower) return claimOf(slower[1], slower[2]);
  const before = /^(\d+(?:\.\d+)?)\s*(?:x|\u00d7|times)\s*slow(?:er)?\s*(?:of)?\s+(\S+)$/.exec(words);
  return before ? claimOf(before[2], before[1]) : null;
}

function claimOf(rateText: string | undefined, slowText: string | undefined): Claim | null {
  const rate = parseRate(rateText ?? '');
  const slow = Number(slowText);
  return rate && slow >= 1 && slow <= 100_000 ? { rate, slow } : null;
}

/** The rate at which a claim's pictures would play: 600 at 1/24 is 25. Null where it does not say how slow. */
export function claimedPlaying({ rate, slow }: Claim): Rate | null {
  return slow === null ? null : over(rate, parseRate(String(slow)) ?? rate);
}
