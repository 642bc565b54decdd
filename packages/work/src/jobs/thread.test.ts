import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { JobSpecification } from './definitions.js';
import { runInThread } from './thread.js';

/** Workers that misbehave, each as a file of its own: whatever they do, their caller hears of it exactly once. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-thread-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const spec: JobSpecification = { kind: 'check', specification: { path: 'x', probe: {} } };
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
  expect(await runInThread(entry, spec, { progress: (done) => heard.push(done) })).toEqual({ pictures: 3 });
  expect(heard).toEqual([1]);
});

test('a failure comes with its code', async () => {
  const entry = worker('failing', `parentPort.postMessage({ type: 'failed', code: 'disk-full', detail: 'd' });`);
  await expect(runInThread(entry, spec, { progress: quiet })).rejects.toMatchObject({ code: 'disk-full', detail: 'd' });
});

test.each([
  ['throws', `throw new Error('out of order');`],
  ['ends without a word', `process.exit(0);`],
  ['ends with a code', `process.exit(3);`],
])('a thread that %s has crashed', async (name, body) => {
  await expect(runInThread(worker(name.replace(/ /g, '-'), body), spec, { progress: quiet })).rejects.toMatchObject({
    code: 'crashed',
  });
});

test('a stop reaches the thread, before its start too', async () => {
  const body = `parentPort.on('message', ({ type }) => { if (type !== 'abort') return; parentPort.postMessage({ type: 'failed', code: 'aborted', detail: '' }); parentPort.close(); });`;
  const stop = new AbortController();
  const running = runInThread(worker('patient', body), spec, { progress: quiet, signal: stop.signal });
  stop.abort();
  await expect(running).rejects.toMatchObject({ code: 'aborted' });
  await expect(runInThread(worker('late', body), spec, { progress: quiet, signal: AbortSignal.abort() })).rejects.toMatchObject({
    code: 'aborted',
  });
});

test('what is said after the end changes nothing', async () => {
  const entry = worker(
    'double',
    `parentPort.postMessage({ type: 'done', result: { pictures: 1 } }); parentPort.postMessage({ type: 'failed', code: 'crashed', detail: '' });`,
  );
  expect(await runInThread(entry, spec, { progress: quiet })).toEqual({ pictures: 1 });
});

describe('a thread that did its job', () => {
  const steady = (name: string): URL =>
    worker(
      name,
      `import { threadId } from 'node:worker_threads';
      parentPort.on('message', ({ type, job }) => {
        if (type !== 'job') return;
        if (job.specification.path === 'bad') { parentPort.postMessage({ type: 'failed', code: 'broken', detail: '' }); parentPort.close(); }
        else parentPort.postMessage({ type: 'done', result: { pictures: threadId } });
        if (job.specification.path === 'last') setTimeout(() => process.exit(0), 5);
      });`,
    );
  const run = (entry: URL, path = 'x') => runInThread(entry, { ...spec, specification: { path } }, { progress: quiet });

  test('does the next one; two at once have one each', async () => {
    const entry = steady('steady');
    const first = await run(entry);
    expect(await run(entry)).toEqual(first);
    const [a, b] = await Promise.all([run(entry), run(entry)]);
    expect(a).not.toEqual(b);
  });

  test('does no other after one that failed', async () => {
    const entry = steady('failed-once');
    const first = await run(entry);
    await expect(run(entry, 'bad')).rejects.toMatchObject({ code: 'broken' });
    expect(await run(entry)).not.toEqual(first);
  });

  test('is not asked when it has ended meanwhile', async () => {
    const entry = steady('ended');
    const first = await run(entry, 'last');
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(await run(entry)).not.toEqual(first);
  });

  test('can still be stopped', async () => {
    const body = `let first = true; parentPort.on('message', ({ type }) => {
      if (type === 'job' && first) parentPort.postMessage({ type: 'done', result: { pictures: 1 } });
      if (type === 'abort') { parentPort.postMessage({ type: 'failed', code: 'aborted', detail: '' }); parentPort.close(); }
      first = false;
    });`;
    const entry = worker('stopped-later', body);
    await run(entry);
    const stop = new AbortController();
    const running = runInThread(entry, spec, { progress: quiet, signal: stop.signal });
    stop.abort();
    await expect(running).rejects.toMatchObject({ code: 'aborted' });
  });
});
