import { basename } from 'node:path';
import type { JobContext } from '../jobs/context.js';
import type { JobResult } from '../jobs/definitions.js';
import { type RenderRequest, renderTimeline, type Seen } from '../render/renderTimeline.js';
import { measureReceipt } from './measure.js';

/** Pictures of what is being made are shown so often. */
const SHOWN_EVERY_MS = 1500;
const SHOWN_WIDTH = 240;

/** Renders to temporary files, measures those, and only then gives them their names. */
export async function renderWithReceipt(context: JobContext, request: RenderRequest): Promise<JobResult<'render'>> {
  const { media, show, signal } = context;
  let shown = 0;
  const seen: Seen = (frame, picture, { timeline, look }) => {
    const now = performance.now();
    if (!show || now - shown < SHOWN_EVERY_MS) return;
    shown = now;
    const { width, height } = timeline;
    const { pixelFormat = 'yuv420p', colour = null } = look ?? {};
    const looks = { width, height, pixelFormat, most: SHOWN_WIDTH, ...(colour ? { colour } : {}) };
    // For display only: a failure here does not stop the render.
    media.jpegOf(picture.slice(), looks, signal).then((jpeg) => show(frame, jpeg), unseen);
  };
  const unplaced = await renderTimeline(context, request, seen);
  try {
    const { input, form, files, reused } = unplaced;
    const receipt = await measureReceipt(context, { input, form, files: files.map((f) => f.path) });
    const paths = await unplaced.place();
    return { receipt: { ...receipt, files: paths.map((path) => basename(path)) }, paths, reused };
  } catch (error) {
    await unplaced.discard();
    throw error;
  }
}

function unseen(): void {
  // Ignored: these pictures are only for display.
}
