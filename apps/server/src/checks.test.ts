import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type {
  CheckReply,
  CheckSummary,
  ComparisonReply,
  HeldOutReply,
  JobReply,
  PanReply,
  ProjectState,
} from '@thawline/contract';
import { readEdl, readOtio } from '@thawline/core/exchange';
import { rate } from '@thawline/core/time';
import { type CommandInput, clipsFor, noTiming } from '@thawline/project';
import { TestServer } from './server.fixture.js';

/** Checks and comparisons over HTTP, on files that FFmpeg's own generators gave. */
const server = new TestServer();
const ask = server.ask.bind(server);

/** A test picture that moves, each of its pictures `times` times, in a file of its own. */
function film(name: string, filter: string, ...more: string[]): Buffer {
  const path = join(server.folder, name);
  const input = ['-f', 'lavfi', '-i', `testsrc2=size=320x180:rate=25:duration=4,noise=alls=4:allf=t,${filter}`];
  const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, '-pix_fmt', 'yuv420p', ...more, path], {
    encoding: 'utf8',
  });
  if (made.status !== 0) throw new Error(made.stderr);
  return readFileSync(path);
}

let project = '';
const ids: Record<string, string> = {};
const media: Record<string, string> = {};

beforeAll(async () => {
  await server.start();
  project = (await ask<{ id: string }>('/projects', { name: 'Checks' })).id;
  const files = [
    // Every picture twice, as 50 a second.
    { name: 'twice.mp4', bytes: film('twice.mp4', 'fps=50:round=up', '-c:v', 'libx264', '-crf', '20') },
    { name: 'master.mkv', bytes: film('master.mkv', 'null', '-c:v', 'libx264', '-crf', '18') },
    { name: 'copy.mp4', bytes: film('copy.mp4', 'scale=240:134', '-c:v', 'mpeg4', '-q:v', '6') },
  ];
  for (const source of (await server.upload(project, files)).added) {
    ids[source.name] = source.id;
    media[source.name] = source.mediaId;
  }
  await ask(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [ids.twice] });
  await server.settled(project);
}, 120_000);
afterAll(() => server.remove());

const check = (name: string) => ask<CheckReply>(`/media/${media[name]}/check`);

test('a held-out test says how near made pictures come to those that were hidden', async () => {
  expect(await ask(`/media/${media.copy}/heldout`)).toBeNull();
  await ask(`/projects/${project}/jobs`, { kind: 'heldout', sourceId: ids.copy });
  await server.settled(project);
  const found = await ask<HeldOutReply>(`/media/${media.copy}/heldout`);
  const [job] = await ask<JobReply[]>(`/projects/${project}/jobs`);
  expect(await ask(`/jobs/${job?.id}/result`)).toEqual(found);
  expect(found.perPicture.map((p) => p.picture)).toEqual(Array.from({ length: 49 }, (_, i) => 2 * i + 1));
  expect(found.psnr).toBeGreaterThan(20);
  expect(found.ssim).toBeGreaterThan(0.5);
  expect(await ask(`/media/${media.copy}/pan`)).toBeNull();
  await ask(`/projects/${project}/jobs`, { kind: 'pan', sourceId: ids.copy });
  await server.settled(project);
  const { shifts } = await ask<PanReply>(`/media/${media.copy}/pan`);
  // The generator's picture stands; only things in it move.
  expect(shifts).toHaveLength(100);
  expect(Math.max(...shifts.map((s) => Math.abs(s.x) + Math.abs(s.y)))).toBeLessThan(0.004);
  await expect(ask(`/projects/${project}/jobs`, { kind: 'heldout', sourceId: 'none' })).rejects.toMatchObject({ status: 404 });
});

test('a check finds what repeats, and says what it covers', async () => {
  const { verdict, range, region, trace } = await check('twice');
  expect(verdict).toMatchObject({ kind: 'padded', trueRate: 25, fields: { kind: 'none' } });
  expect(range).toEqual({ from: 0, to: verdict.pictures });
  expect(region).toBeNull();
  expect(trace).toHaveLength(verdict.pictures - 1);
});

