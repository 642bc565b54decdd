import { notifications } from '@mantine/notifications';
import { useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  address,
  type ChangeReply,
  eventSchema,
  type FileState,
  type JobReply,
  jobOf,
  type ProjectState,
} from '@thawline/contract';
import type { Timing } from '@thawline/core/time';
import { applyDifference, type Command, emptyProject, type Project, type Source, type TimingOf } from '@thawline/project';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { uniqueId, windowId } from '../shared/state/window.js';
import { call, RequestError } from './client.js';
import { Outbox, type OutboxState, type Waiting, withHeld } from './outbox.js';

/** Server data of one project: the document, its jobs and what is done to it. */
export interface ProjectApi {
  readonly id: string;
  readonly state: ProjectState;
  readonly project: Project;
  /**
   * Does one thing; resolves to whether it was done. What is refused is told to the person. What depends on how the project
   * stands by then (placing at the end) is given as a function of it: changes before it may still be on their way.
   */
  readonly run: (command: Command | ((now: Project) => Command)) => Promise<boolean>;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Goes to the state after a step of the history; 0 is the beginning. */
  readonly jump: (number: number) => void;
  /** Takes over a change that a request of its own came back with. */
  readonly take: (change: ChangeReply) => void;
  /** Changes that the server has not stored yet, and why; they are shown as done and sent again by themselves. */
  readonly unsaved: OutboxState;
  /** Sends what is not stored yet at once. */
  readonly retryNow: () => void;
  readonly timings: TimingOf;
}

const Context = createContext<ProjectApi | null>(null);

export function useProject(): ProjectApi {
  const api = useContext(Context);
  if (!api) throw new Error('used outside a project');
  return api;
}

/** Tells what went wrong, in the server's own sentence. */
export function tellError(error: unknown): void {
  const message = error instanceof RequestError ? error.message : 'Something went wrong here. Nothing was changed.';
  notifications.show({ message, color: 'red', autoClose: 8000, withBorder: true });
}

/** Says something that happened and need not be undone, but may not be what was expected. */
export function tell(message: string): void {
  notifications.show({ message, autoClose: 8000, withBorder: true });
}

