import { Inject, Injectable } from '@nestjs/common';
import type {
  AlignedReply,
  CheckReply,
  CheckSummary,
  ComparisonReply,
  ComparisonSummary,
  HeldOutReply,
  PanReply,
  TrialReply,
} from '@thawline/contract';
import type { AlignResult, CheckResult, HeldOut, PanResult, Trial } from '@thawline/work';
import { Store, type StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import { alignSubject } from './alignments.js';
import { checkSummary, comparisonOf, partOf } from './checks.js';
import { SHOWN_ENDED } from './jobs.service.js';

/** What finished jobs found, from their rows. */
@Injectable()
export class ResultsService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
  ) {}

  /** Newest first. */
  async comparisons(projectId: string): Promise<ComparisonSummary[]> {
    await this.projects.document(projectId);
    const jobs = await this.store.jobs({ projectId, kind: 'compare', states: ['done'] }, true, SHOWN_ENDED);
    return jobs.map((job) => {
      const { path: _path, ...summary } = comparisonOf(job);
      return summary;
    });
  }

  async comparison(id: string): Promise<ComparisonReply> {
    const job = await this.job(id);
    if (job.kind !== 'compare' || job.state !== 'done') throw new Failure('not-finished', { id });
    return comparisonOf(job);
  }

  /** The newest check of every source of the project that has one. */
  async checks(projectId: string): Promise<CheckSummary[]> {
    const document = await this.projects.document(projectId);
    const own = new Set(document.sources.map((s) => s.mediaId));
    const results = await this.store.newestResults('check', 'trace');
    return results.filter((r) => own.has(r.subject)).map(checkSummary);
  }

  async check(mediaId: string): Promise<CheckReply> {
    const job = await this.store.newestDone('check', mediaId);
    if (!job) throw new Failure('not-checked', { mediaId });
    const result = JSON.parse(job.result ?? '') as CheckResult;
    return { ...checkSummary(job), trace: [...result.trace] };
  }

  /** The newest check of a part of a file; null when there is none. */
  async partCheck(mediaId: string): Promise<CheckReply | null> {
    const job = await this.store.newestDone('check', partOf(mediaId));
    return job && this.check(partOf(mediaId));
  }

  async trial(id: string): Promise<TrialReply> {
    const job = await this.job(id);
    if (job.kind !== 'trial' || job.state !== 'done') throw new Failure('not-finished', { id });
    return { jobId: id, ...(JSON.parse(job.result ?? '') as Trial) };
  }

  /** The newest held-out test of a file; null when there is none. */
  async heldOut(mediaId: string): Promise<HeldOutReply | null> {
    const job = await this.store.newestDone('heldout', mediaId);
    if (!job) return null;
    const { psnr, ssim, perPicture } = JSON.parse(job.result ?? '') as HeldOut;
    return { psnr, ssim, perPicture: [...perPicture] };
  }

  /** What aligning two sources by sound found; null when it was not done. */
  async aligned(projectId: string, a: string, b: string): Promise<AlignedReply | null> {
    const { sources } = await this.projects.document(projectId);
    const [first, second] = [a, b].map((id) => sources.find((s) => s.id === id));
    if (!first || !second) throw new Failure('unknown-source', { id: first ? b : a }, 'There is no such source.');
    const job = await this.store.newestDone('align', alignSubject(first.mediaId, second.mediaId));
    if (!job) return null;
    const { ties, certainty, strikesA, strikesB } = JSON.parse(job.result ?? '') as AlignResult;
    const plain = ties.map(({ a: x, b: y, strength, strike }) => ({ a: x, b: y, strength, strike }));
    return { ties: plain, certainty, strikesA: [...strikesA], strikesB: [...strikesB] };
  }

  /** How a file pans; null when that was not measured. */
  async pan(mediaId: string): Promise<PanReply | null> {
    const job = await this.store.newestDone('pan', mediaId);
    return job && { shifts: [...(JSON.parse(job.result ?? '') as PanResult).shifts] };
  }

  private async job(id: string): Promise<StoredJob> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    return job;
  }
}
