import { mkdir, readdir, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { JobReply } from '@thawline/contract';
import { MEDIA_CODES, type MediaCode, sentence } from '@thawline/media';
import { filesOf, isMoving, type Project, type Source } from '@thawline/project';
import {
  type Compared,
  type FrameRange,
  JobError,
  type JobResult,
  type JobSpec,
  type Progress,
  type RenderInput,
  type SourceFile,
} from '@thawline/work';
import { Store, type StoredJob } from '../database/store.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';
import { newId, now, ProjectsService } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';
import { type AlignParams, alignSubject } from './alignments.js';
import { type CheckPart, type Comparable, type CompareParams, comparable, optionsOf, PART, partOf, WHOLE } from './checks.js';
import { fileStem, type RenderParams, renderOf } from './renders.js';

/** How a job is carried out: in the product by a worker thread. Rejects with JobError. */
export type Runner = (spec: JobSpec, progress: Progress, signal: AbortSignal) => Promise<JobResult>;
export const RUNNER = Symbol('runner');

/** Jobs that have ended are listed up to so many. */
export const SHOWN_ENDED = 200;

interface Live {
  readonly stop: AbortController;
  startedAt: number;
  done: number;
  total: number | null;
  phase: string;
}

/** Heavy work: rows in the database, carried out oldest first, one thread a core. */
@Injectable()
export class JobsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('jobs');
  private readonly live = new Map<string, Live>();
  private readonly most = Math.max(1, availableParallelism());
  private closing = false;
  /** Proxies wait until then (ms since 1970): reading files that a person is adding goes first. */
  private quietUntil = 0;
  private pumping = Promise.resolve();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(EventsService) private readonly events: EventsService,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(RUNNER) private readonly runner: Runner,
  ) {}

  /** What a server that died was doing begins again; what it left half done on disk is removed first. */
  async onApplicationBootstrap(): Promise<void> {
    await mkdir(places.renders(this.settings), { recursive: true });
    await rm(places.incoming(this.settings), { recursive: true, force: true });
    await removePartials(places.renders(this.settings));
    for (const job of await this.store.jobs({ states: ['running'] }, false)) {
      await this.store.updateJob(job.id, { state: 'queued', done: 0, phase: 'waiting again', startedAt: null });
    }
    this.pump();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    for (const { stop } of this.live.values()) stop.abort();
    for (let waited = 0; this.live.size > 0 && waited < 6000; waited += 50)
      await new Promise((resolve) => setTimeout(resolve, 50));
  }

  /** Lets no proxy begin for so long. */
  holdProxies(ms: number): void {
    this.quietUntil = Math.max(this.quietUntil, Date.now() + ms);
    setTimeout(() => this.pump(), ms + 10).unref();
  }

  /** What is made of every source without being asked for: small pictures to play and look at, waveform and loudness. */
  async startBackground(projectId: string, source: Source): Promise<void> {
    if (source.kind !== 'sound') await this.add(projectId, 'proxy', source.name, source.mediaId, {});
    if (source.sound) await this.add(projectId, 'sound', source.name, source.mediaId, {});
  }

  async startAlign(projectId: string, a: string, b: string): Promise<JobReply> {
    const document = await this.projects.document(projectId);
    const [first, second] = [a, b].map((id) => {
      const source = document.sources.find((s) => s.id === id);
      if (!source) throw new Failure('unknown-source', { id }, 'There is no such source.');
      if (source.lost) throw new Failure('file-missing', {}, `${source.name} was not found yet.`);
      if (!source.sound)
        throw new Failure('no-sound', {}, `${source.name} has no sound. Tie moments of it by hand, by its pictures.`);
      return source;
    }) as [Source, Source];
    if (first.mediaId === second.mediaId) throw new Failure('same-source', {}, 'Choose two different sources to align.');
    const params: AlignParams = { mediaA: first.mediaId, mediaB: second.mediaId, names: { a: first.name, b: second.name } };
    return this.add(projectId, 'align', `${first.name} and ${second.name}`, alignSubject(first.mediaId, second.mediaId), params);
  }

  async startChecks(projectId: string, sourceIds: readonly string[], part: CheckPart = WHOLE): Promise<JobReply[]> {
    const document = await this.projects.document(projectId);
    const all = sourceIds.map((id) => {
      const source = document.sources.find((s) => s.id === id);
      if (!source) throw new Failure('unknown-source', { id }, 'There is no such source.');
      return source;
    });
    // A still has no rate to check: among others it is left out, by itself it is told.
    const sources = all.filter((s) => isMoving(s) && !s.lost);
    const lost = all.find((s) => s.lost);
    if (lost && sources.length === 0) throw new Failure('file-missing', {}, `${lost.name} was not found yet.`);
    if (all[0] && sources.length === 0) throw new Failure('no-rate', { source: all[0].name, kind: all[0].kind });
    const jobs: JobReply[] = [];
    for (const source of sources) {
      const { range, region } = part;
      const whole = !range && !region;
      if (range && range.from >= source.pictures - 1)
        throw new Failure(
          'past-source',
          {},
          `${source.name} has ${source.pictures} pictures; a check needs at least two of them.`,
        );
      const label = whole ? source.name : `${source.name}, part`;
      jobs.push(
        await this.add(
          projectId,
          'check',
          label,
          whole ? source.mediaId : partOf(source.mediaId),
          whole ? {} : { range, region },
        ),
      );
    }
    return jobs;
  }

  async startCompare(projectId: string, a: string, b: string): Promise<JobReply> {
    const document = await this.projects.document(projectId);
    const [first, second] = [a, b].map((id) => comparable(document, id)) as [Comparable, Comparable];
    if (first.mediaId === second.mediaId) throw new Failure('same-source');
    const params: CompareParams = {
      a,
      b,
      mediaA: first.mediaId,
      mediaB: second.mediaId,
      edits: { a: first.edit, b: second.edit },
      names: { a: first.name, b: second.name },
    };
    return this.add(projectId, 'compare', `${first.name} and ${second.name}`, second.mediaId, params);
  }

  /** What is measured of a whole moving source: what its material allows made pictures, or how it pans. */
  async startMeasure(projectId: string, kind: 'heldout' | 'pan' | 'sound', sourceId: string): Promise<JobReply> {
    const { sources } = await this.projects.document(projectId);
    const source = sources.find((s) => s.id === sourceId);
    if (!source) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    if (source.lost) throw new Failure('file-missing', {}, `${source.name} was not found yet.`);
    if (kind === 'sound' && !source.sound) throw new Failure('no-sound', { source: source.name });
    if (kind !== 'sound' && !isMoving(source)) throw new Failure('no-rate', { source: source.name, kind: source.kind });
    return this.add(projectId, kind, source.name, source.mediaId, {});
  }

  async startRender(projectId: string, timelineId: string, inToOut = false): Promise<JobReply> {
    const document = await this.projects.document(projectId);
    const { timeline, ...render } = renderOf(document, timelineId, inToOut);
    const before = await this.store.jobs({ projectId, kind: 'render' }, true);
    const number = before.filter((j) => j.subject === timelineId).length + 1;
    const file = `${fileStem(timeline.name)}-${number}-${newId().slice(0, 4)}.mp4`;
    const params: RenderParams = { ...render, file };
    return this.add(projectId, 'render', `${timeline.name}, render ${number}`, timelineId, params);
  }

  async list(projectId: string): Promise<JobReply[]> {
    await this.projects.document(projectId);
    const active = await this.store.jobs({ projectId, states: ['queued', 'running'] }, true);
    const ended = await this.store.jobs({ projectId, states: ['done', 'failed', 'cancelled'] }, true, SHOWN_ENDED);
    return [...active, ...ended].sort((a, b) => b.order - a.order).map((job) => this.reply(job));
  }

  /** Stops a waiting or running job. Resolves when its process is told; what it wrote is removed by itself. */
  async stop(id: string): Promise<JobReply> {
    const job = await this.job(id);
    const running = this.live.get(id);
    if (running) {
      running.stop.abort();
      return this.reply({ ...job, phase: 'stopping' });
    }
    if (job.state !== 'queued') return this.reply(job);
    return this.finish(job, { state: 'cancelled', phase: 'stopped' });
  }

  private async job(id: string): Promise<StoredJob> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    return job;
  }

  private async add(
    projectId: string,
    kind: StoredJob['kind'],
    label: string,
    subject: string,
    params: object,
  ): Promise<JobReply> {
    const job = await this.store.addJob({
      id: newId(),
      projectId,
      kind,
      state: 'queued',
      label,
      subject,
      params: JSON.stringify(params),
      done: 0,
      total: null,
      phase: 'waiting',
      result: null,
      errorCode: null,
      errorMessage: null,
      createdAt: now(),
      startedAt: null,
      endedAt: null,
    });
    this.tell(job);
    this.pump();
    return this.reply(job);
  }

  /** Starts waiting jobs while there are free cores. One pump at a time, so that none is started twice. */
  private pump(): void {
    this.pumping = this.pumping.then(async () => {
      if (this.closing || this.live.size >= this.most) return;
      const queued = await this.store.jobs({ states: ['queued'] }, false);
      // What a person asked for comes before what is made in the background: proxies and waveforms.
      const quiet = (j: StoredJob): boolean => j.kind === 'proxy' || j.kind === 'sound';
      const later = Date.now() < this.quietUntil ? [] : queued.filter(quiet);
      for (const job of [...queued.filter((j) => !quiet(j)), ...later]) {
        if (this.live.size >= this.most) return;
        if (!this.live.has(job.id)) await this.begin(job);
      }
    });
    this.pumping = this.pumping.catch((error: unknown) => this.logger.error(String(error)));
  }

  private async begin(job: StoredJob): Promise<void> {
    const live: Live = { stop: new AbortController(), startedAt: Date.now(), done: 0, total: null, phase: 'starting' };
    this.live.set(job.id, live);
    const running: StoredJob = { ...job, state: 'running', phase: live.phase, startedAt: now() };
    await this.store.updateJob(job.id, { state: 'running', phase: live.phase, startedAt: running.startedAt });
    this.tell(running);
    void this.carryOut(running, live).finally(() => {
      this.live.delete(job.id);
      this.pump();
    });
  }

  private async carryOut(job: StoredJob, live: Live): Promise<void> {
    const progress: Progress = (done, total, phase) => {
      if (phase !== live.phase) live.startedAt = Date.now();
      Object.assign(live, { done, total, phase });
      this.tell({ ...job, done, total, phase });
    };
    try {
      const result = await this.runner(await this.spec(job), progress, live.stop.signal);
      await this.finish(job, {
        state: 'done',
        phase: 'done',
        done: live.total ?? live.done,
        total: live.total,
        result: JSON.stringify(result),
      });
    } catch (error) {
      // A server that is shutting down leaves its jobs to begin again.
      if (this.closing) return;
      if (live.stop.signal.aborted) await this.finish(job, { state: 'cancelled', phase: 'stopped' });
      else await this.finish(job, { state: 'failed', phase: 'failed', ...(await this.failure(job, error)) });
    }
  }

  private async failure(job: StoredJob, error: unknown): Promise<{ errorCode: string; errorMessage: string }> {
    // A file that vanished on the way makes all sorts of errors: say what happened, not how it showed. Those of several are told by the job itself.
    const single = job.kind !== 'render' && job.kind !== 'align';
    const gone = single && (await this.media.open(job.subject.replace(PART, '')).then(() => null, asFailure));
    if (gone) return { errorCode: gone.code, errorMessage: gone.message };
    if (error instanceof JobError && isMediaCode(error.code)) {
      const whose = error.which ? (JSON.parse(job.params) as AlignParams).names[error.which] : job.label;
      return { errorCode: error.code, errorMessage: sentence(error.code, whose, error.detail) };
    }
    if (error instanceof Failure) return { errorCode: error.code, errorMessage: error.message };
    this.logger.error(String(error));
    return {
      errorCode: 'crashed',
      errorMessage: `${job.label} stopped unexpectedly. Start it again; nothing half done was kept.`,
    };
  }

  private async spec(job: StoredJob): Promise<JobSpec> {
    if (job.kind === 'render') return this.renderSpec(JSON.parse(job.params) as RenderParams);
    if (job.kind === 'compare') {
      const { mediaA, mediaB, edits } = JSON.parse(job.params) as CompareParams;
      const side = (media: string, edit: Project | null): Promise<Compared> =>
        edit ? this.input(edit, media).then((input) => ({ input })) : this.media.open(media);
      return { kind: 'compare', a: await side(mediaA, edits?.a ?? null), b: await side(mediaB, edits?.b ?? null) };
    }
    if (job.kind === 'align') {
      const { mediaA, mediaB } = JSON.parse(job.params) as AlignParams;
      return { kind: 'align', a: await this.media.open(mediaA), b: await this.media.open(mediaB) };
    }
    const file = await this.media.open(job.subject.replace(PART, ''));
    if (job.kind === 'check')
      return { kind: 'check', ...file, options: optionsOf(JSON.parse(job.params) as CheckPart, file.probe) };
    if (job.kind === 'heldout' || job.kind === 'pan') return { kind: job.kind, ...file };
    return { kind: job.kind === 'sound' ? 'sound' : 'proxy', ...file, folder: places.media(this.settings, job.subject) };
  }

  private async renderSpec({ project, timelineId, file, range = null }: RenderParams): Promise<JobSpec> {
    const input = await this.input(project, timelineId, range);
    return { kind: 'render', input, path: join(places.renders(this.settings), file) };
  }

  /** An edit with the files it needs. */
  private async input(project: Project, timelineId: string, range: FrameRange | null = null): Promise<RenderInput> {
    const timeline = project.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId });
    const files: Record<string, SourceFile> = {};
    for (const { mediaId } of filesOf(project, timeline, range)) files[mediaId] = await this.media.open(mediaId);
    return { project, timeline, files, range };
  }

  private async finish(job: StoredJob, change: Partial<StoredJob>): Promise<JobReply> {
    const ended = { ...change, endedAt: now() };
    await this.store.updateJob(job.id, ended);
    const whole = { ...job, ...ended };
    this.live.delete(job.id);
    this.tell(whole);
    return this.reply(whole);
  }

  private tell(job: StoredJob): void {
    this.events.tell(job.projectId, { type: 'job', job: this.reply(job) });
  }

  private reply(job: StoredJob): JobReply {
    const live = this.live.get(job.id);
    const { done, total, phase } = live && job.state === 'running' ? live : job;
    const { id, projectId, kind, state, label, subject, createdAt, endedAt } = job;
    return {
      id,
      projectId,
      kind,
      state,
      label,
      subject,
      done,
      total,
      phase,
      secondsLeft: live && state === 'running' ? secondsLeft(live) : null,
      error: job.errorCode ? { code: job.errorCode, message: job.errorMessage ?? job.errorCode } : null,
      createdAt,
      endedAt,
    };
  }
}

function asFailure(error: unknown): Failure | null {
  return error instanceof Failure ? error : null;
}

/** From the pace of this phase; null in its first second and before anything is done. */
function secondsLeft(live: Live): number | null {
  const spent = (Date.now() - live.startedAt) / 1000;
  if (live.total === null || live.done <= 0 || spent < 1) return null;
  return (spent / live.done) * Math.max(0, live.total - live.done);
}

async function removePartials(folder: string): Promise<void> {
  const names = await readdir(folder);
  await Promise.all(names.filter((n) => n.endsWith('.partial')).map((n) => rm(join(folder, n), { force: true })));
}

function isMediaCode(code: string): code is MediaCode {
  return (MEDIA_CODES as readonly string[]).includes(code);
}
