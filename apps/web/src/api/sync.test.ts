import { QueryClient } from '@tanstack/react-query';
import type { ChangeReply, JobReply, ProjectState } from '@thawline/contract';
import { apply, commandSchema, emptyProject, type Project } from '@thawline/project';
import { afterChange, ProjectSync } from './sync.js';

/** A server's project and the changes it announced, by version. */
function history() {
  let document: Project = emptyProject('Ice-out');
  const states: ProjectState[] = [{ id: 'p', version: 1, document, undoLabel: null, redoLabel: null }];
  const changes: ChangeReply[] = [];
  for (const name of ['Ice', 'Thaw', 'Floe', 'Lake']) {
    const step = apply(document, commandSchema.parse({ type: 'renameProject', name }));
    if (!step.ok) throw new Error(step.code);
    document = step.project;
    const version = states.length + 1;
    const undoLabel = `Named the project ${name}`;
    changes.push({ projectId: 'p', version, patches: step.difference.forward, undoLabel, redoLabel: null });
    states.push({ id: 'p', version, document, undoLabel, redoLabel: null });
  }
  return { states, changes };
}

const { states, changes } = history();
const [first, second, third] = changes as [ChangeReply, ChangeReply, ChangeReply];
const started = states[0] as ProjectState;
const newest = states.at(-1) as ProjectState;

function setUp(known: ProjectState | null = started) {
  const cache = new QueryClient();
  if (known) cache.setQueryData(['project', 'p'], known);
  const stale: string[] = [];
  cache.invalidateQueries = async (filter) => {
    stale.push(filter?.queryKey?.join(' ') ?? 'everything');
  };
  const opened: string[] = [];
  const server = { now: newest as ProjectState | Error, reads: 0 };
  const read = async (): Promise<ProjectState> => {
    server.reads++;
    if (server.now instanceof Error) throw server.now;
    return server.now;
  };
  const sync = new ProjectSync('p', cache, read, () => opened.push('open'));
  const name = () => cache.getQueryData<ProjectState>(['project', 'p'])?.document.name;
  return { cache, stale, opened, server, sync, name };
}

const heard = (change: ChangeReply): string => JSON.stringify({ type: 'change', change });

describe('changes', () => {
  test('each is applied to the version before it, and the history is read anew', () => {
    const { sync, name, stale } = setUp();
    sync.hear(heard(first));
    sync.hear(heard(second));
    expect(name()).toBe('Thaw');
    expect(stale).toEqual(['history p', 'history p']);
  });

  test('one that comes twice, as a reply and as an event, is applied once', () => {
    const { sync, name, cache } = setUp();
    sync.take(first);
    const before = cache.getQueryData(['project', 'p']);
    sync.hear(heard(first));
    expect(cache.getQueryData(['project', 'p'])).toBe(before);
    expect(name()).toBe('Ice');
  });

  test('where one is missing, the document is read anew and stays as it is until then', () => {
    const { sync, name, stale } = setUp();
    sync.hear(heard(second));
    expect(name()).toBe('Ice-out');
    expect(stale).toContain('project p');
  });

  test('an older one that was held up on the way changes nothing', () => {
    const { sync, name, stale } = setUp();
    sync.hear(heard(first));
    sync.hear(heard(second));
    sync.hear(heard(first));
    expect(name()).toBe('Thaw');
    expect(stale).not.toContain('project p');
  });

  test('before the document is there, it is not made up of changes', () => {
    const { sync, name } = setUp(null);
    sync.hear(heard(first));
    expect(name()).toBeUndefined();
    expect(afterChange(undefined, first)).toBeUndefined();
    expect(afterChange(started, third)).toBe('gap');
  });

  test.each(['', 'no JSON', '{"type":"change"}', '{"type":"something newer","x":1}', 'null'])('%j is passed over', (data) => {
    const { sync, name, stale } = setUp();
    sync.hear(data);
    expect([name(), stale]).toEqual(['Ice-out', []]);
  });
});

describe('the line', () => {
  test('when it opens, what happened since the document was read comes after it, and what waits is sent', async () => {
    const { sync, name, opened, stale } = setUp();
    await sync.open();
    expect([name(), opened]).toEqual(['Lake', ['open']]);
    expect(stale).toEqual(['jobs p']);
  });

  test('a document that is newer than what was read meanwhile stays', async () => {
    const { sync, name, server } = setUp(newest);
    server.now = started;
    await sync.open();
    expect(name()).toBe('Lake');
  });

  test('after it was lost, everything is read anew: changes of that time were announced to nobody', async () => {
    const { sync, stale, server, opened } = setUp();
    sync.lose();
    await sync.open();
    expect(stale).toEqual(['everything']);
    expect([server.reads, opened]).toEqual([0, ['open']]);
    await sync.open();
    expect(server.reads).toBe(1);
  });

  test('a server that does not answer now is not taken for one without the project', async () => {
    const { sync, name, server } = setUp();
    server.now = new Error('away');
    await sync.open();
    expect(name()).toBe('Ice-out');
  });
});

describe('jobs', () => {
  const job = (other: Partial<JobReply>): string => {
    const plain = { id: 'j', projectId: 'p', kind: 'check', state: 'running', label: 'floe', subject: 'm', done: 1, total: 9 };
    const rest = { phase: 'x', secondsLeft: null, picture: null, error: null, createdAt: 'a', endedAt: null };
    return JSON.stringify({ type: 'job', job: { ...plain, ...rest, ...other } });
  };

  test('a new one comes first, one that is known changes in its place', () => {
    const { sync, cache } = setUp();
    sync.hear(job({ id: 'a' }));
    sync.hear(job({ id: 'b' }));
    sync.hear(job({ id: 'a', done: 5 }));
    expect(cache.getQueryData<JobReply[]>(['jobs', 'p'])?.map((j) => [j.id, j.done])).toEqual([
      ['b', 1],
      ['a', 5],
    ]);
  });

  test.each<[JobReply['kind'], string, string[]]>([
    ['check', 'm', ['checks p', 'check m']],
    ['check', 'm-part', ['checks p', 'check m']],
    ['sound', 'm', ['wave m', 'loudness m']],
    ['align', 'a+b', ['aligned p']],
    ['compare', 'm', ['comparisons p']],
    ['pan', 'm', ['pan m']],
    ['heldout', 'm', ['heldout m']],
    ['render', 't', ['receipts p']],
    ['receipt', 'r', ['receipts p']],
    ['deliver', 'r', ['receipts p']],
    ['trial', 't', []],
    ['proxy', 'm', []],
  ])('a finished %s of %s makes stale what its kind says', (kind, subject, expected) => {
    const { sync, stale } = setUp();
    sync.hear(job({ kind, subject, state: 'running' }));
    expect(stale).toEqual([]);
    sync.hear(job({ kind, subject, state: 'done' }));
    expect(stale).toEqual(expected);
  });

  test('a proxy that is made is noted where files are listed, without reading that list again', () => {
    const { sync, cache } = setUp();
    const file = (mediaId: string) => ({ mediaId, state: 'here', proxy: false, path: null, sentence: null });
    cache.setQueryData(['files', 'p'], [file('m'), file('n')]);
    sync.hear(job({ kind: 'proxy', state: 'done' }));
    expect(cache.getQueryData(['files', 'p'])).toEqual([{ ...file('m'), proxy: true }, file('n')]);
  });

  test('what failed may have lost its file', () => {
    const { sync, stale } = setUp();
    sync.hear(job({ state: 'failed', error: { code: 'file-missing', message: 'gone' } }));
    expect(stale).toEqual(['files p']);
  });
});
