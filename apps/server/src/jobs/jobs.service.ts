import { mkdir, readdir, rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { JobReply } from '@thawline/contract';
import { jobOf } from '@thawline/contract';
import { type Progress, removeUnfinished, type ShowPicture } from '@thawline/work';
import {
  endedAs,
  type JobChange,
  type JobEnd,
  type ListedJob,
  listed,
  openAs,
  Store,
  type StoredJob,
} from '../database/store.js';
import { asStoreError } from '../database/storeError.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';
import { RUNNER, type Runner } from '../ports.js';
import { newId, now, ProjectsService } from '../projects/projects.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { CacheService } from './cache.service.js';
import { EtaEstimator } from './etaEstimator.js';
import { SpecsService } from './specs.service.js';

/** Jobs that have ended are listed up to so many. */
export const SHOWN_ENDED = 200;

/** What comes after a phase, as a share of the time that all of it takes: a render is measured when it is written. */
const AFTER: Readonly<Record<string, number>> = { 'writing frames': 0.7 };

/** While the disk is full, a job's end is retried with growing delays, this long at most. */
const STORE_AGAIN_MS = { first: 250, most: 10_000 } as const;

/** A job that was ended from outside begins again by itself so often. */
const ACCIDENTS = 3;

/** How a change of a job's row is written. */
type KeepJob = (id: string, change: JobChange) => Promise<void>;
/** A change that leaves a job waiting or running, or as it is. */
type Going = Extract<JobChange, { state?: 'queued' | 'running' | 'paused' | undefined }>;

interface Live {
  readonly stop: AbortController;
  pace: EtaEstimator;
  done: number;
  total: number | null;
  phase: string;
  /** What happens to the job once its process has stopped. */
  ends: 'cancelled' | 'paused';
  picture: { readonly frame: number; readonly jpeg: Uint8Array } | null;
}

/** Heavy work: rows in the database, carried out in their order, one thread a core. */
@Injectable()
export class JobsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly logger = new Logger('jobs');
  private readonly live = new Map<string, Live>();
  private readonly most = Math.max(1, availableParallelism());
  private closing = false;
  /** Proxies wait until then (ms of the monotonic clock): reading files that a person is adding goes first. */
  private quietUntil = 0;
  private pumping = Promise.resolve();
  /** How often each was ended from outside. */
  private readonly accidents = new Map<string, number>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(EventsService) private readonly events: EventsService,
    @Inject(SpecsService) private readonly specs: SpecsService,
    @Inject(CacheService) private readonly cache: CacheService,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(RUNNER) private readonly runner: Runner,
  ) {}

  /** What a server that died was doing begins again; what it left half done on disk is removed first. */
  async onApplicationBootstrap(): Promise<void> {
    await mkdir(join(this.settings.dataFolder, 'renders'), { recursive: true });
    for (const { path } of this.settings.renderFolders) await removeUnfinished(path);
    await this.dropWorks();
    await this.cache.trim();
    // On a full disk this is retried in the background; the server's start does not wait for it.
    void this.beginAgain();
  }

  private async beginAgain(): Promise<void> {
    try {
      await this.store.failLostJobs();
      for (const { id } of await this.store.jobs({ states: ['running'] }, false))
        await this.insist(id, { ...openAs('queued'), done: 0, phase: 'waiting again', startedAt: null });
    } catch (error) {
      this.logger.error(`jobs of before do not go on: ${String(error)}`);
    }
    this.pump();
  }

  async onApplicationShutdown(): Promise<void> {
    this.closing = true;
    for (const { stop } of this.live.values()) stop.abort();
    for (let waited = 0; this.live.size > 0 && waited < 6000; waited += 50)
      await new Promise((resolve) => setTimeout(resolve, 50));
  }

  /** Delays proxies that have not begun, in milliseconds. */
  holdProxies(ms: number): void {
    this.quietUntil = Math.max(this.quietUntil, performance.now() + ms);
    setTimeout(() => this.pump(), ms + 10).unref();
  }

  async list(projectId: string): Promise<JobReply[]> {
    await this.projects.document(projectId);
    const active = await this.store.listedJobs(projectId, ['queued', 'running', 'paused']);
    const ended = await this.store.listedJobs(projectId, ['done', 'failed', 'cancelled'], SHOWN_ENDED);
    return [...active, ...ended].sort((a, b) => b.order - a.order).map((job) => this.reply(job));
  }

  /** Stops a waiting, paused or running job. Does not wait for a running one to stop; its partial output is removed afterwards. */
  async stop(id: string): Promise<JobReply> {
    const job = await this.job(id);
    const running = this.live.get(id);
    if (running) {
      running.ends = 'cancelled';
      running.stop.abort();
      return this.reply(listed({ ...job, phase: 'stopping' }));
    }
    if (job.state !== 'queued' && job.state !== 'paused') return this.reply(listed(job));
    return this.finish(job, { state: 'cancelled' }, { phase: 'stopped' });
  }

  /** Keeps a job from beginning, or from going on: a render keeps the parts it wrote, other work begins anew later. */
  async pause(id: string): Promise<JobReply> {
    const job = await this.job(id);
    const running = this.live.get(id);
    if (running) {
      running.ends = 'paused';
      running.stop.abort();
      return this.reply(listed({ ...job, phase: 'pausing' }));
    }
    if (job.state !== 'queued') return this.reply(listed(job));
    return this.put(job, { ...openAs('paused'), phase: 'paused' });
  }

  async resume(id: string): Promise<JobReply> {
    const job = await this.job(id);
    // A job that is still stopping in order to pause cannot be resumed before it has stopped.
    const running = this.live.get(id);
    if (job.state !== 'paused') {
      if (running?.ends === 'paused' && running.stop.signal.aborted)
        throw new Failure('not-finished', { id }, 'It is pausing: a moment.');
      return this.reply(listed(job));
    }
    return this.put(job, { ...openAs('queued'), phase: 'waiting' });
  }

  /** Once more what failed or was stopped, as it was asked for. */
  async again(id: string): Promise<JobReply> {
    const job = await this.job(id);
    if (job.state !== 'failed' && job.state !== 'cancelled')
      throw new Failure('not-finished', { id }, `${job.label} did not fail: there is nothing to try again.`);
    this.accidents.delete(id);
    return this.put(job, {
      ...openAs('queued'),
      phase: 'waiting',
      done: 0,
      total: null,
      startedAt: null,
    });
  }

  /** Lets a waiting job come before another one of its project; null: last. Returns those that wait, in their order. */
  async move(id: string, before: string | null): Promise<JobReply[]> {
    const job = await this.job(id);
    const states = ['queued', 'paused'] as const;
    const waiting = await this.store.jobs({ projectId: job.projectId, states }, false);
    if (!waiting.some((j) => j.id === id)) throw new Failure('not-finished', { id }, `${job.label} does not wait any more.`);
    const others = waiting.filter((j) => j.id !== id);
    const at = before === null ? others.length : others.findIndex((j) => j.id === before);
    if (at < 0) throw new Failure('unknown-job', { id: before ?? '' }, 'That one does not wait any more.');
    await this.store.orderJobs([...others.slice(0, at), job, ...others.slice(at)].map((j) => j.id));
    const now = await this.store.jobs({ projectId: job.projectId, states }, false);
    const told = now.map(listed);
    for (const one of told) this.tell(one);
    return told.map((one) => this.reply(one));
  }

  /** What a running job makes, as JPEG; null where there is nothing to see. */
  async picture(id: string): Promise<Uint8Array | null> {
    await this.job(id);
    return this.live.get(id)?.picture?.jpeg ?? null;
  }

  /** Pauses a project's jobs, because it was put into the bin. */
  async pauseAll(projectId: string): Promise<void> {
    for (const { id } of await this.store.listedJobs(projectId, ['queued', 'running'])) await this.pause(id);
  }

  /** Lets a project's jobs go on. */
  async resumeAll(projectId: string): Promise<void> {
    for (const { id } of await this.store.listedJobs(projectId, ['paused'])) await this.resume(id);
  }

  /** Stops and forgets jobs of a kind that are worth nothing any more. */
  async drop(projectId: string, kind: string, subject: string): Promise<void> {
    for (const job of await this.store.jobs({ projectId, kind, subject }, true)) {
      if (job.state === 'running' || job.state === 'queued') await this.stop(job.id);
      else await this.store.removeJob(job.id);
    }
  }

  private async job(id: string): Promise<StoredJob> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    return job;
  }

  /** Puts a job at the end of the queue. What it needs is the caller's to look up before. */
  async add(
    projectId: string,
    {
      kind,
      label,
      subject,
      params,
    }: { readonly kind: StoredJob['kind']; readonly label: string; readonly subject: string; readonly params: object },
  ): Promise<JobReply> {
    const job = await this.store.addJob({
      id: newId(),
      projectId,
      kind,
      label,
      subject,
      params: JSON.stringify(params),
      done: 0,
      total: null,
      phase: 'waiting',
      createdAt: now(),
      startedAt: null,
      ...openAs('queued'),
    });
    this.tell(listed(job));
    this.pump();
    return this.reply(listed(job));
  }

  /** Starts waiting jobs while there are free cores. One pump at a time, so that none is started twice. */
  private pump(): void {
    this.pumping = this.pumping.then(async () => {
      if (this.closing || this.live.size >= this.most) return;
      const queued = await this.store.jobs({ states: ['queued'] }, false);
      // What a person asked for comes before what is made in the background: proxies and waveforms.
      const quiet = (j: StoredJob): boolean => jobOf(j.kind).background === true;
      const later = performance.now() < this.quietUntil ? [] : queued.filter(quiet);
      for (const job of [...queued.filter((j) => !quiet(j)), ...later]) {
        if (this.live.size >= this.most) return;
        if (!this.live.has(job.id)) await this.begin(job);
      }
    });
    this.pumping = this.pumping.catch((error: unknown) => {
      this.logger.error(String(error));
      // The disk takes nothing just now: what waits is looked at again later.
      setTimeout(() => this.pump(), STORE_AGAIN_MS.most).unref();
    });
  }

  private async begin(job: StoredJob): Promise<void> {
    const live: Live = {
      stop: new AbortController(),
      pace: new EtaEstimator(),
      done: 0,
      total: null,
      phase: 'starting',
      ends: 'cancelled',
      picture: null,
    };
    const startedAt = now();
    const running: StoredJob = { ...job, ...openAs('running'), phase: live.phase, startedAt };
    // From here on it can be stopped. The job is stored as running before any work begins, so that a restart knows of it.
    this.live.set(job.id, live);
    try {
      await this.store.updateJob(job.id, { ...openAs('running'), phase: live.phase, startedAt });
    } catch (error) {
      this.live.delete(job.id);
      throw error;
    }
    this.tell(listed(running));
    void this.carryOut(running, live)
      .catch((error: unknown) => this.logger.error(`${job.kind} ${job.id}: ${String(error)}`))
      .finally(() => {
        // It may have begun again meanwhile.
        if (this.live.get(job.id) === live) this.live.delete(job.id);
        this.pump();
      });
  }

  private async carryOut(job: StoredJob, live: Live): Promise<void> {
    const told = listed(job);
    const progress: Progress = (done, total, phase) => {
      if (phase !== live.phase) live.pace = new EtaEstimator();
      live.pace.report(performance.now() / 1000, done);
      Object.assign(live, { done, total, phase });
      this.tell({ ...told, done, total, phase });
    };
    const show: ShowPicture = (frame, jpeg) => {
      live.picture = { frame, jpeg };
    };
    try {
      const result = await this.runner(await this.specs.spec(job), { progress, signal: live.stop.signal, show });
      const reached = { phase: 'done', done: live.total ?? live.done, total: live.total };
      await this.finish(job, { state: 'done', result: JSON.stringify(result) }, reached, this.insist);
    } catch (error) {
      // A server that is shutting down leaves its jobs to begin again.
      if (this.closing) return;
      if (live.stop.signal.aborted) await this.stopped(job, live);
      else if (this.specs.isAccident(error) && this.mayTryAgain(job.id))
        await this.put(job, { ...openAs('queued'), phase: 'waiting again', done: 0, startedAt: null }, this.insist);
      else {
        const failure = await this.specs.failure(job, error);
        await this.finish(job, { state: 'failed', ...failure }, { phase: 'failed' }, this.insist);
      }
    }
  }

  private async stopped(job: StoredJob, { ends }: Live): Promise<void> {
    if (ends === 'paused') await this.put(job, { ...openAs('paused'), phase: 'paused', startedAt: null }, this.insist);
    else await this.finish(job, { state: 'cancelled' }, { phase: 'stopped' }, this.insist);
  }

  private mayTryAgain(id: string): boolean {
    const times = (this.accidents.get(id) ?? 0) + 1;
    this.accidents.set(id, times);
    return times <= ACCIDENTS;
  }

  /**
   * Writes what became of a job. While the disk takes nothing it is held here and written again until it does: an hour's work is not lost
   * for a moment without room. A server that ends before leaves the job as it was, to begin again.
   */
  private readonly insist: KeepJob = async (id, change) => {
    for (let wait: number = STORE_AGAIN_MS.first; ; wait = Math.min(2 * wait, STORE_AGAIN_MS.most)) {
      try {
        return await this.store.updateJob(id, change);
      } catch (error) {
        if (!asStoreError(error) || this.closing) throw error;
        const live = this.live.get(id);
        if (live) live.phase = 'waiting for room on the disk';
        this.logger.warn(`job ${id} is not stored yet: ${String(error)}`);
      }
      await new Promise((resolve) => setTimeout(resolve, wait));
    }
  };

  /** Writes what a person asked for, or tells that it cannot be. */
  private readonly writeJob: KeepJob = (id, change) => this.store.updateJob(id, change);

  /** Changes a job that has not ended, and looks whether it may begin. */
  private async put(job: StoredJob, change: Going, keep: KeepJob = this.writeJob): Promise<JobReply> {
    await keep(job.id, change);
    const whole = listed({ ...job, ...change } as StoredJob);
    this.live.delete(job.id);
    this.tell(whole);
    this.pump();
    return this.reply(whole);
  }

  /** Parts of renders that will not go on. */
  private async dropWorks(): Promise<void> {
    const names = await readdir(places.works(this.settings)).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return [];
      throw error;
    });
    for (const id of names) {
      const job = await this.store.job(id);
      const goesOn = job && ['queued', 'running', 'paused'].includes(job.state);
      if (!goesOn) await this.dropWork(id);
    }
  }

  private dropWork(id: string): Promise<void> {
    return rm(places.work(this.settings, id), { recursive: true, force: true });
  }

  private async finish(
    job: StoredJob,
    end: JobEnd,
    progress: Partial<Pick<StoredJob, 'phase' | 'done' | 'total'>>,
    keep: KeepJob = this.writeJob,
  ): Promise<JobReply> {
    const ended = { ...progress, ...endedAs(end, now()) };
    // Clean up before the end is announced, so that no subscriber sees leftovers; it also frees the space that storing the end may need.
    // A failed job keeps its parts for another try; the next start of the server removes those of jobs that were not retried.
    if (end.state !== 'failed') await this.dropWork(job.id);
    if (job.kind === 'render') await this.cache.trim();
    this.accidents.delete(job.id);
    await keep(job.id, ended);
    const whole = listed({ ...job, ...ended });
    this.live.delete(job.id);
    this.tell(whole);
    return this.reply(whole);
  }

  private tell(job: ListedJob): void {
    this.events.tell(job.projectId, { type: 'job', job: this.reply(job) });
  }

  private reply(job: ListedJob): JobReply {
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
      secondsLeft:
        live && state === 'running' ? live.pace.secondsLeft(performance.now() / 1000, live.total, AFTER[live.phase]) : null,
      picture: live?.picture?.frame ?? null,
      error: job.error && { ...job.error },
      createdAt,
      endedAt,
    };
  }
}