test("a part's check is told in the file's own numbers and never passes for the whole", async () => {
  expect(await ask(`/media/${media.twice}/check/part`)).toBeNull();
  await ask(`/projects/${project}/jobs`, {
    kind: 'check',
    sourceIds: [ids.twice],
    range: { from: 60, to: 120 },
    region: { x: 0.1, y: 0.1, width: 0.5, height: 0.6 },
  });
  await server.settled(project);
  const part = await ask<CheckReply>(`/media/${media.twice}/check/part`);
  expect(part.range).toEqual({ from: 60, to: 120 });
  expect(part.region).toEqual({ x: 32, y: 18, width: 160, height: 108 });
  expect(part.verdict).toMatchObject({ kind: 'padded', pictures: 60, trueRate: 25 });
  expect(Math.min(...part.verdict.held)).toBeGreaterThanOrEqual(60);
  expect(Math.max(...part.verdict.held)).toBeLessThan(120);
  expect((await check('twice')).range.from).toBe(0);
  const all = await ask<CheckSummary[]>(`/projects/${project}/checks`);
  expect(all.filter((c) => c.mediaId === media.twice)).toHaveLength(1);
});

test.each([
  [{ range: { from: 10, to: 10 } }, 400],
  [{ range: { from: -1, to: 10 } }, 400],
  [{ range: { from: 199, to: 900 } }, 422],
  [{ region: { x: 0.8, y: 0, width: 0.5, height: 1 } }, 400],
])('a part that is none is refused: %j', async (part, status) => {
  const refusal = await server.refused(`/projects/${project}/jobs`, { kind: 'check', sourceIds: [ids.twice], ...part });
  expect(refusal.status).toBe(status);
});

test('two sources are compared: another size, codec and container, the same pictures', async () => {
  const [job] = await ask<JobReply[]>(`/projects/${project}/jobs`, { kind: 'compare', a: ids.master, b: ids.copy });
  await server.settled(project);
  const found = await ask<ComparisonReply>(`/jobs/${job?.id}/comparison`);
  expect(found).toMatchObject({ a: ids.master, b: ids.copy, rateA: rate(25), rateB: rate(25), repeatedInB: [], blendsInB: [] });
  const exact = found.path.filter(([a, b]) => a === b).length;
  expect(exact / found.picturesB).toBeGreaterThan(0.98);
  expect(found.speed).toBeCloseTo(1, 3);
  expect(found.certainty).toBeGreaterThan(0.5);
  const listed = await ask<{ jobId: string }[]>(`/projects/${project}/comparisons`);
  expect(listed.map((c) => c.jobId)).toEqual([job?.id]);
  expect(listed[0]).not.toHaveProperty('path');
});

test('a source is not compared with itself, nor with one that is not there', async () => {
  const compare = (b: string | undefined) => server.refused(`/projects/${project}/jobs`, { kind: 'compare', a: ids.master, b });
  expect(await compare(ids.master)).toEqual({ status: 422, code: 'same-source' });
  expect(await compare('nobody')).toEqual({ status: 404, code: 'unknown-source' });
});

