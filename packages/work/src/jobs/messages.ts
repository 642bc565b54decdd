import type { Probe } from '@thawline/media';
import type { AlignResult } from '../analyse/align.js';
import type { CheckOptions, CheckResult } from '../analyse/check.js';
import type { Compared, Comparison } from '../analyse/compare.js';
import type { HeldOut } from '../analyse/heldOut.js';
import type { PanResult } from '../analyse/pan.js';
import type { Loudness } from '../audio/waveform.js';
import type { SourceFile } from '../compose/input.js';
import type { Delivered, DeliverRequest } from '../deliver/deliver.js';
import type { Trial, TrialRequest } from '../estimate/estimate.js';
import type { ReceiptRequest } from '../receipt/measure.js';
import type { Receipt } from '../receipt/types.js';
import type { RenderRequest } from '../render/renderTimeline.js';
import type { JobErrorCode } from './errors.js';

/** A heavy job as plain data: what a worker thread is given. */
export type JobSpec =
  | { readonly kind: 'proxy'; readonly path: string; readonly probe: Probe; readonly folder: string }
  | { readonly kind: 'check'; readonly path: string; readonly probe: Probe; readonly options?: CheckOptions }
  | { readonly kind: 'pan'; readonly path: string; readonly probe: Probe }
  | { readonly kind: 'heldout'; readonly path: string; readonly probe: Probe }
  /** Waveform and loudness, into the folder. */
  | { readonly kind: 'sound'; readonly path: string; readonly probe: Probe; readonly folder: string }
  | { readonly kind: 'align'; readonly a: SourceFile; readonly b: SourceFile }
  | { readonly kind: 'compare'; readonly a: Compared; readonly b: Compared }
  /** Writes to `path`, by way of a temporary file beside it, measures what was written, and only then names it. */
  | ({ readonly kind: 'render' } & Omit<RenderRequest, 'signal'>)
  /** Measures a file that was rendered before against its edit. */
  | ({ readonly kind: 'receipt' } & Omit<ReceiptRequest, 'signal'>)
  /** Writes little of a render and throws it away: what all of it will cost. */
  | ({ readonly kind: 'trial' } & Omit<TrialRequest, 'signal'>)
  /** Hands a file over to a desk. */
  | ({ readonly kind: 'deliver' } & Omit<DeliverRequest, 'signal'>);

export interface JobResults {
  readonly proxy: { readonly pictures: number };
  readonly check: CheckResult;
  readonly pan: PanResult;
  readonly heldout: HeldOut;
  readonly sound: Loudness;
  readonly align: AlignResult;
  readonly compare: Comparison;
  readonly render: RenderResult;
  readonly receipt: Receipt;
  readonly trial: Trial;
  readonly deliver: Delivered;
}

export interface RenderResult {
  readonly receipt: Receipt;
  /** Where the files are now. */
  readonly paths: readonly string[];
  /** Frames whose pictures had been written before. */
  readonly reused: number;
}
export type JobKind = JobSpec['kind'];
export type JobResult = JobResults[JobKind];

/** To the worker: one job after the other, each once the one before has ended. */
export type ToWorker = { readonly type: 'job'; readonly spec: JobSpec } | { readonly type: 'abort' };

/** From the worker. Exactly one of done and failed ends a job. */
export type FromWorker =
  | { readonly type: 'progress'; readonly done: number; readonly total: number | null; readonly phase: string }
  /** What is being made looks like this now: a JPEG, and which frame it is. */
  | { readonly type: 'picture'; readonly frame: number; readonly jpeg: Uint8Array }
  | { readonly type: 'done'; readonly result: JobResult }
  | { readonly type: 'failed'; readonly code: JobErrorCode; readonly detail: string; readonly which?: 'a' | 'b' };
