import { createHash } from 'node:crypto';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, Logger } from '@nestjs/common';
import { DESK_CODES, type DeskCode, deskSentence } from '@thawline/desk';
import { MEDIA_CODES, type MediaCode, sentence } from '@thawline/media';
import { filesOf, type Project } from '@thawline/project';
import { type Compared, type FrameRange, JobError, type JobSpec, type RenderInput, type SourceFile } from '@thawline/work';
import { Store, type StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';
import type { AlignParams } from './alignments.js';
import { type CheckPart, type CompareParams, optionsOf, PART } from './checks.js';
import { type DeliverParams, endingOf, type ReceiptParams, type RenderParams, renderParamsOf, writtenOf } from './renders.js';

/** What a job's row becomes for a worker thread, and what is said of one that failed. */
@Injectable()
export class SpecsService {
  private readonly logger = new Logger('jobs');

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async spec(job: StoredJob): Promise<JobSpec> {
    if (job.kind === 'render' || job.kind === 'trial') return this.rendering(job, job.kind);
    if (job.kind === 'receipt') return this.receipt(JSON.parse(job.params) as ReceiptParams);
    if (job.kind === 'deliver') {
      const { desk, path } = JSON.parse(job.params) as DeliverParams;
      await mkdir(places.work(this.settings, job.id), { recursive: true });
      return { kind: 'deliver', desk, path, notes: join(places.work(this.settings, job.id), 'sent.json') };
    }
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

  private async rendering(job: StoredJob, kind: 'render' | 'trial'): Promise<JobSpec> {
    const params = this.render(job);
    const input = await this.written(params);
    const { form, folder, file, anew } = params;
    const path = join(folder, `${file}${endingOf(form)}`);
    const work = places.work(this.settings, job.id);
    const common = { input, form, path, work, cache: places.cache(this.settings) };
    return kind === 'trial' ? { kind, ...common } : { kind, ...common, ...(anew ? { anew } : {}) };
  }

  private async receipt({ renderId, paths }: ReceiptParams): Promise<JobSpec> {
    const render = await this.store.job(renderId);
    if (!render) throw new Failure('unknown-job', { id: renderId }, 'There is no such render.');
    const params = this.render(render);
    return { kind: 'receipt', input: await this.written(params), form: params.form, files: paths };
  }

  /** A render's parameters, whatever version asked for it. */
  render(job: Pick<StoredJob, 'params'>): RenderParams {
    return renderParamsOf(job, this.settings.renderFolders[0]?.path ?? this.settings.dataFolder);
  }

  /** A render's edit at its own rate, with the files it needs. */
  async written(params: RenderParams): Promise<RenderInput> {
    const { project, timeline, range } = writtenOf(params);
    return { project, timeline, range, files: await this.files(params.project, params.timelineId, params.range ?? null) };
  }

  /** An edit with the files it needs. */
  async input(project: Project, timelineId: string, range: FrameRange | null = null): Promise<RenderInput> {
    const timeline = project.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId });
    return { project, timeline, files: await this.files(project, timelineId, range), range };
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
    // A file that vanished on the way makes all sorts of errors: say what happened, not how it showed. Those of several are told by the job itself.
    const several: readonly StoredJob['kind'][] = ['render', 'trial', 'receipt', 'deliver', 'align', 'compare'];
    const gone =
      !several.includes(job.kind) && (await this.media.open(job.subject.replace(PART, '')).then(() => null, asFailure));
    if (gone) return { errorCode: gone.code, errorMessage: gone.message };
    if (error instanceof JobError && isDeskCode(error.code))
      return { errorCode: error.code, errorMessage: deskSentence(error.code, job.label, error.detail) };
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
