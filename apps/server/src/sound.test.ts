import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { AlignedReply, LoudnessReply, ProjectState } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { type CommandInput, clipsFor, noTiming, type Source } from '@thawline/project';
import { withSounds } from './database/migrations.js';
import { TestServer } from './server.fixture.js';

/** Sound over HTTP: recordings without pictures, waveforms, loudness, aligning, a timeline's sound as a file. */
const server = new TestServer();
let project = '';
let sources: Source[] = [];
const bytes: Record<string, Uint8Array> = {};

function generate(name: string, ...args: string[]): void {
  mkdirSync(server.folder, { recursive: true });
  const path = join(server.folder, name);
  const made = spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...args, path]);
  if (made.status !== 0) throw new Error(String(made.stderr));
  bytes[name] = readFileSync(path);
}
const command = (c: CommandInput) => server.ask(`/projects/${project}/commands`, { command: c });
const state = () => server.ask<ProjectState>(`/projects/${project}`);
const source = (name: string): Source => sources.find((s) => s.name === name) as Source;
const raw = async (path: string): Promise<Buffer> => Buffer.from(await (await fetch(`${server.url}/api${path}`)).arrayBuffer());

beforeAll(async () => {
  const noise = 'anoisesrc=d=12:seed=8:r=48000:a=0.3';
  generate(
    'camera.mp4',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=160x120:r=25:d=12',
    '-f',
    'lavfi',
    '-i',
    noise,
    '-c:a',
    'aac',
    '-c:v',
    'libx264',
  );
  // The same from its third second on, in a recorder of its own.
  generate('recorder.wav', '-f', 'lavfi', '-i', `${noise},atrim=start=2,asetpts=PTS-STARTPTS`, '-ar', '44100');
  generate('other.flac', '-f', 'lavfi', '-i', 'anoisesrc=d=10:seed=99:r=48000:a=0.3');
  generate('silent.wav', '-f', 'lavfi', '-i', 'anullsrc=d=3:r=48000');
  await server.start();
  project = (await server.ask<ProjectState>('/projects', { name: 'Sounds' })).id;
  const files = Object.entries(bytes).map(([name, content]) => ({ name, bytes: content }));
  sources = (await server.upload(project, files)).added as Source[];
  await command({ type: 'addTimeline', timeline: { id: 't', name: 'Main', rate: rate(25), width: 160, height: 120 } });
  await server.settled(project);
}, 120_000);
afterAll(() => server.remove());

test('a sound alone is a source of its own kind, with no rate to check', async () => {
  expect(source('recorder')).toMatchObject({
    kind: 'sound',
    sound: { sampleRate: 44_100, channels: 1 },
  });
  expect(source('recorder').seconds).toBeCloseTo(10, 3);
  const jobs = await server.jobs(project);
  expect(jobs.filter((j) => j.kind === 'proxy').map((j) => j.label)).toEqual(['camera']);
  expect(jobs.filter((j) => j.kind === 'sound' && j.state === 'done')).toHaveLength(4);
  const check = { kind: 'check', sourceIds: [source('recorder').id] };
  expect(await server.refused(`/projects/${project}/jobs`, check)).toEqual({ status: 422, code: 'no-rate' });
});

test('waveforms come in chunks of bins, loudness of any stretch', async () => {
  const { mediaId } = source('recorder');
  const coarse = await raw(`/media/${mediaId}/wave/2/0`);
  expect(coarse.length / 4).toBe(157);
  expect(Math.max(...new Int16Array(coarse.buffer.slice(coarse.byteOffset, coarse.byteOffset + coarse.length)))).toBeGreaterThan(
    5000,
  );
  expect((await raw(`/media/${mediaId}/wave/0/2`)).length / 4).toBe(10_000 - 2 * 4096);
  const { peak, loudness } = await server.ask<LoudnessReply>(`/media/${mediaId}/loudness?from=2&to=6`);
  expect(peak).toBeGreaterThan(-20);
  expect(loudness).toBeLessThan(0);
  expect(await server.ask(`/media/${source('silent').mediaId}/loudness?from=0&to=3`)).toEqual({ peak: null, loudness: null });
  expect(await server.refused(`/media/${mediaId}/wave/9/0`)).toMatchObject({ status: 400 });
});

test('two recordings are aligned as a job; what it found is asked for by their names', async () => {
  const [a, b] = [source('camera'), source('recorder')];
  expect(await server.ask(`/projects/${project}/aligned/${a.id}/${b.id}`)).toBeNull();
  await server.ask(`/projects/${project}/jobs`, { kind: 'align', a: a.id, b: b.id });
  expect((await server.settled(project))[0]).toMatchObject({ kind: 'align', state: 'done', label: 'camera and recorder' });
  const found = await server.ask<AlignedReply>(`/projects/${project}/aligned/${a.id}/${b.id}`);
  expect(found.certainty).toBeGreaterThan(0.9);
  for (const tie of found.ties) expect(Math.abs(tie.a - tie.b - 2_000_000)).toBeLessThan(1000);
  const ties = found.ties.map((t) => ({ a: t.a, b: t.b }));
  await command({ type: 'placeAligned', aId: a.id, bId: b.id, timelineId: 't', ties, seed: 'p' });
  const clips = (await state()).document.timelines[0]?.clips ?? [];
  expect(clips.find((c) => c.sourceId === b.id)).toMatchObject({ laneId: 's2', start: 50 });
  expect((await server.ask<{ label: string }[]>(`/projects/${project}/history`))[0]?.label).toBe(
    'Placed recorder along camera on Main',
  );
});

