import type { Media } from '@thawline/media';

/** Reports progress now and then while a job runs: `done` of `total` (null while that is not known), and what is being done. */
export type Progress = (done: number, total: number | null, phase: string) => void;

/** Takes a picture of what is being made, as JPEG, with its frame number. */
export type ShowPicture = (frame: number, jpeg: Uint8Array) => void;

/** What decodes and encodes, and what stops it. */
export interface MediaContext {
  readonly media: Media;
  /** Stops the work and removes its partial output. Absent where the work cannot be stopped. */
  readonly signal?: AbortSignal | undefined;
}

/** What every job receives in addition to its specification. */
export interface JobContext extends MediaContext {
  readonly progress: Progress;
  readonly show?: ShowPicture | undefined;
}
