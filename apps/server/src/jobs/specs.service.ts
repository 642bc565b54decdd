import { createHash } from 'node:crypto';
import { Inject, Injectable, Logger } from '@nestjs/common';
import { jobOf } from '@thawline/contract';
import { DESK_CODES, type DeskCode, deskSentence } from '@thawline/desk';
import { MEDIA_CODES, type MediaCode, sentence } from '@thawline/media';
import { filesOf, type Project } from '@thawline/project';
import {
  type FrameRange,
  JobError,
  type JobSpecification,
  PART,
  type RenderInput,
  type RenderParams,
  renderInput,
  type SourceFile,
  type SpecificationContext,
  specificationOf,
} from '@thawline/work';
import { Store, type StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';
import { paramsOf } from './storedJobs.js';

/** Makes a worker's specification from a job's row, and the error message of one that failed. */
@Injectable()
export class SpecsService {
  private readonly logger = new Logger('jobs');

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async spec(job: StoredJob): Promise<JobSpecification> {
    const { kind, subject } = job;
    const specification = await specificationOf(kind, { subject, params: paramsOf(kind, job) }, this.context(job.id));
    return { kind, specification };
  }

  private context(jobId: string): SpecificationContext {
    return {
      open: (mediaId) => this.media.open(mediaId),
      files: (project, timelineId, range) => this.files(project, timelineId, range),
      renderParams: async <Params>(id: string): Promise<Params> => {
        const render = await this.store.job(id);
        if (!render) throw new Failure('unknown-job', { id }, 'There is no such render.');
        return this.render(render) as Params;
      },
      mediaFolder: (mediaId) => places.media(this.settings, mediaId),
      workFolder: places.work(this.settings, jobId),
      cacheFolder: places.cache(this.settings),
      firstRenderFolder: this.firstFolder,
    };
  }

  private get firstFolder(): string {
    return this.settings.renderFolders[0]?.path ?? this.settings.dataFolder;
  }

  /** A render's parameters, also of renders that earlier versions started. */
  render(job: Pick<StoredJob, 'params'>): RenderParams & { readonly folder: string } {
    const params = paramsOf('render', job);
    return { ...params, folder: params.folder ?? this.firstFolder };
  }

  /** A render's edit at its own rate, with the files it needs. */
  async written(params: RenderParams): Promise<RenderInput> {
    return renderInput(params, { files: (project, timelineId, range) => this.files(project, timelineId, range) });
  }

  private async files(project: Project, timelineId: string, range: FrameRange | null): Promise<Record<string, SourceFile>> {
    const timeline = project.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId });
    const files: Record<string, SourceFile> = {};
    for (const { mediaId } of filesOf(project, timeline, range)) {
      const media = await this.media.media(mediaId);
      // A copy of ours never changes; a file in place may be written over with one that only looks like it.
      const parts = media.path === null ? [media.id] : [media.fingerprint, media.bytes, media.modifiedMs];
      const identity = createHash('sha256').update(JSON.stringify(parts)).digest('hex');
      files[mediaId] = { ...(await this.media.open(mediaId)), identity };
    }
    return files;
  }

  /** Whether it is worth beginning again by itself: nothing was wrong with what was asked. */
  isAccident(error: unknown): boolean {
    return error instanceof JobError && (error.code === 'killed' || error.code === 'crashed');
  }

  async failure(job: StoredJob, error: unknown): Promise<{ errorCode: string; errorMessage: string }> {
    // A file that vanished on the way makes all sorts of errors: report the missing file instead. Jobs on several files report it themselves.
    const gone =
      jobOf(job.kind).subject === 'media' && (await this.media.open(job.subject.replace(PART, '')).then(() => null, asFailure));
    if (gone) return { errorCode: gone.code, errorMessage: gone.message };
    if (error instanceof JobError && isDeskCode(error.code))
      return { errorCode: error.code, errorMessage: deskSentence(error.code, job.label, error.detail) };
    if (error instanceof JobError && isMediaCode(error.code)) {
      const whose = error.which ? paramsOf('align', job).names[error.which] : job.label;
      return { errorCode: error.code, errorMessage: sentence(error.code, whose, error.detail) };
    }
    if (error instanceof Failure) return { errorCode: error.code, errorMessage: error.message };
    this.logger.error(String(error));
    return {
      errorCode: 'crashed',
      errorMessage: `${job.label} stopped unexpectedly. Start it again; nothing half done was kept.`,
    };
  }
}

function asFailure(error: unknown): Failure | null {
  return error instanceof Failure ? error : null;
}

function isMediaCode(code: string): code is MediaCode {
  return (MEDIA_CODES as readonly string[]).includes(code);
}

function isDeskCode(code: string): code is DeskCode {
  return code !== 'aborted' && (DESK_CODES as readonly string[]).includes(code);
}
