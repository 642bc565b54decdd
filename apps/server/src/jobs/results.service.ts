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
import { alignSubject, JOBS, type JobResult, partSubject } from '@thawline/work';
import { Store, type StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import { SHOWN_ENDED } from './jobs.service.js';
import { checkSummary, comparedSides, resultOf } from './storedJobs.js';

const summaryWithoutPath = JOBS.compare.result.omit({ path: true });

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
    const jobs = await this.store.doneJobs({ projectId, kind: 'compare' }, SHOWN_ENDED);
    // Paths are long, and no list shows them.
    return jobs.map((job) => ({ ...summaryWithoutPath.parse(JSON.parse(job.result)), ...comparedSides(job) }));
  }

  async comparison(id: string): Promise<ComparisonReply> {
    const job = await this.job(id);
    if (job.kind !== 'compare' || job.state !== 'done') throw new Failure('not-finished', { id });
    return { ...resultOf('compare', job), ...comparedSides(job) };
  }

  /** The newest check of every source of the project that has one. */
  async checks(projectId: string): Promise<CheckSummary[]> {
    const document = await this.projects.document(projectId);
    // Of sources whose fields are read otherwise both are shown: what was found of the stored frames says how they may be read.
    const own = new Set(document.sources.flatMap((s) => [s.mediaId, s.fieldsRead?.stored.mediaId ?? s.mediaId]));
    const results = await this.store.newestResults('check', 'trace');
    return results.filter((r) => own.has(r.subject)).map(checkSummary);
  }

  async check(mediaId: string): Promise<CheckReply> {
    const job = await this.store.newestDone('check', mediaId);
    if (!job) throw new Failure('not-checked', { mediaId });
    return { ...checkSummary(job), trace: resultOf('check', job).trace };
  }

  /** The newest check of a part of a file; null when there is none. */
  async partCheck(mediaId: string): Promise<CheckReply | null> {
    const job = await this.store.newestDone('check', partSubject(mediaId));
    return job && this.check(partSubject(mediaId));
  }

  /** What a finished job of any kind found. */
  async result(id: string): Promise<JobResult> {
    const job = await this.job(id);
    if (job.state !== 'done') throw new Failure('not-finished', { id });
    return resultOf(job.kind, job);
  }

  async trial(id: string): Promise<TrialReply> {
    const job = await this.job(id);
    if (job.kind !== 'trial' || job.state !== 'done') throw new Failure('not-finished', { id });
    return { jobId: id, ...resultOf('trial', job) };
  }

  /** The newest held-out test of a file; null when there is none. */
  async heldOut(mediaId: string): Promise<HeldOutReply | null> {
    const job = await this.store.newestDone('heldout', mediaId);
    return job && resultOf('heldout', job);
  }

  /** What aligning two sources by sound found; null when it was not done. */
  async aligned(projectId: string, a: string, b: string): Promise<AlignedReply | null> {
    const { sources } = await this.projects.document(projectId);
    const [first, second] = [a, b].map((id) => sources.find((s) => s.id === id));
    if (!first || !second) throw new Failure('unknown-source', { id: first ? b : a }, 'There is no such source.');
    const job = await this.store.newestDone('align', alignSubject(first.mediaId, second.mediaId));
    return job && resultOf('align', job);
  }

  /** How a file pans; null when that was not measured. */
  async pan(mediaId: string): Promise<PanReply | null> {
    const job = await this.store.newestDone('pan', mediaId);
    return job && resultOf('pan', job);
  }

  private async job(id: string): Promise<StoredJob> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    return job;
  }
}
