import { basename } from 'node:path';
import type { Media } from '@thawline/media';
import { align } from './align.js';
import { check, type Progress } from './check.js';
import { compare } from './compare.js';
import { deliver } from './deliver.js';
import { heldOut } from './heldout.js';
import { measurePan } from './pan.js';
import type { JobResult, JobSpec, RenderResult } from './protocol.js';
import { makeProxy } from './proxy.js';
import { measureReceipt } from './render/receipt.js';
import { type RenderRequest, renderTimeline, type Seen } from './render/render.js';
import { trial } from './render/trial.js';
import { makeWave } from './wave.js';

/** A picture of what is being made, as JPEG. */
export type Show = (frame: number, jpeg: Uint8Array) => void;

/** Does a job here and now. */
export async function perform(
  media: Media,
  spec: JobSpec,
  progress: Progress,
  signal?: AbortSignal,
  show?: Show,
): Promise<JobResult> {
  const stop = signal ? { signal } : {};
  switch (spec.kind) {
    case 'proxy':
      return makeProxy(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'check':
      return check(media, spec.path, spec.probe, progress, signal, spec.options);
    case 'pan':
      return measurePan(media, spec.path, spec.probe, progress, signal);
    case 'heldout':
      return heldOut(media, spec.path, spec.probe, progress, signal);
    case 'sound':
      return makeWave(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'align':
      return align(media, spec.a, spec.b, progress, signal);
    case 'compare':
      return compare(media, spec.a, spec.b, progress, signal);
    case 'render':
      return render(media, { ...spec, ...stop }, progress, show);
    case 'receipt':
      return measureReceipt(media, { ...spec, ...stop }, progress);
    case 'trial':
      return trial(media, { ...spec, ...stop }, progress);
    case 'deliver': {
      // The line to the desk is a package of its own: others need not wait for it.
      const { httpDesk } = await import('@thawline/desk/http');
      return deliver(httpDesk(spec.desk), { ...spec, ...stop }, progress);
    }
    default:
      return spec satisfies never;
  }
}

/** Pictures of what is being made are shown so often. */
const SHOWN_EVERY_MS = 1500;
const SHOWN_WIDTH = 240;

/** Renders to temporary files, measures those, and only then gives them their names. */
async function render(media: Media, request: RenderRequest, progress: Progress, show?: Show): Promise<RenderResult> {
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
