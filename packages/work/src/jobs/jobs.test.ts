import { readdirSync } from 'node:fs';
import { rate } from '@thawline/core/time';
import { apply, clipsFor, commandSchema, emptyProject, formSchema, noTiming, type Project } from '@thawline/project';
import { madeSource } from '@thawline/project/fixture';
import { JOB_KINDS, JOBS, type JobKind, kindStartedBy, startJobSchema } from './definitions.js';
import { endingOf, fileStem, wantedEdit } from './render/edit.js';
import type { StartContext } from './starting.js';
import { startJob } from './startJob.js';

const talk = { ...madeSource('talk', rate(25), 200, true), mediaId: 'm' };
const timeline = { id: 't', name: 'Main cut', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false };

function changed(project: Project, command: object): Project {
  const done = apply(project, commandSchema.parse(command));
  if (!done.ok) throw new Error(done.code);
  return done.project;
}

/** One source, placed once on one timeline. */
const project: Project = [
  () => ({ type: 'addSources', sources: [talk] }),
  () => ({ type: 'addTimeline', timeline }),
  ({ timelines: [onto] }: Project) => {
    let made = 0;
    const placed = onto && clipsFor({ timeline: onto, source: talk, fit: 'nearest', newId: () => `c${made++}` }, noTiming);
    return { type: 'placeClips', timelineId: 't', clips: placed };
  },
].reduce((now, command) => changed(now, command(now)), emptyProject('Thaw'));

/** A server with two renders of the timeline so far, and no desk. */
const context = (document: Project = project): StartContext => ({
  document,
  count: async () => 2,
  drop: async () => undefined,
  writtenRender: async <Params>() => ({
    id: 'r',
    label: 'Main cut, render 1',
    subject: 't',
    params: { project, timelineId: 't', file: 'main-cut-1', form: formSchema.parse({}) } as Params,
    paths: ['/renders/main-cut-1.mp4'],
  }),
  renderFolder: (name) => `/renders/${name ?? ''}`,
  desk: null,
});
const asked = (request: object, document?: Project) => startJob(startJobSchema.parse(request), context(document));

test.each(JOB_KINDS)('%s has a folder of its name that says how it starts and how it runs', async (kind) => {
  expect(JOBS[kind].kind).toBe(kind);
  const start = (await import(`./${kind}/start.js`)) as Record<string, unknown>;
  const runs = (await import(`./${kind}/run.js`)) as Record<string, unknown>;
  expect([typeof start.start, typeof start.specification, typeof runs.run]).toEqual(['function', 'function', 'function']);
});

test('every folder here is a kind of job, and no two kinds are started by one request', () => {
  const folders = readdirSync(import.meta.dirname, { withFileTypes: true }).filter((e) => e.isDirectory());
  expect(folders.map((f) => f.name).sort()).toEqual([...JOB_KINDS].sort());
  const requests = JOB_KINDS.flatMap((kind) => JOBS[kind].requests.map((r) => [r.shape.kind.value, kind] as const));
  expect(new Set(requests.map(([name]) => name)).size).toBe(requests.length);
  for (const [name, kind] of requests) expect(kindStartedBy({ kind: name })).toBe(kind);
});

describe('what is asked for becomes a job, or is refused with a reason', () => {
  test('sources are made ready with small pictures, and with a waveform where they sound', async () => {
    const jobs = await asked({ kind: 'proxy', sourceIds: ['talk'] });
    expect(jobs.map((j) => j.kind)).toEqual(['proxy', 'sound']);
  });

  test("a part's check never stands for the whole file's", async () => {
    const [whole] = await asked({ kind: 'check', sourceIds: ['talk'] });
    const [part] = await asked({ kind: 'check', sourceIds: ['talk'], range: { from: 3, to: 40 } });
    expect(whole?.params).toEqual({});
    expect(part).toMatchObject({ subject: `${whole?.subject}-part`, label: `${whole?.label}, part` });
  });

  test('a render is numbered behind those before it, goes where it is sent, and keeps the edit as it is', async () => {
    const [job] = await asked({ kind: 'render', timelineId: 't', folder: 'proofs' });
    expect(job).toMatchObject({ kind: 'render', subject: 't', params: { folder: '/renders/proofs', timelineId: 't' } });
    expect(job?.label).toMatch(/, render 3$/);
    const again = await asked({ kind: 'rerender', jobId: 'r', anew: [7] });
    expect(again[0]).toMatchObject({ kind: 'render', params: { file: 'main-cut-1', anew: [7] } });
  });

  const empty: Project = { ...project, timelines: project.timelines.map((t) => ({ ...t, clips: [] })) };
  const lost: Project = {
    ...project,
    sources: project.sources.map((s) => ({ ...s, lost: { name: s.name, reference: null, timecode: null } as never })),
  };
  const mute: Project = { ...project, sources: [{ ...talk, sound: null }] };
  test.each<[string, object, Project]>([
    ['unknown-timeline', { kind: 'render', timelineId: 'nobody' }, project],
    ['unknown-clip', { kind: 'trial', timelineId: 't', clipId: 'nobody' }, project],
    ['timeline-empty', { kind: 'render', timelineId: 't' }, empty],
    [
      'frames-unheld',
      { kind: 'render', timelineId: 't', form: { kind: 'mov', codec: 'dnxhr', fields: { order: 'top' } } },
      project,
    ],
    [
      'frames-unheld',
      { kind: 'trial', timelineId: 't', form: { kind: 'mov', codec: 'dnxhr', fields: { order: 'top' } } },
      project,
    ],
    ['file-missing', { kind: 'render', timelineId: 't' }, lost],
    ['file-missing', { kind: 'check', sourceIds: ['talk'] }, lost],
    ['bad-name', { kind: 'render', timelineId: 't', name: 'a/b' }, project],
    ['unknown-source', { kind: 'pan', sourceId: 'nobody' }, project],
    ['unknown-source', { kind: 'proxy', sourceIds: ['nobody'] }, project],
    ['same-source', { kind: 'align', a: 'talk', b: 'talk' }, project],
    ['same-source', { kind: 'compare', a: 'talk', b: 'talk' }, project],
    ['no-sound', { kind: 'sound', sourceId: 'talk' }, mute],
    ['no-sound', { kind: 'align', a: 'talk', b: 'talk' }, mute],
    ['past-source', { kind: 'check', sourceIds: ['talk'], range: { from: 900_000, to: 900_010 } }, project],
    ['no-desk', { kind: 'deliver', jobId: 'r' }, project],
  ])('%s: %j', async (code, request, document) => {
    await expect(asked(request, document)).rejects.toMatchObject({ code, message: expect.stringMatching(/\w/) });
  });
});

