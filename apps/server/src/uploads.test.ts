import { randomBytes } from 'node:crypto';
import { readdirSync, utimesSync } from 'node:fs';
import { createServer } from 'node:http';
import { connect } from 'node:net';
import { join } from 'node:path';
import type { ProjectState } from '@thawline/contract';
import type { Source } from '@thawline/project';
import express from 'express';
import { type DetailedError, Upload } from 'tus-js-client';
import { idleLimit } from './http/guard.js';
import { TestServer, wavFile } from './server.fixture.js';

/** Uploads by the tus protocol: cut off, gone on with, checked before they begin. */
const server = new TestServer();
const ask = server.ask.bind(server);
const uploads = join(server.data, 'uploads');

beforeAll(() => server.start());
afterAll(() => server.remove());

const newProject = async (name: string): Promise<string> => (await ask<ProjectState>('/projects', { name })).id;

/** A sound of noise: no two are alike. */
function noise(bytes: number): Buffer {
  return wavFile(randomBytes(bytes), 48_000);
}

/** Sends a file, or as much of it as `most` says; resolves with its address. */
function send(bytes: Buffer, name: string, { most, at }: { most?: number; at?: string } = {}): Promise<string> {
  return new Promise((resolve, reject) => {
    const upload: Upload = new Upload(bytes, {
      endpoint: `${server.url}/api/uploads`,
      ...(at ? { uploadUrl: at } : {}),
      metadata: { filename: name },
      chunkSize: 100_000,
      retryDelays: null as unknown as number[],
      onChunkComplete: (_size, sent) => {
        if (most !== undefined && sent >= most) void upload.abort().then(() => resolve(upload.url ?? ''));
      },
      onSuccess: () => resolve(upload.url ?? ''),
      onError: reject,
    });
    upload.start();
  });
}
const idOf = (url: string): string => url.split('/').at(-1) ?? '';
const sentence = (error: DetailedError): { status: number; code: string; message: string } => ({
  status: error.originalResponse?.getStatus() ?? 0,
  ...(JSON.parse(error.originalResponse?.getBody() ?? '{}') as { code: string; message: string }),
});

test('an upload goes on where it was cut off, also after the server was killed, and becomes a source', async () => {
  const project = await newProject('Resumed');
  const bytes = noise(1_000_000);
  const url = await send(bytes, 'long take.wav', { most: 300_000 });
  await server.end('SIGKILL');
  await server.start();
  const again = `${server.url}/api/uploads/${idOf(url)}`;
  const head = await fetch(again, { method: 'HEAD', headers: { 'tus-resumable': '1.0.0' } });
  expect(Number(head.headers.get('upload-offset'))).toBeGreaterThanOrEqual(300_000);
  expect(await server.refused(`/projects/${project}/sources/uploads`, { uploads: [idOf(url)] })).toEqual({
    status: 409,
    code: 'not-finished',
  });
  await send(bytes, 'long take.wav', { at: again });
  const { added, change } = await ask<{ added: Source[]; change: { version: number } }>(`/projects/${project}/sources/uploads`, {
    uploads: [idOf(url)],
  });
  expect(added).toMatchObject([{ name: 'long take', kind: 'sound', seconds: expect.closeTo(10.4, 1) }]);
  expect(change.version).toBe(1);
  expect(readdirSync(uploads)).toEqual([]);
  expect(await server.refused(`/projects/${project}/sources/uploads`, { uploads: [idOf(url)] })).toEqual({
    status: 404,
    code: 'unknown-upload',
  });
});

