import { panBetween, type Shift } from '@thawline/core/motion';
import { MediaError } from '@thawline/media';
import { kindOf, type SourceFile } from '../compose/input.js';
import type { JobContext } from '../jobs/context.js';

/** Width that pans are measured at, in samples. */
const WIDTH = 256;

/** How the whole picture moves from picture to picture, in shares of its width and height; that of the first is 0. */
export interface PanResult {
  readonly shifts: readonly Shift[];
}

/** A file whose pans are measured; a person may say that its pictures are of all around, or are not. */
export interface PanRequest extends SourceFile {
  readonly sphere?: boolean | undefined;
}

/** Of its width, on each side: how far a picture of all around is continued, so that pans go on over its seam. */
const CONTINUED = 1 / 4;

/** A picture that goes on over its left and right edge. */
function continued(picture: Uint8Array, width: number, beside: number): Uint8Array {
  const wide = width + 2 * beside;
  const height = picture.length / width;
  const out = new Uint8Array(wide * height);
  for (let y = 0; y < height; y++) {
    const row = picture.subarray(y * width, (y + 1) * width);
    out.set(row.subarray(width - beside), y * wide);
    out.set(row, y * wide + beside);
    out.set(row.subarray(0, beside), y * wide + beside + width);
  }
  return out;
}

/** Measures a file's pans, every picture against the one before. */
export async function measurePan(context: JobContext, request: PanRequest): Promise<PanResult> {
  const { path, probe, sphere = kindOf(probe).sphere } = request;
  const { media, progress, signal } = context;
  const scale = Math.min(1, WIDTH / probe.width);
  const [width, height] = [probe.width, probe.height].map((n) => Math.max(2, Math.round((n * scale) / 2) * 2)) as [
    number,
    number,
  ];
  const beside = sphere ? Math.round(width * CONTINUED) : 0;
  const wide = width + 2 * beside;
  const small = { pixelFormat: 'gray', width, height, signal };
  const shifts: Shift[] = [];
  let before: Uint8Array | null = null;
  const tidy = (share: number): number => Math.round(share * 1e6) / 1e6;
  for await (const picture of media.openPictures(path, probe, small)) {
    const whole = sphere ? continued(picture, width, beside) : picture.slice();
    const shift = before ? panBetween(before, whole, wide, height) : { x: 0, y: 0 };
    shifts.push({ x: tidy((shift.x * wide) / width), y: tidy(shift.y) });
    before = whole;
    if (shifts.length % 25 === 0) progress(shifts.length, probe.pictures, 'measuring pans');
  }
  if (shifts.length === 0) throw new MediaError('no-picture');
  progress(shifts.length, shifts.length, 'done');
  return { shifts };
}
