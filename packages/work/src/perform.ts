import { rename, rm, stat } from 'node:fs/promises';
import type { Media } from '@thawline/media';
import { align } from './align.js';
import { check, type Progress } from './check.js';
import { compare } from './compare.js';
import { rangeOf } from './compose.js';
import { heldOut } from './heldout.js';
import { hasSound } from './mix.js';
import { measurePan } from './pan.js';
import type { JobResult, JobSpec } from './protocol.js';
import { makeProxy } from './proxy.js';
import { measureReceipt, type Receipt } from './receipt.js';
import { renderTimeline } from './render.js';
import { makeWave } from './wave.js';

/** Does a job here and now. */
export async function perform(media: Media, spec: JobSpec, progress: Progress, signal?: AbortSignal): Promise<JobResult> {
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
      return render(media, spec, progress, signal);
    default:
      return spec satisfies never;
  }
}

/** Renders to a temporary file, measures that, and only then gives it its name. */
async function render(
  media: Media,
  spec: Extract<JobSpec, { kind: 'render' }>,
  progress: Progress,
  signal?: AbortSignal,
): Promise<Receipt> {
  const { input, path } = spec;
  const { timeline } = input;
  const { from, to } = rangeOf(input);
  const partial = `${path}.partial`;
  try {
    const composed = await renderTimeline(media, input, partial, progress, signal);
    const asked = {
      rate: timeline.rate,
      frames: to - from,
      width: timeline.width,
      height: timeline.height,
      sound: hasSound(input),
    };
    const { size } = await stat(partial);
    const receipt = await measureReceipt(media, partial, size, asked, composed, progress, signal);
    await rename(partial, path);
    return receipt;
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  }
}
