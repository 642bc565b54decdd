import type { PictureSaid } from '@thawline/core/picture';
import type { Probe } from './port.js';

/** What a file says of its pictures, for remarks. */
export function saidOf({
  pixelFormat,
  width,
  height,
  sampleAspect,
  colour,
  alpha,
  projection,
}: Pick<Probe, 'pixelFormat' | 'width' | 'height' | 'sampleAspect' | 'colour' | 'alpha' | 'projection'>): PictureSaid {
  return {
    pixelFormat,
    width,
    height,
    sampleAspect,
    transfer: colour?.transfer ?? null,
    alpha: alpha ?? null,
    projection: projection ?? null,
  };
}
