import type { Media } from '@thawline/media';
import type { Delivered, DeliverRequest } from '../deliver/deliver.js';
import type { Progress, ShowPicture } from './context.js';
import { JobError } from './errors.js';
import type { JobResult, JobSpec } from './messages.js';

/** Does a job here and now. What a job needs is loaded with the first of its kind: a new thread costs what its job costs, and no more. */
export async function perform(
  media: Media,
  spec: JobSpec,
  progress: Progress,
  signal?: AbortSignal,
  show?: ShowPicture,
): Promise<JobResult> {
  const stop = signal ? { signal } : {};
  switch (spec.kind) {
    case 'proxy':
      return (await import('../proxy/proxy.js')).makeProxy(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'check':
      return (await import('../analyse/check.js')).check(media, spec.path, spec.probe, progress, signal, spec.options);
    case 'pan':
      return (await import('../analyse/pan.js')).measurePan(media, spec.path, spec.probe, progress, signal);
    case 'heldout':
      return (await import('../analyse/heldOut.js')).heldOut(media, spec.path, spec.probe, progress, signal);
    case 'sound':
      return (await import('../audio/waveform.js')).makeWave(media, spec.path, spec.probe, spec.folder, progress, signal);
    case 'align':
      return (await import('../analyse/align.js')).align(media, spec.a, spec.b, progress, signal);
    case 'compare':
      return (await import('../analyse/compare.js')).compare(media, spec.a, spec.b, progress, signal);
    case 'render':
      return (await import('../receipt/renderWithReceipt.js')).render(media, { ...spec, ...stop }, progress, show);
    case 'receipt':
      return (await import('../receipt/measure.js')).measureReceipt(media, { ...spec, ...stop }, progress);
    case 'trial':
      return (await import('../estimate/estimate.js')).trial(media, { ...spec, ...stop }, progress);
    case 'deliver':
      return handOver({ ...spec, ...stop }, progress);
    default:
      return spec satisfies never;
  }
}

async function handOver(request: DeliverRequest, progress: Progress): Promise<Delivered> {
  const [{ deliver }, { DeskError }, { httpDesk }] = await Promise.all([
    import('../deliver/deliver.js'),
    import('@thawline/desk'),
    import('@thawline/desk/http'),
  ]);
  try {
    return await deliver(httpDesk(request.desk), request, progress);
  } catch (error) {
    throw error instanceof DeskError ? new JobError(error.code, error.detail) : error;
  }
}