describe('rows of earlier versions are read as what they meant', () => {
  const read = <Kind extends JobKind>(kind: Kind, result: object) => JOBS[kind].result.parse(result);

  test('a check of before knew nothing of parts, mixes and fields', () => {
    const verdict = { kind: 'new', pictures: 9, storedRate: 25, trueRate: 25, held: [], jumps: [], blends: [] };
    const old = { verdict: { ...verdict, stretches: [], certainty: 1, holdCeiling: null }, trace: [1], decoded: 9 };
    expect(read('check', old)).toMatchObject({
      range: { from: 0, to: 9 },
      region: null,
      counter: null,
      verdict: { shares: [], made: [], fields: { kind: 'none', first: null } },
    });
  });

  test('a render of before had one file, one form and no receipt of its own', () => {
    const params = JOBS.render.params.parse({ project, timelineId: 't', file: 'cut-1-ab12.mp4' });
    expect(params).toMatchObject({ form: formSchema.parse({}) });
    expect(params.folder).toBeUndefined();
    const lines = [{ what: 'frames', asked: '48', measured: '48', same: true }];
    expect(read('render', { lines, wrong: [{ frame: 3, shows: 2 }], bytes: 900, differs: 1 })).toMatchObject({
      paths: [],
      receipt: { bytes: 900, differs: 1, frames: 48, wrong: [{ frame: 3, frames: 1, shows: 2, asked: null, shown: null }] },
    });
  });

  test('a trial of before gave one number', () => {
    const old = { frames: 2, reused: 0, bytes: 900, seconds: 3, psnr: null, free: 1, loudness: null, peak: null };
    expect(read('trial', { ...old, addedDb: null, gainDb: 0 })).toMatchObject({ bytes: { value: 900, least: 900, most: 900 } });
  });

  test('what is no such row at all is refused', () => {
    expect(JOBS.render.params.safeParse({ project: { name: 'no lists' }, timelineId: 't', file: 'x' }).success).toBe(false);
    expect(JOBS.check.result.safeParse({ decoded: 3 }).success).toBe(false);
  });
});

test('names and endings follow the form', () => {
  expect(fileStem('Ice-out: Teaser (24)')).toBe('ice-out-teaser-24');
  expect(fileStem('…')).toBe('timeline');
  expect(['mp4', 'webm', 'mkv', 'y4m', 'png', 'wav'].map((kind) => endingOf(formSchema.parse({ kind })))).toEqual([
    '.mp4',
    '.webm',
    '.mkv',
    '.y4m',
    '',
    '.wav',
  ]);
});

test('in to out, or one clip: the range that a render is of', () => {
  const [clip] = project.timelines[0]?.clips ?? [];
  const edit = wantedEdit(project, { timelineId: 't', range: true, clipId: clip?.id ?? '' });
  expect(edit.range).toEqual({ from: clip?.start, to: (clip?.start ?? 0) + (clip?.length ?? 0) });
  expect(wantedEdit(project, { timelineId: 't', range: true, clipId: null }).range).toBeNull();
});

test('a check of an earlier version means what it did: all it held, and one picture at each jump', () => {
  const verdict = {
    kind: 'padded',
    pictures: 6,
    storedRate: 25,
    trueRate: 12.5,
    held: [1, 3],
    jumps: [4],
    blends: [],
    stretches: [],
    certainty: 0.9,
    holdCeiling: null,
  };
  expect(JOBS.check.result.parse({ verdict, decoded: 6 })).toMatchObject({
    verdict: { held: [1, 3], unchanged: [1, 3], missing: [1], cuts: [], faults: [] },
    range: { from: 0, to: 6 },
  });
});
