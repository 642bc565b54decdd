import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { memoryLimit, watchStandstill } from './box.js';

const GIGABYTE = 2 ** 30;

test('an FFmpeg may take more memory on more cores, as much as is asked for, or any', () => {
  expect(memoryLimit('decode', 2, undefined)).toBe(4 * GIGABYTE);
  expect(memoryLimit('decode', 32, '')).toBe(19 * GIGABYTE);
  expect(memoryLimit('encode', 2, undefined)).toBe(8 * GIGABYTE);
  expect(memoryLimit('decode', 2, '1.5')).toBe(1.5 * GIGABYTE);
  expect(memoryLimit('decode', 2, '0')).toBeNull();
  expect(memoryLimit('decode', 2, 'much')).toBe(4 * GIGABYTE);
});

/** Longer than a busy machine keeps a process that could run from running. */
const patient = { everyMs: 50, afterMs: 1500 };

test('a process that does nothing is ended; one that works, or waits for us, is not', async () => {
  const sleeping = spawn('sleep', ['60']);
  const asleep = watchStandstill(sleeping, { everyMs: 30, afterMs: 150 });
  sleeping.stdin.end();
  expect((await once(sleeping, 'exit'))[1]).toBe('SIGKILL');
  expect(asleep.found()).toBe(true);
  asleep.end();

  const counting = spawn(process.execPath, ['-e', 'const end = Date.now() + 2500; while (Date.now() < end);'], {
    stdio: 'ignore',
  });
  const busy = watchStandstill(counting, patient);
  expect((await once(counting, 'exit'))[0]).toBe(0);
  expect(busy.found()).toBe(false);
  busy.end();

  // It has written more than a pipe holds, and nobody reads; then it is fed nothing.
  const writing = spawn('sh', ['-c', 'head -c 1000000 /dev/zero; read line']);
  const waiting = watchStandstill(writing, patient);
  writing.stdout.pause();
  await new Promise((resolve) => setTimeout(resolve, 2000));
  writing.stdout.resume();
  await new Promise((resolve) => setTimeout(resolve, 2000));
  expect(waiting.found()).toBe(false);
  writing.stdin.end('done\n');
  expect((await once(writing, 'exit'))[0]).toBe(0);
  waiting.end();
});