export function useProjectState(id: string) {
  return useQuery({
    queryKey: ['project', id],
    queryFn: () => call('readProject', { parameters: { project: id }, query: { client: windowId() } }),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useJobs(id: string): readonly JobReply[] {
  const jobs = useQuery({
    queryKey: ['jobs', id],
    queryFn: () => call('jobs', { parameters: { project: id } }),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return jobs.data ?? [];
}

/** How the files behind the sources stand, by media id. */
export function useFiles(id: string): ReadonlyMap<string, FileState> {
  const files = useQuery({
    queryKey: ['files', id],
    queryFn: () => call('files', { parameters: { project: id } }),
    refetchOnWindowFocus: true,
  });
  return useMemo(() => new Map((files.data ?? []).map((f) => [f.mediaId, f])), [files.data]);
}

export function useChecks(id: string) {
  const checks = useQuery({ queryKey: ['checks', id], queryFn: () => call('checks', { parameters: { project: id } }) });
  return useMemo(() => new Map((checks.data ?? []).map((c) => [c.mediaId, c])), [checks.data]);
}

/** A change takes the document from the version before; anything else is read anew. */
function applyChange(state: ProjectState | undefined, change: ChangeReply): ProjectState | 'read again' | undefined {
  if (!state || change.version <= state.version) return state;
  if (change.version !== state.version + 1) return 'read again';
  const document = applyDifference(state.document, change.patches as Parameters<typeof applyDifference>[1]);
  return { ...state, document, version: change.version, undoLabel: change.undoLabel, redoLabel: change.redoLabel };
}

function useTake(id: string): (change: ChangeReply) => void {
  const client = useQueryClient();
  return useCallback(
    (change) => {
      const next = applyChange(client.getQueryData<ProjectState>(['project', id]), change);
      if (next === 'read again') void client.invalidateQueries({ queryKey: ['project', id] });
      else if (next) client.setQueryData(['project', id], next);
      void client.invalidateQueries({ queryKey: ['history', id] });
    },
    [client, id],
  );
}

/** Keys of what a finished job made stale, as its kind says. A part's check has the file's media id with "-part" behind it as its subject. */
function staleKeys({ kind, projectId, subject }: JobReply): string[][] {
  return jobOf(kind).stale.map(({ query, of }) => [query, of === 'project' ? projectId : subject.replace(/-part$/, '')]);
}

/** Follows the server's events: what other tabs and jobs do shows here at once. */
function useEvents(id: string, take: (change: ChangeReply) => void, onOpen: () => void): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource(`${address('events', { project: id })}?client=${windowId()}`);
    let lost = false;
    source.onmessage = (message: MessageEvent<string>) => {
      const event = eventSchema.safeParse(JSON.parse(message.data));
      if (!event.success) return;
      if (event.data.type === 'change') take(event.data.change);
      else {
        const { job } = event.data;
        client.setQueryData<JobReply[]>(['jobs', id], (jobs = []) =>
          jobs.some((j) => j.id === job.id) ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs],
        );
        if (job.state === 'done') for (const key of staleKeys(job)) void client.invalidateQueries({ queryKey: key });
        if (job.kind === 'proxy' && job.state === 'done') {
          client.setQueryData<FileState[]>(['files', id], (files = []) =>
            files.map((f) => (f.mediaId === job.subject ? { ...f, proxy: true } : f)),
          );
        }
        if (job.state === 'failed') void client.invalidateQueries({ queryKey: ['files', id] });
      }
    };
    source.onerror = () => {
      lost = true;
    };
    /** What happened after the document was read and before this line stood was told to nobody. */
    const catchUp = async (): Promise<void> => {
      const now = await call('readProject', { parameters: { project: id }, query: { client: windowId() } });
      const known = client.getQueryData<ProjectState>(['project', id]);
      if (!known || now.version > known.version) client.setQueryData(['project', id], now);
      void client.invalidateQueries({ queryKey: ['jobs', id] });
    };
    source.onopen = () => {
      onOpen();
      // What happened while the line was down is read anew.
      if (lost) void client.invalidateQueries();
      // A server that does not answer now is told by the line itself, which opens again.
      else catchUp().catch(() => undefined);
      lost = false;
    };
    return () => source.close();
  }, [client, id, take, onOpen]);
}

/** Timing of the variable sources that stand on timelines: of hundreds of others it is not needed. */
function useTimings(project: Project): TimingOf {
  const used = new Set(project.timelines.flatMap((t) => t.clips.map((c) => c.sourceId)));
  const variable = [...new Set(project.sources.filter((s) => s.variable && used.has(s.id)).map((s) => s.mediaId))];
  const results = useQueries({
    queries: variable.map((mediaId) => ({
      queryKey: ['timing', mediaId],
      queryFn: () => call('timing', { parameters: { media: mediaId } }),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  });
  const loaded = results.map((r) => r.dataUpdatedAt).join();
  return useMemo(() => {
    const table = new Map<string, Timing>();
    variable.forEach((mediaId, i) => {
      const timing = results[i]?.data;
      if (timing) table.set(mediaId, timing);
    });
    return (mediaId) => table.get(mediaId);
  }, [loaded, variable.join()]);
}

/** Every picture's own time of one variable source; undefined while it is on its way. */
export function useTiming(source: Source | undefined): Timing | undefined {
  const timing = useQuery({
    queryKey: ['timing', source?.mediaId],
    queryFn: () => call('timing', { parameters: { media: source?.mediaId ?? '' } }),
    enabled: source?.variable ?? false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return timing.data;
}

const NOTHING_UNSAVED: OutboxState = { held: [], trouble: null };

/** A project's changes on their way to the server, and what of them it has not stored yet. */
function useOutbox(id: string, take: (change: ChangeReply) => void, timings: TimingOf): { outbox: Outbox; unsaved: OutboxState } {
  const client = useQueryClient();
  const [unsaved, setUnsaved] = useState(NOTHING_UNSAVED);
  const known = useRef(timings);
  known.current = timings;
  const outbox = useMemo(() => {
    const key = `thawline-unsaved-${id}`;
    return new Outbox({
      send: (change) => send(id, change),
      onStored: take,
      onRefused: tellError,
      onState: setUnsaved,
      passing: (error) => (error instanceof RequestError ? (PASSING[error.code] ?? null) : null),
      document: () => client.getQueryData<ProjectState>(['project', id])?.document ?? emptyProject('?'),
      timings: () => known.current,
      keep: { load: () => loadHeld(key), save: (held) => saveHeld(key, held) },
      newId: uniqueId,
    });
  }, [id, take, client]);
  const { trouble } = unsaved;
  useEffect(() => {
    if (trouble === null) return;
    const warn = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [trouble]);
  return { outbox, unsaved };
}

/** What is in the way where an error says "not now": the same change is sent again later. */
const PASSING: Readonly<Record<string, string>> = {
  unreachable: 'The server does not answer.',
  'disk-full': 'The disk of the server is full.',
  'not-stored': 'The server cannot write to its disk.',
  busy: 'The server has too much to do.',
};

function send(id: string, change: Waiting): Promise<ChangeReply> {
  const by = { requestId: change.requestId, client: windowId() };
  const parameters = { project: id };
  if (change.kind === 'command') return call('command', { parameters, body: { command: change.command, ...by } });
  if (change.kind === 'jump') return call('jump', { parameters: { project: id, number: change.number }, body: by });
  return call(change.kind, { parameters, body: by });
}

function loadHeld(key: string): Waiting[] {
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? '[]') as Waiting[];
  } catch {
    // Nothing is kept here, or nothing that can be read.
    return [];
  }
}

function saveHeld(key: string, held: readonly Waiting[]): void {
  try {
    if (held.length === 0) sessionStorage.removeItem(key);
    else sessionStorage.setItem(key, JSON.stringify(held));
  } catch {
    // A browser that keeps nothing: what is held lasts as long as the page.
  }
}

export function ProjectProvider({ state: stored, children }: { state: ProjectState; children: ReactNode }) {
  const { id } = stored;
  const take = useTake(id);
  const timings = useTimings(stored.document);
  const { outbox, unsaved } = useOutbox(id, take, timings);
  const retryNow = useCallback(() => outbox.retryNow(), [outbox]);
  useEvents(id, take, retryNow);
  // What is held is shown as done: the person goes on working.
  const document = useMemo(() => withHeld(stored.document, unsaved.held, timings), [stored.document, unsaved.held, timings]);
  const state = useMemo(() => (document === stored.document ? stored : { ...stored, document }), [stored, document]);
  const run = useCallback((command: Command | ((now: Project) => Command)) => outbox.add({ kind: 'command', command }), [outbox]);
  const jump = useCallback((number: number) => void outbox.add({ kind: 'jump', number }), [outbox]);
  const travel = useCallback((kind: 'undo' | 'redo') => void outbox.add({ kind }), [outbox]);
  const api = useMemo<ProjectApi>(
    () => ({
      ...{ id, state, project: document, run, jump, take, timings, unsaved, retryNow },
      undo: () => travel('undo'),
      redo: () => travel('redo'),
    }),
    [id, state, document, run, travel, jump, take, timings, unsaved, retryNow],
  );
  return <Context.Provider value={api}>{children}</Context.Provider>;
}
