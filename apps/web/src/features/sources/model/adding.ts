import { useQueryClient } from '@tanstack/react-query';
import type { ScanReply } from '@thawline/contract';
import { findSeries, kindOfName, passedOver } from '@thawline/core/files';
import { formatExact, type Rate } from '@thawline/core/time';
import { useCallback, useRef, useState } from 'react';
import { call, RequestError } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { type Sending, sendFile } from '../../../api/uploads.js';
import { newId } from '../../../shared/state/view.js';
import { windowId } from '../../../shared/state/window.js';

/** Something that can become one source. */
export interface Addable {
  readonly name: string;
  readonly kind: 'film' | 'picture' | 'sound' | 'series';
  readonly files: number;
  readonly missing: number;
  readonly from: { readonly path: string } | { readonly sent: readonly File[] };
}

export interface Refused {
  readonly file: string;
  readonly message: string;
}

/** What will be added, before it is. */
export interface AddPlan {
  readonly items: readonly Addable[];
  readonly passed: ScanReply['passed'];
  readonly refused: readonly Refused[];
}

/** What came of it. */
export interface AddReport {
  readonly added: number;
  readonly passed: ScanReply['passed'];
  readonly refused: readonly Refused[];
}

export interface AddProgress {
  readonly name: string;
  readonly done: number;
  readonly total: number;
  /** Bytes of the file on its way; null where nothing is sent. */
  readonly sent: number | null;
  readonly paused: boolean;
  readonly bytes: number;
}

