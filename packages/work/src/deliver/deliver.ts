import { mkdir, readFile, stat } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import { type Desk, DeskError, NOTHING_SENT, type Reason, type Started } from '@thawline/desk';
import { atomicWriteFile } from '../files/atomicWrite.js';
import type { JobContext } from '../jobs/context.js';

export interface DeliverRequest {
  /** Address of the desk. */
  readonly desk: string;
  readonly path: string;
  /** The file that stores how far the hand-over came, from which it resumes. */
  readonly notes: string;
}

/** What the desk answered. */
export interface Delivered {
  /** Its own number for it. */
  readonly delivery: string;
  readonly accepted: boolean;
  readonly reasons: readonly Reason[];
}

/** Interval of polling the desk, and time after which it counts as silent. */
const ASK_EVERY_MS = 400;
const ASK_FOR_MS = 10 * 60_000;

/** Hands a file over: sends what is not there yet, then waits for the answer. */
export async function deliver(
  { progress, signal }: Pick<JobContext, 'progress' | 'signal'>,
  desk: Desk,
  request: DeliverRequest,
): Promise<Delivered> {
  const { path, notes } = request;
  await mkdir(dirname(notes), { recursive: true });
  const { size } = await stat(path);
  const started = await startedOf(notes);
  const sending = {
    path,
    name: basename(path),
    bytes: size,
    started,
    remember: (now: Started) => atomicWriteFile(notes, JSON.stringify(now)),
    progress: (sent: number) => progress(sent, size, 'sending'),
    signal,
  };
  const delivery = await desk.send(sending);
  for (let waited = 0; waited < ASK_FOR_MS; waited += ASK_EVERY_MS) {
    const verdict = await desk.verdict(delivery, signal);
    if (verdict) {
      return { delivery, accepted: verdict.state === 'accepted', reasons: verdict.state === 'refused' ? verdict.reasons : [] };
    }
    progress(size, size, 'the desk is looking at it');
    await pause(ASK_EVERY_MS, signal);
  }
  throw new DeskError('desk-silent', 'it never says what it makes of it');
}

async function startedOf(notes: string): Promise<Started> {
  const text = await readFile(notes, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null;
    throw error;
  });
  if (text === null) return NOTHING_SENT;
  try {
    const { upload, delivery } = JSON.parse(text) as Partial<Started>;
    return { upload: upload ?? null, delivery: delivery ?? null };
  } catch {
    // Truncated while being written: start again; the desk drops the abandoned upload.
    return NOTHING_SENT;
  }
}

function pause(ms: number, signal?: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const stop = (): void => {
      clearTimeout(timer);
      reject(new DeskError('aborted'));
    };
    const timer = setTimeout(() => {
      signal?.removeEventListener('abort', stop);
      resolve();
    }, ms);
    signal?.addEventListener('abort', stop, { once: true });
  });
}
