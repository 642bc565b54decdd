import { basename } from 'node:path';
import type { Media } from '@thawline/media';
import type { Progress, ShowPicture } from '../jobs/context.js';
import type { RenderResult } from '../jobs/messages.js';
import { type RenderRequest, renderTimeline, type Seen } from '../render/renderTimeline.js';
import { measureReceipt } from './measure.js';

/** Pictures of what is being made are shown so often. */
const SHOWN_EVERY_MS = 1500;
const SHOWN_WIDTH = 240;

/** Renders to temporary files, measures those, and only then gives them their names. */
export async function render(
  media: Media,
  request: RenderRequest,
  progress: Progress,
  show?: ShowPicture,
): Promise<RenderResult> {
  let shown = 0;
  const seen: Seen = (frame, picture, { timeline, look }) => {
    const now = performance.now();
    if (!show || now - shown < SHOWN_EVERY_MS) return;
    shown = now;
    const { width, height } = timeline;
    const { pixelFormat = 'yuv420p', colour = null } = look ?? {};
    const looks = { width, height, pixelFormat, most: SHOWN_WIDTH, ...(colour ? { colour } : {}) };
    // Only to be looked at: where it fails the render goes on.
    media.jpegOf(picture.slice(), looks, request.signal).then((jpeg) => show(frame, jpeg), unseen);
  };
  const unplaced = await renderTimeline(media, request, progress, seen);
  try {
    const { input, form, files, reused } = unplaced;
    const stop = request.signal ? { signal: request.signal } : {};
    const receipt = await measureReceipt(media, { input, form, files: files.map((f) => f.path), ...stop }, progress);
    const paths = await unplaced.place();
    return { receipt: { ...receipt, files: paths.map((path) => basename(path)) }, paths, reused };
  } catch (error) {
    await unplaced.discard();
    throw error;
  }
}

function unseen(): void {
  // A picture that could not be shown is not missed.
}
