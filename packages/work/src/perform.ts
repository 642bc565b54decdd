import type { Media } from '@thawline/media';
import type { Progress } from './check.js';
import type { Delivered, DeliverRequest } from './deliver.js';
import { JobError } from './errors.js';
import type { JobResult, JobSpec } from './protocol.js';

/** A picture of what is being made, as JPEG. */
export type Show = (frame: number, jpeg: Uint8Array) => void;

/** Does a job here and now. What a job needs is loaded with the first of its kind: a new thread costs what its job costs, and no more. */
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
      return (await import('./proxy.js')).makeProxy(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'check':
      return (await import('./check.js')).check(media, spec.path, spec.probe, progress, signal, spec.options);
    case 'pan':
      return (await import('./pan.js')).measurePan(media, spec.path, spec.probe, progress, signal);
    case 'heldout':
      return (await import('./heldout.js')).heldOut(media, spec.path, spec.probe, progress, signal);
    case 'sound':
      return (await import('./wave.js')).makeWave(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'align':
      return (await import('./align.js')).align(media, spec.a, spec.b, progress, signal);
    case 'compare':
      return (await import('./compare.js')).compare(media, spec.a, spec.b, progress, signal);
    case 'render':
      return (await import('./render/job.js')).render(media, { ...spec, ...stop }, progress, show);
    case 'receipt':
      return (await import('./render/receipt.js')).measureReceipt(media, { ...spec, ...stop }, progress);
    case 'trial':
      return (await import('./render/trial.js')).trial(media, { ...spec, ...stop }, progress);
    case 'deliver':
      return handOver({ ...spec, ...stop }, progress);
    default:
      return spec satisfies never;
  }
}

async function handOver(request: DeliverRequest, progress: Progress): Promise<Delivered> {
  const [{ deliver }, { DeskError }, { httpDesk }] = await Promise.all([
    import('./deliver.js'),
    import('@thawline/desk'),
    import('@thawline/desk/http'),
  ]);
  try {
    return await deliver(httpDesk(request.desk), request, progress);
  } catch (error) {
    throw error instanceof DeskError ? new JobError(error.code, error.detail) : error;
  }
}
