import type { PictureKind, PixelLayout } from '../picture/index.js';
import type { MotionEngine } from './engine.js';
import { KernelMotion } from './engine.wasm.js';
import { SphereMotion } from './sphere.js';
import { VisibleMotion } from './visible.js';

/** The engine for pictures of a kind, by kernels. */
export function openMotion(
  layout: PixelLayout,
  { width, height }: { readonly width: number; readonly height: number },
  { alpha = 'straight', sphere = false }: PictureKind = {},
): MotionEngine {
  const flat = (inside: PixelLayout, w: number, h: number, turn?: number): MotionEngine => {
    const options = turn === undefined ? {} : { turn };
    return inside.alpha
      ? new VisibleMotion(inside, w, h, alpha === 'multiplied' ? 'multiplied' : 'straight', options)
      : new KernelMotion(inside, w, h, options);
  };
  return sphere
    ? new SphereMotion(layout, width, height, (inside, w, h) => flat(inside, w, h, width))
    : flat(layout, width, height);
}