test('sounds that do not match, silence, and a pair that is none are told', async () => {
  const [a, b] = [source('camera'), source('other')];
  await server.ask(`/projects/${project}/jobs`, { kind: 'align', a: a.id, b: b.id });
  await server.ask(`/projects/${project}/jobs`, { kind: 'align', a: source('silent').id, b: b.id });
  const [silent] = await server.settled(project);
  expect(silent).toMatchObject({ kind: 'align', state: 'failed', error: { code: 'silent' } });
  expect(silent?.error?.message).toMatch(/^The sound of silent is silent/);
  expect((await server.ask<AlignedReply>(`/projects/${project}/aligned/${a.id}/${b.id}`)).certainty).toBeLessThan(0.5);
  const same = { kind: 'align', a: a.id, b: a.id };
  expect(await server.refused(`/projects/${project}/jobs`, same)).toEqual({ status: 422, code: 'same-source' });
  const crossing = {
    type: 'setTies',
    aId: a.id,
    bId: b.id,
    ties: [
      { a: 1, b: 9e6 },
      { a: 9e6, b: 1 },
    ],
  };
  expect(await server.refused(`/projects/${project}/commands`, { command: crossing })).toEqual({
    status: 422,
    code: 'ties-cross',
  });
});

test('a timeline is saved as WAV, to the sample, with its timecode', async () => {
  const { document } = await state();
  const [timeline] = document.timelines;
  if (!timeline) throw new Error('no timeline');
  await command({ type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 160, height: 120, startFrame: 90_000 });
  await command({ type: 'setRange', timelineId: 't', range: { from: 25, to: 125 } });
  for (const [form, width] of [
    ['s24', 3],
    ['f32', 4],
  ] as const) {
    const wav = await raw(`/projects/${project}/timelines/t/sound.wav?form=${form}`);
    const at = wav.indexOf('data', 0, 'latin1');
    expect(wav.readUInt32LE(at + 4)).toBe(4 * 48_000 * 2 * width);
    expect(wav.length).toBe(at + 8 + 4 * 48_000 * 2 * width);
    const bext = wav.indexOf('bext', 0, 'latin1') + 8;
    expect(Number(wav.readBigUInt64LE(bext + 338))).toBe(((90_000 + 25) / 25) * 48_000);
    const path = join(server.folder, `saved-${form}.wav`);
    writeFileSync(path, wav);
    const shown = ['-v', 'error', '-show_entries', 'stream=codec_name,duration', '-of', 'csv=p=0', path];
    const said = String(spawnSync('ffprobe', shown).stdout).trim();
    expect(said).toBe(form === 's24' ? 'pcm_s24le,4.000000' : 'pcm_f32le,4.000000');
  }
  expect(await server.refused(`/projects/${project}/timelines/t/sound.wav?form=mp3`)).toMatchObject({ status: 400 });
  expect(await server.refused(`/projects/${project}/timelines/none/sound.wav`)).toMatchObject({ code: 'unknown-timeline' });
});

test('a clip of sound alone is placed, cut and heard', async () => {
  await command({ type: 'addTimeline', timeline: { id: 'u', name: 'Sound only', rate: rate(24), width: 160, height: 120 } });
  const timeline = (await state()).document.timelines.find((t) => t.id === 'u');
  if (!timeline) throw new Error('no timeline');
  let n = 0;
  const clips = clipsFor({ timeline, source: source('recorder'), fit: 'nearest', newId: () => `u${n++}` }, noTiming);
  expect(clips).toHaveLength(1);
  await command({ type: 'placeClips', timelineId: 'u', clips });
  await command({ type: 'setSound', timelineId: 'u', clipIds: ['u0'], level: -12 });
  const wav = await raw(`/projects/${project}/timelines/u/sound?from=0&to=24`);
  expect(wav.length - wav.indexOf('data') - 8).toBe(48_000 * 4);
});

test('a source whose waveform is not there gets one when the server starts', async () => {
  const { mediaId } = source('recorder');
  await server.end('SIGTERM');
  rmSync(join(server.data, 'media', mediaId, 'sound-true-peak.wave'));
  await server.start();
  await server.settled(project);
  expect((await raw(`/media/${mediaId}/wave/2/0`)).length / 4).toBe(157);
  // Those that are there are not made again.
  expect((await server.jobs(project)).filter((j) => j.kind === 'sound')).toHaveLength(5);
});

test('projects of before are brought up to date', () => {
  const clip = { headTrim: 0, laneId: 's1' };
  const before = { name: 'x', sources: [], timelines: [{ clips: [clip] }] };
  expect(withSounds(before)).toEqual({
    ...before,
    alignments: [],
    timelines: [{ clips: [{ ...clip, sound: null, level: 0, slip: 0 }] }],
  });
});
