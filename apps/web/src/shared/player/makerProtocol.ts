import type { Composed } from './draw.js';

/** Between the page and a worker that makes pictures. Every ask is answered by exactly one made or failed. */

/** A picture between two of a source, or the average of several. */
export interface Ask {
  readonly id: number;
  readonly seen: readonly {
    readonly from: Composed;
    readonly to: Composed;
    /** How far between, below 1; 0: the first one as it is. */
    readonly share: number;
    /** Sum up to 1. */
    readonly weight: number;
  }[];
}

export interface Made {
  readonly type: 'made';
  readonly id: number;
  readonly bitmap: ImageBitmap;
  /** How sure it is, 0 to 1: of several the least. */
  readonly certainty: number;
  /** False across a cut, where the nearer one stands, and where nothing is made. */
  readonly moved: boolean;
}

export type FromMaker = Made | { readonly type: 'failed'; readonly id: number };
