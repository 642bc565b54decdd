import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ChangeReply, FileState, JobReply, ProjectState } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import {
  apply,
  applyDifference,
  type Clip,
  type Command,
  clipsFor,
  commandSchema,
  emptyProject,
  type FileSource,
  type Film,
  noTiming,
  type Project,
} from '@thawline/project';
import { madeSource } from '@thawline/project/fixture';
import type { ReactNode } from 'react';
import { createMemoryRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { ProjectProvider } from '../api/ProjectProvider.js';
import { useProjectState } from '../api/queries.js';
import { theme } from '../app/theme.js';
import { followHeading } from '../shared/state/places.js';
import { FakeServer } from './server.fixture.js';

/** A film of 25 pictures a second with sound, or what it is said to be instead. */
export function film(name: string, other: Partial<Film> = {}): Film {
  return { ...madeSource(name, rate(25), 200, true), mediaId: `media-${name}`, ...other };
}

export function changed(project: Project, ...commands: object[]): Project {
  return commands.reduce((now: Project, command) => {
    const done = apply(now, commandSchema.parse(command));
    if (!done.ok) throw new Error(done.code);
    return done.project;
  }, project);
}

/** Sources, and a timeline at 25 with each of them placed once behind the other. */
export function projectOf(...sources: FileSource[]): Project {
  const timeline = { id: 't', name: 'Main cut', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false };
  const plain = emptyProject('Ice-out');
  const added = sources.length > 0 ? changed(plain, { type: 'addSources', sources }) : plain;
  return changed(added, { type: 'addTimeline', timeline });
}

/** Clips of whole sources, behind what lies on the timeline already. */
export function placed(project: Project, ...names: string[]): Project {
  let made = 0;
  return names.reduce((now, name) => {
    const [timeline] = now.timelines;
    const source = now.sources.find((s) => s.name === name);
    if (!timeline || !source) throw new Error(`no ${name}`);
    const clips: Clip[] = clipsFor({ timeline, source, fit: 'nearest', newId: () => `c${made++}` }, noTiming);
    return changed(now, { type: 'placeClips', timelineId: timeline.id, clips });
  }, project);
}

export function job(other: Partial<JobReply> = {}): JobReply {
  return {
    id: 'j1',
    projectId: 'p',
    kind: 'check',
    state: 'running',
    label: 'floe-drift',
    subject: 'media-floe-drift',
    done: 10,
    total: 200,
    phase: 'measuring pictures',
    secondsLeft: 12,
    picture: null,
    error: null,
    createdAt: '2026-04-02T09:00:00.000Z',
    endedAt: null,
    ...other,
  };
}

/** The event stream of a window: the test says what comes through it. */
export class FakeEvents {
  static all: FakeEvents[] = [];
  onmessage: ((message: { data: string }) => void) | null = null;
  onerror: (() => void) | null = null;
  onopen: (() => void) | null = null;
  closed = false;

  constructor(readonly address: string) {
    FakeEvents.all.push(this);
  }

  close(): void {
    this.closed = true;
  }
}

/** A project on a server of the test's own, that does commands as the real one does. */
export class FakeProject {
  readonly server = new FakeServer();
  jobs: JobReply[] = [];
  version = 1;
  readonly done: Command[] = [];
  /** What would take each change back, the oldest first. */
  private readonly back: ChangeReply['patches'][] = [];

  constructor(public document: Project) {
    FakeEvents.all = [];
    Object.assign(globalThis, { EventSource: FakeEvents });
    const files = (): FileState[] =>
      this.document.sources.map(({ mediaId }) => ({ mediaId, state: 'here', proxy: false, path: null, sentence: null }));
    this.server
      .on('readProject', () => this.state())
      .on('jobs', () => this.jobs)
      .on('files', files)
      .on('checks', () => [])
      .on('comparisons', () => [])
      .on('command', ({ body }) => this.command((body as { command: object }).command))
      .on('undo', () => this.undo())
      // The server makes the pictures findable, under an id of theirs.
      .on('readFields', ({ body }) => {
        const { readings } = body as { readings: readonly { sourceId: string; runs: unknown }[] };
        const made = readings.map(({ sourceId, runs }) => ({
          sourceId,
          reading: runs ? { mediaId: `read-${sourceId}`, runs } : null,
        }));
        return this.command({ type: 'readFields', readings: made });
      });
  }

  state(): ProjectState {
    return { id: 'p', version: this.version, document: this.document, undoLabel: null, redoLabel: null };
  }

  private command(body: object): ChangeReply {
    const command = commandSchema.parse(body);
    const step = apply(this.document, command);
    if (!step.ok) throw new Error(step.code);
    this.document = step.project;
    this.done.push(command);
    this.back.push(step.difference.backward);
    return {
      projectId: 'p',
      version: ++this.version,
      patches: step.difference.forward,
      undoLabel: command.type,
      redoLabel: null,
    };
  }

  private undo(): ChangeReply {
    const patches = this.back.pop();
    if (!patches) throw new Error('nothing to undo');
    this.document = applyDifference(this.document, patches as Parameters<typeof applyDifference>[1]);
    return { projectId: 'p', version: ++this.version, patches, undoLabel: null, redoLabel: null };
  }
}

function Opened({ children }: { children: ReactNode }) {
  const state = useProjectState('p');
  return state.data ? <ProjectProvider state={state.data}>{children}</ProjectProvider> : null;
}

/** Shows a part of the interface on a project, as a person would have it before them. */
export async function show(ui: ReactNode, at = '/p/p/sources', path = '/p/:project/sources/:source?') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } });
  const router = createMemoryRouter(
    [
      { path, element: <Opened>{ui}</Opened> },
      { path: '*', element: null },
    ],
    {
      initialEntries: [at],
    },
  );
  followHeading(router);
  const shown = render(
    <MantineProvider theme={theme} env="test">
      <Notifications />
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>,
  );
  return { ...shown, user: userEvent.setup(), client, router };
}

/** The same without a project behind it: fields, lines, diagrams. */
export function showAlone(ui: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const shown = render(
    <MantineProvider theme={theme} env="test">
      <Notifications />
      <QueryClientProvider client={client}>{ui}</QueryClientProvider>
    </MantineProvider>,
  );
  return { ...shown, user: userEvent.setup(), client };
}
