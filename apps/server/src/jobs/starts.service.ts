import { Inject, Injectable } from '@nestjs/common';
import type { JobReply, StartJob } from '@thawline/contract';
import { JobRefused, type StartContext, startJob, type WrittenRender } from '@thawline/work';
import { Store } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import { ReceiptsService } from '../receipts/receipts.service.js';
import { SETTINGS, type Settings } from '../settings.js';
import { JobsService } from './jobs.service.js';

/** Puts jobs into the queue: what each needs is looked up and refused here, before it waits. */
@Injectable()
export class StartsService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(ReceiptsService) private readonly receipts: ReceiptsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  /** Starts what a request asks for; how is the job's own to say. @throws Failure */
  async start(projectId: string, request: StartJob): Promise<JobReply[]> {
    try {
      const jobs = await startJob(request, await this.context(projectId));
      const started: JobReply[] = [];
      for (const { kind, label, subject, params } of jobs)
        started.push(await this.jobs.add(projectId, { kind, label, subject, params }));
      return started;
    } catch (error) {
      throw error instanceof JobRefused ? new Failure(error.code, error.facts, error.message) : error;
    }
  }

  private async context(projectId: string): Promise<StartContext> {
    return {
      document: await this.projects.document(projectId),
      count: async (kind, subject) => (await this.store.jobs({ projectId, kind, subject }, true)).length,
      drop: (kind, subject) => this.jobs.drop(projectId, kind, subject),
      writtenRender: async <Params>(id: string): Promise<WrittenRender<Params>> => {
        const { job, params, paths } = await this.receipts.finishedRender(projectId, id);
        return { id: job.id, label: job.label, subject: job.subject, params: params as Params, paths };
      },
      renderFolder: (name) => this.renderFolder(name),
      desk: this.settings.desk,
    };
  }

  private renderFolder(name: string | null): string {
    const { renderFolders } = this.settings;
    const found = name === null ? renderFolders[0] : renderFolders.find((f) => f.name === name);
    if (!found) throw new Failure('unknown-folder', { path: name ?? '' }, `${name} is none of the folders that renders go to.`);
    return found.path;
  }
}
