import { useQueryClient } from '@tanstack/react-query';
import { address, type ChangeReply, type ProjectState } from '@thawline/contract';
import { type Command, emptyProject, type Project, type TimingOf } from '@thawline/project';
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { uniqueId, windowId } from '../shared/state/window.js';
import { call, RequestError } from './client.js';
import { loadHeld, saveHeld } from './heldChanges.js';
import { tellError } from './notices.js';
import { Outbox, type OutboxState, type Waiting, withHeld } from './outbox.js';
import { useTimings } from './queries.js';
import { ProjectSync } from './sync.js';

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

function nothingYet(): void {
  // The outbox is made after the line that it sends by.
}

/** Follows the server's events: what other tabs and jobs do shows here at once. */
function useSync(id: string, onOpen: { readonly current: () => void }): ProjectSync {
  const cache = useQueryClient();
  const sync = useMemo(() => {
    const read = () => call('readProject', { parameters: { project: id }, query: { client: windowId() } });
    return new ProjectSync(id, cache, read, () => onOpen.current());
  }, [id, cache, onOpen]);
  useEffect(() => {
    const source = new EventSource(`${address('events', { project: id })}?client=${windowId()}`);
    source.onmessage = (message: MessageEvent<string>) => sync.hear(message.data);
    source.onerror = () => sync.lose();
    source.onopen = () => void sync.open();
    return () => source.close();
  }, [id, sync]);
  return sync;
}

export function ProjectProvider({ state: stored, children }: { state: ProjectState; children: ReactNode }) {
  const { id } = stored;
  // Whenever the line opens, what waits is sent; the changes that come back go the way of announced ones.
  const sendWaiting = useRef<() => void>(nothingYet);
  const sync = useSync(id, sendWaiting);
  const take = useCallback((change: ChangeReply) => sync.take(change), [sync]);
  const timings = useTimings(stored.document);
  const { outbox, unsaved } = useOutbox(id, take, timings);
  const retryNow = useCallback(() => outbox.retryNow(), [outbox]);
  sendWaiting.current = retryNow;
  // Held changes are shown as done, so that work can continue.
  const document = useMemo(() => withHeld(stored.document, unsaved.held, timings), [stored.document, unsaved.held, timings]);
  const state = useMemo(() => (document === stored.document ? stored : { ...stored, document }), [stored, document]);
  const run = useCallback((command: Command | ((now: Project) => Command)) => outbox.add({ kind: 'command', command }), [outbox]);
  const jump = useCallback((number: number) => void outbox.add({ kind: 'jump', number }), [outbox]);
  const travel = useCallback((kind: 'undo' | 'redo') => void outbox.add({ kind }), [outbox]);
  const api = useMemo<ProjectApi>(
    () => ({
      id,
      state,
      project: document,
      run,
      jump,
      take,
      timings,
      unsaved,
      retryNow,
      undo: () => travel('undo'),
      redo: () => travel('redo'),
    }),
    [id, state, document, run, travel, jump, take, timings, unsaved, retryNow],
  );
  return <Context.Provider value={api}>{children}</Context.Provider>;
}
