import { address, errorSchema } from '@thawline/contract';
import { DetailedError, defaultOptions, Upload } from 'tus-js-client';
import { RequestError } from './client.js';

/** Uploads by the tus protocol: paused, gone on with after a reload or a restart of the server, and as long as they take. */

/** A part at a time, so that little is sent twice where the line breaks. */
const CHUNK_BYTES = 16_000_000;
/** Waits between tries of an upload, in milliseconds; after the last it fails. */
const RETRIES = [500, 1000, 2000, 5000, ...Array.from({ length: 120 }, () => 10_000)];

export interface Sending {
  /** Resolves with the upload's id. Rejects with RequestError; 'stopped' where it was ended by the person. */
  readonly done: Promise<string>;
  /** What was sent stays on the server. */
  pause(): void;
  goOn(): void;
  /** Takes what was sent away again. */
  stop(): void;
}

/** Sends a file, resuming an earlier upload of the same file, also across a reload. */
export function sendFile(file: File, onProgress: (sent: number) => void): Sending {
  let settle: { resolve: (id: string) => void; reject: (error: RequestError) => void };
  const done = new Promise<string>((resolve, reject) => {
    settle = { resolve, reject };
  });
  const upload = new Upload(file, {
    endpoint: address('uploads'),
    metadata: { filename: file.name },
    chunkSize: CHUNK_BYTES,
    retryDelays: RETRIES,
    removeFingerprintOnSuccess: true,
    onProgress,
    onSuccess: () => settle.resolve(upload.url?.split('/').at(-1) ?? ''),
    onError: (error) => settle.reject(asRequestError(error)),
  });
  let stopped = false;
  const begin = async (): Promise<void> => {
    const [before] = await upload.findPreviousUploads();
    if (before) upload.resumeFromPreviousUpload(before);
    if (!stopped) upload.start();
  };
  begin().catch((error: unknown) => settle.reject(asRequestError(error)));
  return {
    done,
    pause: () => void upload.abort(),
    goOn: () => upload.start(),
    stop: () => {
      stopped = true;
      settle.reject(new RequestError('stopped', 'Stopped.'));
      // If the server cannot be reached, it removes the abandoned upload at a later start.
      upload.abort(true).catch(() => undefined);
    },
  };
}

/** Names of files whose upload was cut off by a reload: chosen again, they go on where they were. */
export async function unfinishedUploads(): Promise<string[]> {
  const found = (await defaultOptions.urlStorage?.findAllUploads()) ?? [];
  return found.map((one) => one.metadata.filename).filter((name) => name !== undefined);
}

/** Forgets unfinished uploads; the server removes abandoned ones at a later start. */
export async function forgetUploads(): Promise<void> {
  for (const one of (await defaultOptions.urlStorage?.findAllUploads()) ?? [])
    await defaultOptions.urlStorage?.removeUpload(one.urlStorageKey);
}

function asRequestError(error: unknown): RequestError {
  if (error instanceof RequestError) return error;
  const body = error instanceof DetailedError ? error.originalResponse?.getBody() : undefined;
  if (body) {
    try {
      const parsed = errorSchema.safeParse(JSON.parse(body));
      if (parsed.success) return new RequestError(parsed.data.code, parsed.data.message);
    } catch {
      // Not one of our own replies: treat it as no answer.
    }
  }
  return new RequestError(
    'unreachable',
    'The server did not answer for too long. Choose the file again: it goes on where it was.',
  );
}
