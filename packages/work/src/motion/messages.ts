import type { PictureKind, PixelLayout } from '@thawline/core/picture';

/** What a motion worker is given when it starts. */
export interface MotionWorkerData {
  readonly layout: PixelLayout;
  readonly width: number;
  readonly height: number;
  readonly kind?: PictureKind;
}

/** To a motion worker: two neighbouring pictures, then the positions wanted between them. */
export type ToMotionWorker =
  | { readonly type: 'pair'; readonly a: Uint8Array; readonly b: Uint8Array }
  | { readonly type: 'make'; readonly id: number; readonly t: number };

/** From a motion worker: one made picture. */
export interface FromMotionWorker {
  readonly id: number;
  /** The made picture's bytes; ownership passes to the receiver. */
  readonly picture: ArrayBuffer;
  readonly certainty: number;
  readonly moved: boolean;
}
