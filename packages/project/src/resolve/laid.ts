import {
  type Affine,
  after,
  cornersOf,
  type Laid,
  layPicture,
  meet,
  type Point,
  pointBy,
  type Size,
} from '@thawline/core/picture';
import type { Clip, Source, Timeline } from '../document/document.js';

/** Where a picture lies in a frame, in shares of the frame's width and height. */
export interface Framed {
  /** From the picture, whose sides are 1. */
  readonly matrix: Affine;
  /** Corners of what of the frame shows it: convex, none where nothing does. */
  readonly seen: readonly Point[];
}

/** Corners of all of a frame, in shares of it. */
export const FRAME_CORNERS = cornersOf({ x: 0, y: 0, width: 1, height: 1 });

/** How large a source's pictures are; sound alone has none. */
export function pictureSize({ width = 0, height = 0 }: Pick<Source, 'width' | 'height'>): Size {
  return { width, height };
}

/** Width over height of a source's pictures; 1 for sound alone. */
export function aspectOf(source: Pick<Source, 'width' | 'height'>): number {
  const { width, height } = pictureSize(source);
  return height > 0 ? width / height : 1;
}

/** Where a clip's picture lies, in pixels of its timeline's frame. */
export function laidBy(
  source: Pick<Source, 'width' | 'height'>,
  timeline: Pick<Timeline, 'width' | 'height'>,
  { framing, pose }: Pick<Clip, 'framing' | 'pose'>,
): Laid {
  return layPicture(pictureSize(source), timeline, { framing, pose });
}

/** Where a clip's picture lies in the frame, and what of it is seen. */
export function framedBy(
  source: Pick<Source, 'width' | 'height'>,
  timeline: Pick<Timeline, 'width' | 'height'>,
  clip: Pick<Clip, 'framing' | 'pose'>,
): Framed {
  const { raster, kept, matrix } = laidBy(source, timeline, clip);
  const ofFrame: Affine = { a: 1 / timeline.width, b: 0, c: 0, d: 1 / timeline.height, e: 0, f: 0 };
  const toShares = after(matrix, ofFrame);
  const ofPicture: Affine = { a: raster.width, b: 0, c: 0, d: raster.height, e: 0, f: 0 };
  const seen = meet(
    cornersOf(kept).map((corner) => pointBy(toShares, corner)),
    FRAME_CORNERS,
  );
  return { matrix: after(ofPicture, toShares), seen };
}
