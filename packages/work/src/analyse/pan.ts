import { panBetween, type Shift } from '@thawline/core/motion';
import { MediaError } from '@thawline/media';
import type { SourceFile } from '../compose/input.js';
import type { JobContext } from '../jobs/context.js';

/** Width that pans are measured at, in samples. */
const WIDTH = 256;

/** How the whole picture moves from picture to picture, in shares of its width and height; that of the first is 0. */
export interface PanResult {
  readonly shifts: readonly Shift[];
}

/** Measures a file's pans, every picture against the one before. */
export async function measurePan(context: JobContext, { path, probe }: SourceFile): Promise<PanResult> {
  const { media, progress, signal } = context;
  const scale = Math.min(1, WIDTH / probe.width);
  const [width, height] = [probe.width, probe.height].map((n) => Math.max(2, Math.round((n * scale) / 2) * 2)) as [
    number,
    number,
  ];
  const request = { pixelFormat: 'gray', width, height, signal };
  const shifts: Shift[] = [];
  let before: Uint8Array | null = null;
  const tidy = (share: number): number => Math.round(share * 1e6) / 1e6;
  for await (const picture of media.openPictures(path, probe, request)) {
    const shift = before ? panBetween(before, picture, width, height) : { x: 0, y: 0 };
    shifts.push({ x: tidy(shift.x), y: tidy(shift.y) });
    before = picture.slice();
    if (shifts.length % 25 === 0) progress(shifts.length, probe.pictures, 'measuring pans');
  }
  if (shifts.length === 0) throw new MediaError('no-picture');
  progress(shifts.length, shifts.length, 'done');
  return { shifts };
}