test('a file larger than what is left, without a size, or of a hostile name is refused before it begins', async () => {
  const begin = (headers: Record<string, string>) =>
    fetch(`${server.url}/api/uploads`, { method: 'POST', headers: { 'tus-resumable': '1.0.0', ...headers } });
  const named = (name: string): string => `filename ${Buffer.from(name).toString('base64')}`;
  const large = await begin({ 'upload-length': '900000000000000', 'upload-metadata': named('all.mov') });
  expect(large.status).toBe(507);
  expect(await large.json()).toMatchObject({ code: 'disk-full', message: expect.stringMatching(/900000\.0 GB.*are left/) });
  const hostile = await begin({ 'upload-length': '10', 'upload-metadata': named('../x.mov') });
  expect(await hostile.json()).toMatchObject({ code: 'bad-name' });
  const unknown = await begin({ 'upload-defer-length': '1', 'upload-metadata': named('x.mov') });
  expect(unknown.status).toBeGreaterThanOrEqual(400);
  expect(readdirSync(uploads)).toEqual([]);
  await expect(send(noise(100), 'a\nb.wav').catch((e: DetailedError) => Promise.reject(sentence(e)))).rejects.toMatchObject({
    status: 400,
    code: 'bad-name',
  });
});

test('the same contents are found by content, also when they come in parallel', async () => {
  const project = await newProject('Twice');
  const bytes = noise(200_000);
  const urls = await Promise.all(['one.wav', 'two.wav', 'three.wav'].map((name) => send(bytes, name)));
  const replies = await Promise.all(
    urls.map((url) =>
      ask<{ added: Source[]; refused: { code: string }[] }>(`/projects/${project}/sources/uploads`, { uploads: [idOf(url)] }),
    ),
  );
  expect(replies.flatMap((r) => r.added)).toHaveLength(1);
  expect(replies.flatMap((r) => r.refused.map((x) => x.code))).toEqual(['already-here', 'already-here']);
  expect((await ask<ProjectState>(`/projects/${project}`)).document.sources).toHaveLength(1);
});

test('one that was given up can be ended, and one that nobody comes back to goes at a start', async () => {
  const ended = await send(noise(300_000), 'ended.wav', { most: 100_000 });
  const gone = await fetch(`${server.url}/api/uploads/${idOf(ended)}`, {
    method: 'DELETE',
    headers: { 'tus-resumable': '1.0.0' },
  });
  expect(gone.status).toBe(204);
  expect(readdirSync(uploads)).toEqual([]);
  const [old, recent] = [
    await send(noise(300_000), 'old.wav', { most: 100_000 }),
    await send(noise(300_000), 'new.wav', { most: 100_000 }),
  ];
  await server.end('SIGTERM');
  const then = new Date(Date.now() - 8 * 24 * 3600 * 1000);
  for (const name of [idOf(old), `${idOf(old)}.json`]) utimesSync(join(uploads, name), then, then);
  await server.start();
  expect(readdirSync(uploads).sort()).toEqual([idOf(recent), `${idOf(recent)}.json`].sort());
});

test('a request whose body stands still is given up; one that goes on slowly is not', async () => {
  const app = express();
  app.use(idleLimit(150));
  app.post('/', (request, response) => {
    request.on('data', () => undefined).on('end', () => response.end('whole'));
    request.on('error', () => undefined);
  });
  app.get('/', (_request, response) => void setTimeout(() => response.end('late'), 500));
  const listening = createServer(app);
  await new Promise<void>((resolve) => listening.listen(0, '127.0.0.1', resolve));
  const { port } = listening.address() as { port: number };
  const post = async (every: number, times: number): Promise<string> => {
    const socket = connect(port, '127.0.0.1');
    let said = '';
    socket.on('data', (chunk) => {
      said += String(chunk);
    });
    socket.on('error', () => undefined);
    const closed = new Promise((resolve) => socket.on('close', resolve));
    socket.write('POST / HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Length: 10\r\n\r\n');
    for (let i = 0; i < times && !socket.destroyed; i++) {
      await new Promise((resolve) => setTimeout(resolve, every));
      socket.write('x');
    }
    await closed;
    return said;
  };
  try {
    expect(await post(50, 10)).toContain('whole');
    expect(await post(400, 10)).not.toContain('whole');
    // An answer that takes its time is waited for.
    expect(await (await fetch(`http://127.0.0.1:${port}/`)).text()).toBe('late');
  } finally {
    listening.close();
  }
});
