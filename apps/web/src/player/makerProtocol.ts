import type { Composed } from './draw.js';

/** Between the page and a worker that makes pictures. Every ask is answered by exactly one made or failed. */

/** A picture between two of a source. */
export interface Ask {
  readonly id: number;
  readonly from: Composed;
  readonly to: Composed;
  /** How far between, above 0 and below 1. */
  readonly share: number;
}

export interface Made {
  readonly type: 'made';
  readonly id: number;
  readonly bitmap: ImageBitmap;
  /** How sure it is, 0 to 1. */
  readonly certainty: number;
  /** False across a cut, where the nearer one stands. */
  readonly moved: boolean;
}

export type FromMaker = Made | { readonly type: 'failed'; readonly id: number };
