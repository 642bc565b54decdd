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
    /** Of two files, whose fault it is. */
    readonly which?: 'a' | 'b',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

/** A sound that cannot be aligned, and whose it is. */
export class SoundError extends MediaError {
  constructor(
    error: MediaError,
    /** The first file or the second. */
    readonly which: 'a' | 'b',
  ) {
    super(error.code, error.detail);
  }
}
