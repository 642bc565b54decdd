import { openMotion } from '@thawline/core/motion';
import { meanSquare, opaqueFormat, pictureBytes, pixelLayout, psnrOf, ssim } from '@thawline/core/picture';
import { MediaError } from '@thawline/media';
import { kindOf, type SourceFile } from '../compose/input.js';
import type { JobContext } from '../jobs/context.js';

/** A real picture that was hidden and made again from its neighbours. */
export interface Rebuilt {
  readonly picture: number;
  /** Luma, in dB; 100 stands for the very same. */
  readonly psnr: number;
  /** Luma, at most 1. */
  readonly ssim: number;
  readonly certainty: number;
  /** False where the neighbours show different things, so that the nearer one stood for it. */
  readonly moved: boolean;
}

export interface HeldOut {
  /** Of all hidden pictures together: from the mean of their squared errors. */
  readonly psnr: number;
  readonly ssim: number;
  readonly perPicture: readonly Rebuilt[];
}

/**
 * Hides every second picture, makes it from its two neighbours, and compares it with what it was: what the material allows,
 * at twice the distance that its own pictures are apart.
 */
export async function heldOut(context: JobContext, { path, probe }: SourceFile): Promise<HeldOut> {
  const { media, progress, signal } = context;
  if (probe.pictures < 3) throw new MediaError('too-short', `${probe.pictures} of 3 pictures`);
  // What is hidden under alpha is none of the material: pictures come over black.
  const pixelFormat = opaqueFormat(probe.pixelFormat);
  const layout = pixelLayout(pixelFormat);
  if (!layout) throw new MediaError('decode-failed', pixelFormat);
  const { width, height } = probe;
  const engine = openMotion(layout, { width, height }, kindOf(probe));
  const made = new Uint8Array(pictureBytes(layout, width, height));
  const most = 2 ** layout.bits - 1;
  const luma = (picture: Uint8Array): Uint8Array | Uint16Array =>
    layout.bytes === 2
      ? new Uint16Array(picture.buffer, picture.byteOffset, width * height)
      : picture.subarray(0, width * height);
  const perPicture: Rebuilt[] = [];
  let squares = 0;
  let hidden: Uint8Array | null = null;
  let k = 0;
  for await (const picture of media.openPictures(path, probe, { pixelFormat, signal })) {
    if (k % 2 === 1) hidden = picture.slice();
    else {
      engine.push(picture);
      if (hidden) {
        const { certainty, moved } = engine.make(0.5, made);
        const mse = meanSquare(luma(made), luma(hidden));
        squares += mse;
        const likeness = ssim(luma(made), luma(hidden), { width, height, most });
        perPicture.push({ picture: k - 1, psnr: psnrOf(mse, most), ssim: likeness, certainty, moved });
      }
    }
    k++;
    if (k % 10 === 0) progress(k, probe.pictures, 'hiding and making pictures');
  }
  if (perPicture.length === 0) throw new MediaError('too-short', `${k} of 3 pictures`);
  progress(k, k, 'done');
  const mean = perPicture.reduce((sum, one) => sum + one.ssim, 0) / perPicture.length;
  return { psnr: psnrOf(squares / perPicture.length, most), ssim: mean, perPicture };
}
