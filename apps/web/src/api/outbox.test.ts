import type { ChangeReply } from '@thawline/contract';
import { apply, applyDifference, emptyProject, noTiming, type Project } from '@thawline/project';
import { Outbox, type OutboxState, type Waiting, withHeld } from './outbox.js';

class Passing extends Error {}

/** A server that stores changes by their ids, and may not answer. */
class Server {
  document: Project = emptyProject('First');
  version = 0;
  readonly seen = new Map<string, ChangeReply>();
  /** refuse: no answer, nothing done. lose: done, but the answer never comes. */
  mood: 'well' | 'refuse' | 'lose' = 'well';

  async send(change: Waiting): Promise<ChangeReply> {
    await Promise.resolve();
    if (this.mood === 'refuse') throw new Passing('The server does not answer.');
    const known = this.seen.get(change.requestId);
    const reply = known ?? this.store(change);
    if (this.mood === 'lose') throw new Passing('The server does not answer.');
    return reply;
  }

  private store(change: Waiting): ChangeReply {
    if (change.kind !== 'command') throw new Error('not made for this');
    const applied = apply(this.document, change.command);
    if (!applied.ok) throw new Error(applied.code);
    this.document = applied.project;
    this.version++;
    const patches = applied.difference.forward as ChangeReply['patches'];
    const reply = { projectId: 'p', version: this.version, patches, undoLabel: null, redoLabel: null };
    this.seen.set(change.requestId, reply);
    return reply;
  }
}

let made = 0;
function outboxOn(server: Server, kept: Waiting[] = []) {
  const states: OutboxState[] = [{ held: [], trouble: null }];
  const refused: unknown[] = [];
  const page = { document: server.document, saved: kept as readonly Waiting[] };
  let wake: () => void = () => undefined;
  const outbox = new Outbox({
    send: (change) => server.send(change),
    onStored: (change) => {
      page.document = applyDifference(page.document, change.patches as never);
    },
    onRefused: (error) => refused.push(error),
    onState: (state) => states.push(state),
    passing: (error) => (error instanceof Passing ? error.message : null),
    document: () => page.document,
    timings: () => noTiming,
    keep: {
      load: () => kept,
      save: (held) => {
        page.saved = held;
      },
    },
    newId: () => `request-${made++}`,
    pause: () =>
      new Promise<void>((resolve) => {
        wake = resolve;
      }),
  });
  const settle = async (): Promise<void> => {
    for (let i = 0; i < 20; i++) await Promise.resolve();
  };
  return {
    outbox,
    page,
    refused,
    settle,
    state: () => states.at(-1) as OutboxState,
    retry: () => wake(),
    shown: () => withHeld(page.document, (states.at(-1) as OutboxState).held, noTiming),
  };
}

const rename = (name: string) => ({ kind: 'command' as const, command: { type: 'renameProject' as const, name } });

test('changes are sent one after the other, each on the document that the one before left', async () => {
  const server = new Server();
  const { outbox, page } = outboxOn(server);
  const grow = {
    kind: 'command' as const,
    command: (now: Project) => ({ type: 'renameProject' as const, name: `${now.name}+` }),
  };
  expect(await Promise.all([outbox.add(grow), outbox.add(grow), outbox.add(grow)])).toEqual([true, true, true]);
  expect(page.document.name).toBe('First+++');
  expect(server.version).toBe(3);
});

test('while the server cannot store, changes are held, shown as done, told why, and stored when it can', async () => {
  const server = new Server();
  const on = outboxOn(server);
  server.mood = 'refuse';
  expect(await on.outbox.add(rename('Second'))).toBe(true);
  const grow = {
    kind: 'command' as const,
    command: (now: Project) => ({ type: 'renameProject' as const, name: `${now.name}+` }),
  };
  await on.outbox.add(grow);
  expect(on.state()).toMatchObject({ trouble: 'The server does not answer.', held: [{ kind: 'command' }, { kind: 'command' }] });
  expect(on.shown().name).toBe('Second+');
  expect(on.page.document.name).toBe('First');
  on.retry();
  await on.settle();
  expect(server.version).toBe(0);
  server.mood = 'well';
  on.retry();
  await on.settle();
  expect(on.state()).toEqual({ held: [], trouble: null });
  expect(server.document.name).toBe('Second+');
  expect(on.page.document.name).toBe('Second+');
  expect(on.page.saved).toEqual([]);
});

test('a change whose answer was lost is done once', async () => {
  const server = new Server();
  const on = outboxOn(server);
  server.mood = 'lose';
  await on.outbox.add({ kind: 'command', command: (now) => ({ type: 'renameProject', name: `${now.name}+` }) });
  on.retry();
  await on.settle();
  server.mood = 'well';
  on.retry();
  await on.settle();
  expect(server.version).toBe(1);
  expect(on.page.document.name).toBe('First+');
});

test('what is held outlives a reload', async () => {
  const server = new Server();
  const before = outboxOn(server);
  server.mood = 'lose';
  await before.outbox.add(rename('Second'));
  await before.outbox.add(rename('Third'));
  const after = outboxOn(server, [...before.page.saved]);
  server.mood = 'well';
  await after.settle();
  expect(server.document.name).toBe('Third');
  expect(server.version).toBe(2);
});

test('undo takes back what was never sent; what the server turns down is told and dropped, and what follows goes on', async () => {
  const server = new Server();
  const on = outboxOn(server);
  server.mood = 'refuse';
  await on.outbox.add(rename('Second'));
  await on.outbox.add(rename('Third'));
  await on.outbox.add({ kind: 'undo' });
  expect(on.shown().name).toBe('Second');
  await on.outbox.add({ kind: 'command', command: { type: 'removeTimeline', timelineId: 'none' } });
  await on.outbox.add(rename('Fourth'));
  server.mood = 'well';
  on.retry();
  await on.settle();
  await on.settle();
  expect(on.refused).toHaveLength(1);
  expect(server.document.name).toBe('Fourth');
  expect(on.state()).toEqual({ held: [], trouble: null });
});
