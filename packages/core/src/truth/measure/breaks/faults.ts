const { abs, max, min } = Math;

/** A picture that does not belong where it is. */
export const FAULT_KINDS = ['black', 'white', 'damaged', 'foreign', 'swapped', 'backward'] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

export interface Fault {
  readonly picture: number;
  readonly kind: FaultKind;
  /** 0 to 1: how often one like it is what it is said to be: see RIGHT. */
  readonly certainty: number;
}

/**
 * How often a fault that is told of a kind is that, just past what it takes and as clear as can be. From the rig's trial clips, counted as right where
 * picture and kind are (docs/accuracy.md): black and white pictures leave little doubt, one from elsewhere is mistaken for a damaged one or an earlier one.
 */
const RIGHT: Record<FaultKind, readonly [least: number, most: number]> = {
  black: [0.93, 0.99],
  white: [0.95, 0.98],
  damaged: [0.92, 0.97],
  foreign: [0.83, 0.95],
  swapped: [0.95, 0.99],
  backward: [0.94, 0.97],
};
/** In shots hardly longer than what a picture is judged by: all four that were told on trial clips were wrong. */
const BESIDE_CUT = 0.4;
/** Pictures from a cut within which that holds. */
const SHORT = 8;

/** @param margin 0 just past what it takes, 1 as clear as can be */
export function faultCertainty(kind: FaultKind, margin: number): number {
  const [least, most] = RIGHT[kind];
  return least + (most - least) * max(0, min(1, margin));
}

/** The certainty of a fault at a picture, where cuts were found as well. */
export function besideCuts(certainty: number, picture: number, cuts: readonly number[]): number {
  return cuts.some((cut) => abs(cut - picture) <= SHORT) ? min(certainty, BESIDE_CUT) : certainty;
}
