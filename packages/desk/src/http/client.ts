import { createReadStream } from 'node:fs';
import { DetailedError, Upload } from 'tus-js-client';
import { z } from 'zod';
import { type Desk, DeskError, type Sending, type Verdict } from '../port.js';
import { deskSpecSchema, reasonSchema } from '../spec.js';

/** How long a desk may be silent. */
export interface Patience {
  /** Milliseconds for an answer. */
  readonly answer: number;
  /** Milliseconds without a byte on its way. */
  readonly stall: number;
  /** Waits before an upload is taken up again, in milliseconds; after the last one it has failed. */
  readonly retries: readonly number[];
}

const PATIENCE: Patience = { answer: 15_000, stall: 20_000, retries: [200, 1000, 3000, 5000] };
/** Replies are short; a desk that says more than this says nothing sensible. */
const MOST_SAID = 1_000_000;
/** Bytes of one request: what is lost at most where a proxy gives up in its midst. */
const CHUNK = 8 << 20;

const deliverySchema = z.object({ id: z.string().min(1).max(100) });
const verdictSchema = z.object({
  state: z.enum(['looking', 'accepted', 'refused']),
  reasons: z.array(reasonSchema).max(1000).default([]),
});

/**
 * A desk at an address: its specification as JSON at /specification, uploads by the tus protocol 1.0 at /uploads, deliveries at
 * /deliveries.
 */
export function httpDesk(address: string, patience: Patience = PATIENCE): Desk {
  const base = address.replace(/\/+$/, '');

  async function ask<S extends z.ZodType>(
    path: string,
    schema: S,
    init: RequestInit = {},
    signal?: AbortSignal,
  ): Promise<z.infer<S>> {
    const late = AbortSignal.timeout(patience.answer);
    const either = signal ? AbortSignal.any([late, signal]) : late;
    let text: string;
    try {
      const response = await fetch(`${base}${path}`, { ...init, signal: either, redirect: 'error' });
      text = await shortText(response);
      if (response.status === 404) throw new DeskError('desk-gone', 'it knows of no such thing');
      if (!response.ok) throw new DeskError('desk-wrong', `status ${response.status}`);
    } catch (error) {
      if (error instanceof DeskError) throw error;
      if (signal?.aborted) throw new DeskError('aborted');
      throw new DeskError(late.aborted ? 'desk-silent' : 'desk-gone', messageOf(error));
    }
    const parsed = schema.safeParse(jsonOf(text));
    if (!parsed.success) throw new DeskError('desk-wrong', parsed.error.issues[0]?.message ?? 'not what was expected');
    return parsed.data;
  }

  return {
    specification: (signal) => ask('/specification', deskSpecSchema, {}, signal),
    async send(sending) {
      const { started, remember, signal } = sending;
      if (started.delivery) return started.delivery;
      const upload = await uploaded(`${base}/uploads`, sending, patience);
      const body = JSON.stringify({ upload: upload.slice(upload.lastIndexOf('/') + 1), name: sending.name });
      const headers = { 'content-type': 'application/json' };
      const { id } = await ask('/deliveries', deliverySchema, { method: 'POST', body, headers }, signal);
      await remember({ upload, delivery: id });
      return id;
    },
    async verdict(delivery, signal): Promise<Verdict | null> {
      const { state, reasons } = await ask(`/deliveries/${encodeURIComponent(delivery)}`, verdictSchema, {}, signal);
      if (state === 'looking') return null;
      return state === 'accepted' ? { state } : { state, reasons };
    },
  };
}

/** Sends a file and resolves with the address it was sent to. */
function uploaded(endpoint: string, sending: Sending, patience: Patience): Promise<string> {
  const { path, name, bytes, started, remember, progress, signal } = sending;
  return new Promise((resolve, reject) => {
    let silence: NodeJS.Timeout | undefined;
    let settled = false;
    const settle = (finish: () => void): void => {
      if (settled) return;
      settled = true;
      clearTimeout(silence);
      signal?.removeEventListener('abort', stop);
      finish();
    };
    const fail = (error: DeskError): void => {
      settle(() => {
        void upload.abort();
        reject(error);
      });
    };
    const alive = (): void => {
      clearTimeout(silence);
      silence = setTimeout(() => fail(new DeskError('desk-silent')), patience.stall);
    };
    const stop = (): void => fail(new DeskError('aborted'));
    const upload: Upload = new Upload(createReadStream(path), {
      endpoint,
      // Resume only an upload at this endpoint: an address elsewhere is never followed.
      uploadUrl: started.upload?.startsWith(`${endpoint}/`) ? started.upload : null,
      uploadSize: bytes,
      chunkSize: CHUNK,
      metadata: { filename: name },
      retryDelays: [...patience.retries],
      storeFingerprintForResuming: false,
      onShouldRetry: (error) => {
        const status = 'originalResponse' in error ? (error.originalResponse?.getStatus() ?? 0) : 0;
        return status === 0 || status === 409 || status === 423 || status >= 500;
      },
      onUploadUrlAvailable: () => {
        remember({ upload: upload.url, delivery: null }).catch((error) => fail(new DeskError('desk-wrong', messageOf(error))));
      },
      onProgress: (sent) => {
        alive();
        progress(sent);
      },
      onSuccess: () => settle(() => resolve(upload.url ?? '')),
      onError: (error) => fail(failureOf(error)),
    });
    if (signal?.aborted) return stop();
    signal?.addEventListener('abort', stop, { once: true });
    alive();
    upload.start();
  });
}

function failureOf(error: Error | DetailedError): DeskError {
  const response = error instanceof DetailedError ? error.originalResponse : null;
  // No answer at all: treat the desk as gone.
  if (!response || response.getStatus() === 0) return new DeskError('desk-gone', error.message);
  return new DeskError('desk-wrong', `status ${response.getStatus()}`);
}

async function shortText(response: Response): Promise<string> {
  const parts: Uint8Array[] = [];
  let bytes = 0;
  for await (const part of response.body ?? []) {
    bytes += part.length;
    if (bytes > MOST_SAID) throw new DeskError('desk-wrong', 'it says too much');
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function messageOf(error: unknown): string {
  const cause = error instanceof Error && error.cause instanceof Error ? `: ${error.cause.message}` : '';
  return error instanceof Error ? `${error.message}${cause}` : String(error);
}