/** The folder a dropped file came from; '' for one that was dropped by itself. Browsers and the dropzone each have their own field. */
function folderOf(file: File & { path?: string }): string {
  const path = (file.webkitRelativePath || file.path || '').replace(/^\.?\//, '');
  return path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
}

/** Sorts dropped files: from folders only what is material, numbered pictures together; files by themselves are always tried. */
export function planFiles(files: readonly File[]): AddPlan {
  const items: Addable[] = [];
  const passed = new Map<string, { reason: string; files: number; example: string }>();
  const folders = new Map<string, File[]>();
  for (const file of files) {
    const folder = folderOf(file);
    const reason = folder === '' ? null : passedOver(file.name);
    if (reason) {
      const before = passed.get(reason);
      passed.set(reason, { reason, files: (before?.files ?? 0) + 1, example: before?.example ?? `${folder}/${file.name}` });
    } else folders.set(folder, [...(folders.get(folder) ?? []), file]);
  }
  for (const inside of folders.values()) {
    const { series, rest } = findSeries(inside, (f) => f.name);
    for (const file of rest)
      items.push({ name: file.name, kind: kindOfName(file.name) ?? 'film', files: 1, missing: 0, from: { sent: [file] } });
    for (const s of series)
      items.push({ name: s.name, kind: 'series', files: s.files.length, missing: s.missing, from: { sent: s.files } });
  }
  return { items, passed: [...passed.values()].sort((a, b) => b.files - a.files), refused: [] };
}

export async function planFolders(paths: readonly string[]): Promise<AddPlan> {
  const scan = await call('scan', { body: { paths } });
  const items = scan.items.map(({ path, name, kind, files, missing }) => ({ name, kind, files, missing, from: { path } }));
  return { items, passed: scan.passed, refused: scan.refused };
}

/** So many files in place are read with one request: progress and stopping stay near. */
const CHUNK = 8;
/** Files and runs of pictures above this are sent so that they can pause and go on; below, one request is sooner done. */
const RESUMABLE_BYTES = 8_000_000;
/** Pictures of a run that are on their way at once. */
const ABREAST = 4;

/** How adding goes, and what can be done about it. */
export type Adding = ReturnType<typeof useAdding>;

/** Adds what a plan holds, one request after the other, as one step to undo; with its progress and a report at the end. */
export function useAdding(project: string) {
  const client = useQueryClient();
  const { take } = useProject();
  const [progress, setProgress] = useState<AddProgress | null>(null);
  const [report, setReport] = useState<AddReport | null>(null);
  const stopper = useRef<AbortController | null>(null);
  const sending = useRef(new Set<Sending>());
  const add = useCallback(
    async (plan: AddPlan, sequence: Rate | null) => {
      const stop = new AbortController();
      stopper.current = stop;
      setReport(null);
      const batch = newId();
      const refused: Refused[] = [...plan.refused];
      const total = plan.items.length;
      let added = 0;
      let done = 0;
      while (done < total && !stop.signal.aborted) {
        const first = plan.items[done] as Addable;
        const inPlace = 'path' in first.from;
        const chunk = inPlace ? plan.items.slice(done, done + CHUNK) : [first];
        const bytes = 'sent' in first.from ? first.from.sent.reduce((sum, f) => sum + f.size, 0) : 0;
        const tell = (sent: number | null): void =>
          setProgress((was) => ({ name: first.name, done, total, sent, bytes, paused: was?.paused ?? false }));
        tell(inPlace ? null : 0);
        try {
          const reply = inPlace
            ? await sendPaths(project, { items: chunk, sequence, batch, signal: stop.signal })
            : bytes > RESUMABLE_BYTES
              ? await sendUploads(project, first, { sequence, batch, signal: stop.signal, tell, sending: sending.current })
              : await sendFiles(project, { item: first, sequence, batch, signal: stop.signal, tell });
          if (reply.change) take(reply.change);
          added += reply.added.length;
          refused.push(...reply.refused);
        } catch (error) {
          if (!(error instanceof RequestError)) throw error;
          if (error.code !== 'stopped') refused.push({ file: first.name, message: `${first.name}: ${error.message}` });
        }
        done += chunk.length;
      }
      setProgress(null);
      setReport({ added, passed: plan.passed, refused });
      void client.invalidateQueries({ queryKey: ['files', project] });
    },
    [client, project, take],
  );
  const pause = useCallback(() => {
    for (const one of sending.current) one.pause();
    setProgress((was) => was && { ...was, paused: true });
  }, []);
  const goOn = useCallback(() => {
    for (const one of sending.current) one.goOn();
    setProgress((was) => was && { ...was, paused: false });
  }, []);
  return { progress, report, add, dismiss: () => setReport(null), stop: () => stopper.current?.abort(), pause, goOn };
}

function sendPaths(
  project: string,
  {
    items,
    sequence,
    batch,
    signal,
  }: { readonly items: readonly Addable[]; readonly sequence: Rate | null; readonly batch: string; readonly signal: AbortSignal },
) {
  const body = {
    items: items.flatMap(({ kind, from }) => ('path' in from ? [{ path: from.path, kind }] : [])),
    sequence,
    batch,
    client: windowId(),
  };
  return call('addInPlace', { parameters: { project }, body, signal });
}

function sendFiles(
  project: string,
  {
    item,
    sequence,
    batch,
    signal,
    tell,
  }: {
    readonly item: Addable;
    readonly sequence: Rate | null;
    readonly batch: string;
    readonly signal: AbortSignal;
    readonly tell: (sent: number) => void;
  },
) {
  const body = new FormData();
  for (const file of 'sent' in item.from ? item.from.sent : []) body.append('file', file, file.name);
  const query = { batch, client: windowId(), sequence: item.kind === 'series' && sequence ? formatExact(sequence) : undefined };
  return call('upload', { parameters: { project }, query, body, signal, onUploadProgress: (e) => tell(e.loaded) });
}

interface UploadOptions {
  readonly sequence: Rate | null;
  readonly batch: string;
  readonly signal: AbortSignal;
  readonly tell: (sent: number) => void;
  /** Those on their way, to be paused. */
  readonly sending: Set<Sending>;
}

/** Sends an item's files so that they can pause and go on, then adds them. */
async function sendUploads(project: string, item: Addable, { sequence, batch, signal, tell, sending }: UploadOptions) {
  const files = 'sent' in item.from ? item.from.sent : [];
  const sent = files.map(() => 0);
  const uploads: string[] = [];
  const stopAll = (): void => {
    for (const one of sending) one.stop();
  };
  signal.addEventListener('abort', stopAll, { once: true });
  try {
    for (let at = 0; at < files.length; at += ABREAST) {
      const abreast = files.slice(at, at + ABREAST).map((file, k) => {
        const one = sendFile(file, (bytes) => {
          sent[at + k] = bytes;
          tell(sent.reduce((sum, n) => sum + n, 0));
        });
        sending.add(one);
        return one.done.finally(() => sending.delete(one));
      });
      uploads.push(...(await Promise.all(abreast)));
    }
  } finally {
    signal.removeEventListener('abort', stopAll);
  }
  const body = { uploads, sequence: item.kind === 'series' ? sequence : null, batch, client: windowId() };
  return call('addUploads', { parameters: { project }, body, signal });
}
