import { QueryFailedError } from 'typeorm';

/** Why something was not stored: the disk is full, or it could not be written for another reason. */
export const STORE_CODES = ['disk-full', 'not-stored'] as const;
export type StoreCode = (typeof STORE_CODES)[number];

/** A write that was taken back whole because the database or the disk would not take it. */
export class StoreError extends Error {
  constructor(
    readonly code: StoreCode,
    /** SQLite's or the system's own code, such as SQLITE_IOERR_WRITE. */
    readonly reason: string,
  ) {
    super(`${code}: ${reason}`);
  }
}

/** SQLite's result codes that say "the storage would not", against those that say "the statement was wrong". */
const STORAGE = /^SQLITE_(FULL|IOERR|READONLY|CANTOPEN|CORRUPT|NOTADB|BUSY|LOCKED|PROTOCOL|NOMEM|AUTH|PERM)/;
const SYSTEM = new Set(['ENOSPC', 'EDQUOT', 'EFBIG', 'EIO', 'EROFS']);
const FULL = new Set(['SQLITE_FULL', 'ENOSPC', 'EDQUOT']);

/** Maps what SQLite or the file system threw to a StoreError; null where the storage is not to blame. */
export function asStoreError(error: unknown): StoreError | null {
  if (error instanceof StoreError) return error;
  const code = codeOf(error);
  if (code === null || !(STORAGE.test(code) || SYSTEM.has(code))) return null;
  return new StoreError(FULL.has(code) ? 'disk-full' : 'not-stored', code);
}

/** SQLite's own error code, also of a wrapped error; null for any other error. */
export function codeOf(error: unknown): string | null {
  const inner = error instanceof QueryFailedError ? error.driverError : error;
  if (typeof inner !== 'object' || inner === null || !('code' in inner)) return null;
  return typeof inner.code === 'string' ? inner.code : null;
}