describe('reports', () => {
  const report = (form: string) => fetch(`${server.url}/api/projects/${project}/sources/${ids.twice}/report/${form}`);

  test('the page holds the verdict, the chart and the pictures, and fetches nothing', async () => {
    const reply = await report('html');
    expect(reply.headers.get('content-type')).toContain('text/html');
    const page = await reply.text();
    expect(page).toContain('Every picture is stored 2 times');
    expect(page).toContain('<svg');
    expect(page).toContain('data:image/jpeg;base64,');
    expect(page).not.toMatch(/(?:src|href)="(?!data:)/);
  });

  test('CSV has a line a finding, JSON everything', async () => {
    const { verdict } = await check('twice');
    const lines = (await (await report('csv')).text()).trim().split('\r\n');
    expect(lines[0]).toBe('picture,timecode,seconds,what,share,note');
    expect(lines).toHaveLength(1 + verdict.held.length + verdict.jumps.length + verdict.blends.length);
    const json = JSON.parse(await (await report('json')).text());
    expect(json).toMatchObject({ name: 'twice', verdict: { held: verdict.held } });
    expect(json.trace).toHaveLength(verdict.pictures - 1);
  });

  test('the marks are read back from both forms of edit files', async () => {
    const { verdict } = await check('twice');
    const [otio] = readOtio(await (await report('otio')).text()).edits;
    expect(otio?.marks.map((m) => m.frame)).toEqual(verdict.held);
    const text = await (await report('edl')).text();
    const [edl] = readEdl(text, rate(50)).edits;
    expect(edl?.marks.map((m) => m.frame)).toEqual(verdict.held);
  });

  test('what was not checked has no report, and there are no other forms', async () => {
    expect(await server.refused(`/projects/${project}/sources/${ids.master}/report/json`)).toEqual({
      status: 404,
      code: 'not-checked',
    });
    expect((await report('pdf')).status).toBe(400);
  });
});

test('new pictures only: half of the pictures, the same length, one step to undo', async () => {
  const { verdict } = await check('twice');
  const held = [...verdict.held];
  const reading = { rate: rate(25), pictures: 'new', from: 'true', sound: 'along', held };
  const command = { type: 'readAt', readings: [{ sourceId: ids.twice, reading }], uses: 'move' };
  const change = await ask<{ undoLabel: string }>(`/projects/${project}/commands`, { command });
  expect(change.undoLabel).toBe('Keep the new pictures of twice only');
  const ledger = await ask<{ seconds: number; lines: { what: string; from: string }[] }>(
    `/projects/${project}/sources/${ids.twice}/ledger`,
  );
  expect(ledger.seconds).toBeCloseTo(4, 1);
  expect(ledger.lines.find((l) => l.what === 'read')?.from).toContain('new pictures only');
  await ask(`/projects/${project}/undo`, {});
});

test("a timeline's own frames are told apart: what its rate does, what its sources do, what is shown twice", async () => {
  interface Judged {
    frames: Record<string, number>;
    trueRate: number;
    findings: { from: number; cause: string }[];
    uncheckedIds: string[];
  }
  const timeline = { id: 'line', name: 'At 30', rate: rate(30), width: 320, height: 180, startFrame: 0, dropFrame: false };
  let made = 0;
  const command = (one: CommandInput) => ask<object>(`/projects/${project}/commands`, { command: one });
  await command({ type: 'addTimeline', timeline });
  for (const name of ['master', 'twice', 'master']) {
    const { document } = await ask<ProjectState>(`/projects/${project}`);
    const placed = document.timelines[0];
    const source = document.sources.find((one) => one.id === ids[name]);
    if (!placed || !source) throw new Error('nothing to place');
    const newId = () => `c${made++}`;
    await command({
      type: 'placeClips',
      timelineId: 'line',
      clips: clipsFor({ timeline: placed, source, fit: 'nearest', newId }, noTiming),
    });
  }
  const judged = await ask<Judged>(`/projects/${project}/timelines/line/check`);
  // 25 in 30 for 120 frames, twice: one frame in six is held by the rate. 50 in 30 of which half hold: as many, but the source's doing.
  expect(judged.frames).toMatchObject({ rate: 40, source: 20, cut: 0, jump: 0 });
  expect(judged.uncheckedIds).toEqual([ids.master]);
  expect(judged.trueRate).toBeCloseTo(25, 1);
  expect(await ask(`/projects/${project}/reuse`)).toMatchObject([{ sourceId: ids.master, from: 0, to: 100 }]);
});

test('a timeline is compared with a file as it would be rendered', async () => {
  const [job] = await ask<JobReply[]>(`/projects/${project}/jobs`, { kind: 'compare', a: ids.master, b: 'line' });
  await server.settled(project);
  const found = await ask<ComparisonReply>(`/jobs/${job?.id}/comparison`);
  expect(found).toMatchObject({ names: { a: 'master', b: 'At 30' }, rateB: { num: 30, den: 1 }, picturesB: 360 });
  expect(found.certainty).toBeGreaterThan(0.5);
  // The first 120 frames show the master's 100 pictures, one in six again.
  const path = new Map(found.path.map(([a, b]) => [b, a]));
  const right = Array.from({ length: 120 }, (_, n) => path.get(n) === Math.floor((n * 25) / 30));
  expect(right.filter(Boolean).length).toBeGreaterThan(110);
  const empty = { id: 'none', name: 'Empty', rate: rate(25), width: 320, height: 180, startFrame: 0, dropFrame: false };
  await ask(`/projects/${project}/commands`, { command: { type: 'addTimeline', timeline: empty } });
  await expect(ask(`/projects/${project}/jobs`, { kind: 'compare', a: 'none', b: 'line' })).rejects.toMatchObject({
    reply: { code: 'timeline-empty' },
  });
});
