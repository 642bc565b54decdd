import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { JobSpec } from './protocol.js';
import { runInThread } from './thread.js';

/** Workers that misbehave, each as a file of its own: whatever they do, their caller hears of it exactly once. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-thread-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const spec = { kind: 'check', path: 'x', probe: {} } as unknown as JobSpec;
const quiet = (): void => undefined;

function worker(name: string, body: string): URL {
  const path = join(folder, `${name}.mjs`);
  writeFileSync(path, `import { parentPort } from 'node:worker_threads';\n${body}`);
  return pathToFileURL(path);
}

test('hands on progress and the result', async () => {
  const heard: number[] = [];
  const entry = worker(
    'good',
    `parentPort.postMessage({ type: 'progress', done: 1, total: 2, phase: 'p' }); parentPort.postMessage({ type: 'done', result: { pictures: 3 } });`,
  );
  expect(await runInThread(spec, entry, (done) => heard.push(done))).toEqual({ pictures: 3 });
  expect(heard).toEqual([1]);
});

test('a failure comes with its code', async () => {
  const entry = worker('failing', `parentPort.postMessage({ type: 'failed', code: 'disk-full', detail: 'd' });`);
  await expect(runInThread(spec, entry, quiet)).rejects.toMatchObject({ code: 'disk-full', detail: 'd' });
});

test.each([
  ['throws', `throw new Error('out of order');`],
  ['ends without a word', `process.exit(0);`],
  ['ends with a code', `process.exit(3);`],
])('a thread that %s has crashed', async (name, body) => {
  await expect(runInThread(spec, worker(name.replace(/ /g, '-'), body), quiet)).rejects.toMatchObject({ code: 'crashed' });
});

test('a stop reaches the thread, before its start too', async () => {
  const body = `parentPort.on('message', () => { parentPort.postMessage({ type: 'failed', code: 'aborted', detail: '' }); parentPort.close(); });`;
  const stop = new AbortController();
  const running = runInThread(spec, worker('patient', body), quiet, stop.signal);
  stop.abort();
  await expect(running).rejects.toMatchObject({ code: 'aborted' });
  await expect(runInThread(spec, worker('late', body), quiet, AbortSignal.abort())).rejects.toMatchObject({ code: 'aborted' });
});

test('what is said after the end changes nothing', async () => {
  const entry = worker(
    'double',
    `parentPort.postMessage({ type: 'done', result: { pictures: 1 } }); parentPort.postMessage({ type: 'failed', code: 'crashed', detail: '' });`,
  );
  expect(await runInThread(spec, entry, quiet)).toEqual({ pictures: 1 });
});
