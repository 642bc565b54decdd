import type { DeskCode } from '@thawline/desk';
import { type MediaCode, MediaError } from '@thawline/media';

/** broken: something unforeseen was thrown. crashed: the thread itself is gone. */
export type JobErrorCode = MediaCode | DeskCode | 'broken' | 'crashed';

/** A job failed, was stopped ("aborted") or its thread died ("crashed"). */
export class JobError extends Error {
  override readonly name = 'JobError';
  constructor(
    readonly code: JobErrorCode,
    readonly detail: string,
    /** Which of the two files caused it. */
    readonly which?: 'a' | 'b',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

/** A sound that cannot be aligned, with the file that it belongs to. */
export class SoundError extends MediaError {
  constructor(
    error: MediaError,
    /** The first file or the second. */
    readonly which: 'a' | 'b',
  ) {
    super(error.code, error.detail);
  }
}
