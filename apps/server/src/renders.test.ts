import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import {
  type CacheReply,
  type JobReply,
  type OutputsReply,
  type ProjectState,
  type ReceiptReply,
  receiptSchema,
  type TrialReply,
} from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { ffmpeg } from '@thawline/media';
import { type CommandInput, clipsFor, noTiming, type Preset, type RenderFormInput, type Source } from '@thawline/project';
import { endPrograms, TestServer } from './server.fixture.js';

/** Renders over HTTP: prices, the queue, what is kept, receipts, and the desk, with real files and processes. */
const server = new TestServer();
const [WIDTH, HEIGHT, PICTURES] = [96, 54, 240];
let project = '';
let desk: ChildProcess;
let deskUrl = '';

beforeAll(async () => {
  desk = spawn(process.execPath, [new URL('../../desk/dist/main.js', import.meta.url).pathname], {
    env: { ...process.env, DESK_PORT: '0', DESK_DATA: join(server.folder, 'desk') },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  deskUrl = await new Promise<string>((resolve) => {
    createInterface({ input: desk.stdout as NodeJS.ReadableStream }).on('line', (line) =>
      resolve(/http:\S+/.exec(line)?.[0] ?? ''),
    );
  });
  await server.start({ THAWLINE_DESK: deskUrl });
  project = (await server.ask<ProjectState>('/projects', { name: 'Renders' })).id;
  const path = join(server.folder, 'drift.mkv');
  await ffmpeg.encode(path, { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mkv' }, pictures());
  const { added } = await server.upload(project, [{ name: 'drift.mkv', bytes: readFileSync(path) }]);
  const command = (c: CommandInput) => server.ask(`/projects/${project}/commands`, { command: c });
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Main cut', rate: rate(25), width: WIDTH, height: HEIGHT } });
  const { document } = await server.ask<ProjectState>(`/projects/${project}`);
  let n = 0;
  const placement = { timeline: document.timelines[0] as never, source: added[0] as Source, fit: 'nearest' as const };
  await command({
    type: 'placeClips',
    timelineId: 't',
    clips: clipsFor({ ...placement, newId: () => `c${n++}` }, noTiming),
  });
  await server.settled(project);
}, 120_000);
afterAll(async () => {
  desk.kill();
  await server.remove();
});

function picture(k: number): Uint8Array {
  const out = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
  for (let i = 0; i < WIDTH * HEIGHT; i++)
    out[i] = 120 + 60 * Math.sin(((i % WIDTH) + k * 2.3) * 0.2) + 30 * Math.cos(Math.floor(i / WIDTH) * 0.3 + k * 0.07);
  return out;
}
function* pictures(as: (k: number) => number = (k) => k): Generator<Uint8Array> {
  for (let k = 0; k < PICTURES; k++) yield picture(as(k));
}

const start = async (body: object): Promise<JobReply> => {
  const [job] = await server.ask<JobReply[]>(`/projects/${project}/jobs`, body);
  return job as JobReply;
};
const render = (form: RenderFormInput = {}, more: object = {}) => start({ kind: 'render', timelineId: 't', form, ...more });
const receipts = () => server.ask<ReceiptReply[]>(`/projects/${project}/receipts`);
const jobNow = async (id: string): Promise<JobReply> => (await server.jobs(project)).find((j) => j.id === id) as JobReply;
async function until(id: string, is: (job: JobReply) => boolean): Promise<JobReply> {
  for (let waited = 0; waited < 1200; waited++) {
    const job = await jobNow(id);
    if (job && is(job)) return job;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error(`${id} does not come to that`);
}
const done = (id: string) => until(id, (j) => !['queued', 'running'].includes(j.state));
const at = (path: string) => fetch(`${server.url}/api${path}`);
/** Another quality each time, so that nothing is there already. */
let quality = 19;
const fresh = (): RenderFormInput => ({ quality: quality++ });

test('a trial says beforehand about what it costs, and afterwards that it is there already', async () => {
  const form = fresh();
  const trial = await start({ kind: 'trial', timelineId: 't', form });
  await done(trial.id);
  const price = await server.ask<TrialReply>(`/jobs/${trial.id}/trial`);
  expect(price).toMatchObject({ frames: PICTURES, reused: 0, peak: null });
  expect(price.psnr).toBeGreaterThan(35);
  expect(price.free).toBeGreaterThan(0);
  const { id } = await render(form);
  expect(await done(id)).toMatchObject({ state: 'done' });
  const [receipt] = await receipts();
  expect(receipt?.bytes ?? 0).toBeGreaterThan(price.bytes.least * 0.8);
  expect(receipt?.bytes ?? 0).toBeLessThan(price.bytes.most * 1.25);
  const again = await start({ kind: 'trial', timelineId: 't', form });
  await done(again.id);
  expect(await server.ask<TrialReply>(`/jobs/${again.id}/trial`)).toMatchObject({
    reused: PICTURES,
    seconds: { value: expect.any(Number) },
  });
  // Only the newest is kept.
  expect((await server.jobs(project)).filter((j) => j.kind === 'trial')).toHaveLength(1);
});

test('what was rendered is not rendered again, until what is kept is emptied or limited', async () => {
  const form = fresh();
  await done((await render(form)).id);
  await done((await render(form)).id);
  expect((await receipts())[0]).toMatchObject({ reused: PICTURES, differs: 0 });
  const kept = await server.ask<CacheReply>('/cache');
  expect(kept.bytes).toBeGreaterThan(10_000);
  expect(await server.ask<CacheReply>('/cache', { most: 1000 })).toMatchObject({ bytes: 0, files: 0, most: 1000 });
  await done((await render(form)).id);
  expect((await receipts())[0]).toMatchObject({ reused: 0, differs: 0 });
  expect(await server.ask<CacheReply>('/cache')).toMatchObject({ files: 0, most: 1000 });
  await server.ask('/cache', { most: 20e9 });
  expect(await server.ask<CacheReply>('/cache', undefined, 'DELETE')).toMatchObject({ bytes: 0, files: 0, most: 20e9 });
});

test('a render is paused, goes on with what it wrote, and shows what it makes', async () => {
  const { id } = await render({ kind: 'webm', quality: 30 });
  // Until one of its two parts is whole.
  const works = join(server.data, 'works', id);
  const whole = (): boolean => existsSync(works) && readdirSync(works).some((name) => !name.includes('partial'));
  await until(id, (j) => j.picture !== null && whole());
  const seen = await at(`/jobs/${id}/picture`);
  expect(seen.headers.get('content-type')).toContain('image/jpeg');
  await server.ask(`/jobs/${id}/pause`, {});
  await until(id, (j) => j.state === 'paused');
  expect((await at(`/jobs/${id}/picture`)).status).toBe(204);
  await server.end('SIGKILL');
  await server.start({ THAWLINE_DESK: deskUrl });
  expect((await jobNow(id)).state).toBe('paused');
  await server.ask(`/jobs/${id}/resume`, {});
  await done(id);
  const [receipt] = await receipts();
  expect(receipt).toMatchObject({ renderId: id, differs: 0 });
  expect(receipt?.reused).toBeGreaterThanOrEqual(200);
});

test('waiting jobs change places; what was stopped is tried again as it was', async () => {
  const jobs = [];
  for (let i = 0; i < 5; i++) jobs.push(await render({ kind: 'webm', quality: 31 + i }));
  const waiting = async (): Promise<string[]> =>
    (await server.jobs(project))
      .filter((j) => j.state === 'queued' && j.kind === 'render')
      .map((j) => j.id)
      .reverse();
  const order = await waiting();
  expect(order.length).toBeGreaterThanOrEqual(2);
  const [first, last] = [order[0] ?? '', order.at(-1) ?? ''];
  await server.ask(`/jobs/${last}/move`, { before: first });
  expect((await waiting())[0]).toBe(last);
  await server.ask(`/jobs/${last}/move`, { before: null });
  expect((await waiting()).at(-1)).toBe(last);
  for (const { id } of jobs) await server.ask(`/jobs/${id}`, undefined, 'DELETE');
  await done(last);
  expect(await jobNow(last)).toMatchObject({ state: 'cancelled' });
  expect(await server.refused(`/jobs/${last}/move`, { before: null })).toMatchObject({ status: 409 });
  await server.ask(`/jobs/${last}/again`, {});
  expect(await done(last)).toMatchObject({ state: 'done', error: null });
  expect(await server.refused(`/jobs/${last}/again`, {})).toMatchObject({ status: 409, code: 'not-finished' });
});

test('an FFmpeg that is ended from outside is begun again by itself', async () => {
  const { id } = await render({ kind: 'webm', quality: 40 });
  let ended = 0;
  for (let tries = 0; ended === 0 && tries < 3000; tries++) {
    ended = endPrograms('ffmpeg', `works/${id}`);
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
  expect(ended).toBeGreaterThan(0);
  expect(await done(id)).toMatchObject({ state: 'done', error: null });
  expect((await receipts())[0]).toMatchObject({ renderId: id, differs: 0 });
});

test('names lead nowhere and never stand for two files', async () => {
  expect(await server.refused(`/projects/${project}/jobs`, { kind: 'render', timelineId: 't', name: '../out' })).toMatchObject({
    status: 400,
    code: 'bad-name',
  });
  expect(await server.refused(`/projects/${project}/jobs`, { kind: 'render', timelineId: 't', folder: '/etc' })).toMatchObject({
    code: 'unknown-folder',
  });
  const form = fresh();
  await done((await render(form, { name: 'Ice out' })).id);
  await done((await render(form, { name: 'Ice out' })).id);
  expect((await receipts()).slice(0, 2).map((r) => r.file)).toEqual(['Ice out (2).mp4', 'Ice out.mp4']);
  expect(readdirSync(join(server.data, 'renders')).filter((n) => n.startsWith('.'))).toEqual([]);
  const { folders } = await server.ask<OutputsReply>('/outputs');
  expect(folders).toMatchObject([{ name: 'renders', path: join(server.data, 'renders') }]);
});

test('forms are kept under names and forgotten', async () => {
  const form = { kind: 'mkv', depth: 10 } as const;
  const [kept] = await server.ask<Preset[]>('/presets', { name: 'Archive', form });
  expect(kept).toMatchObject({ name: 'Archive', form: { ...form, sound: 'stereo' } });
  expect(await server.ask<Preset[]>('/presets', { name: 'Archive', form: { kind: 'y4m' } })).toHaveLength(1);
  expect(await server.ask<Preset[]>(`/presets/${kept?.id}`, undefined, 'DELETE')).toEqual([]);
  expect(await server.refused(`/presets/${kept?.id}`, undefined, 'DELETE')).toMatchObject({ code: 'unknown-preset' });
});

test('another rate and a single clip are rendered as they were asked for', async () => {
  await done((await render({ ...fresh(), rate: rate(50), way: 'nearest' }, { clipId: 'c0' })).id);
  expect((await receipts())[0]).toMatchObject({ rate: rate(50), frames: PICTURES * 2, differs: 0 });
  const refused = await server.refused(`/projects/${project}/jobs`, { kind: 'render', timelineId: 't', clipId: 'none' });
  expect(refused).toMatchObject({ status: 404, code: 'unknown-clip' });
});

test('a fault put into a file is noticed, measured, rendered anew and handed over', async () => {
  const { id } = await render({ ...fresh(), timecode: false }, { name: 'delivery' });
  await done(id);
  const path = join(server.data, 'renders', 'delivery.mp4');
  const own = await ffmpeg.probe(path);
  const colour = { matrix: 'smpte170m', range: 'limited' as const, primaries: null, transfer: null };
  const request = { width: WIDTH, height: HEIGHT, rate: rate(25), pixelFormat: 'yuv420p', form: 'mp4' as const, colour };
  await ffmpeg.encode(
    path,
    request,
    pictures((k) => (k === 210 ? 209 : k)),
  );
  expect((await receipts())[0]).toMatchObject({ renderId: id, differs: 0, disk: 'changed' });
  await done((await start({ kind: 'receipt', jobId: id })).id);
  const [measured, first] = await receipts();
  expect(first).toMatchObject({ jobId: id, disk: 'changed' });
  expect(measured).toMatchObject({ renderId: id, differs: 1, disk: 'same' });
  expect(receiptSchema.parse(measured).wrong).toEqual([
    { frame: 210, frames: 1, shows: 209, asked: { source: 'drift', picture: 210 }, shown: { source: 'drift', picture: 209 } },
  ]);
  for (const side of ['asked', 'written']) {
    const frame = await at(`/jobs/${id}/frames/210/${side}`);
    expect(frame.headers.get('content-type')).toContain('image/jpeg');
  }
  expect(await server.refused(`/jobs/${id}/frames/${PICTURES}/written`)).toMatchObject({ code: 'unknown-picture' });
  const page = await (await at(`/projects/${project}/receipts/${measured?.jobId}/html`)).text();
  expect(page).toContain('1 thing differs');
  expect(page.match(/data:image\/jpeg/g)).toHaveLength(2);
  const json = (await (await at(`/projects/${project}/receipts/${measured?.jobId}/json`)).json()) as ReceiptReply;
  expect(json.wrong).toHaveLength(1);

  await done((await start({ kind: 'deliver', jobId: id })).id);
  expect((await receipts())[0]?.deliveries).toMatchObject([
    { accepted: false, reasons: [expect.stringContaining('Held pictures')] },
  ]);
  const again = await start({ kind: 'rerender', jobId: id, anew: [210] });
  await done(again.id);
  const [fixed] = await receipts();
  expect(fixed).toMatchObject({ renderId: again.id, differs: 0, file: 'delivery (2).mp4', disk: 'same' });
  // The part that holds frame 210 was written anew.
  expect(fixed?.reused).toBe(200);
  await done((await start({ kind: 'deliver', jobId: again.id })).id);
  expect((await receipts())[0]?.deliveries).toMatchObject([{ accepted: true, reasons: [] }]);
  expect(own.pictures).toBe(PICTURES);
});

test('a file that is gone is told, and is no longer handed over', async () => {
  const [newest] = await receipts();
  const path = join(server.data, 'renders', newest?.file ?? '');
  writeFileSync(`${path}.moved`, readFileSync(path));
  spawnSync('rm', [path]);
  expect((await receipts())[0]).toMatchObject({ disk: 'missing' });
  const asked = { kind: 'deliver', jobId: newest?.renderId };
  expect(await server.refused(`/projects/${project}/jobs`, asked)).toMatchObject({ status: 409, code: 'file-missing' });
});

test('a second server on the same data is refused with a sentence', async () => {
  const second = spawnSync(process.execPath, [new URL('../bundle/main.js', import.meta.url).pathname], {
    env: { ...process.env, PORT: '0', THAWLINE_DATA: server.data },
    encoding: 'utf8',
    timeout: 100_000,
  });
  expect(second.status).toBe(1);
  expect(second.stderr).toContain('Another Thawline works with');
  expect(existsSync(join(server.data, 'thawline.sqlite'))).toBe(true);
  expect(statSync(join(server.data, 'renders')).isDirectory()).toBe(true);
});
