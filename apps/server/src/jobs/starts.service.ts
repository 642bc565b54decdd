import { Inject, Injectable } from '@nestjs/common';
import type { JobReply } from '@thawline/contract';
import { FORMS, fileNameOf, isMoving, type RenderForm, type Source, settledForm } from '@thawline/project';
import { Store } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import { ReceiptsService } from '../receipts/receipts.service.js';
import { SETTINGS, type Settings } from '../settings.js';
import { type AlignParams, alignSubject } from './alignments.js';
import { type CheckPart, type Comparable, type CompareParams, comparable, partOf, WHOLE } from './checks.js';
import { JobsService } from './jobs.service.js';
import { type DeliverParams, fileStem, type Part, type ReceiptParams, type RenderParams, renderOf } from './renders.js';
import { SpecsService } from './specs.service.js';

/** A render as it is asked for over HTTP. */
export interface WantedRender extends Part {
  readonly timelineId: string;
  readonly form: RenderForm;
  readonly name: string | null;
  readonly folder: string | null;
  readonly anew: readonly number[];
}

/** Puts jobs into the queue: what each needs is looked up and refused here, before it waits. */
@Injectable()
export class StartsService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(SpecsService) private readonly specs: SpecsService,
    @Inject(ReceiptsService) private readonly receipts: ReceiptsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  /** What is made of every source without being asked for: small pictures to play and look at, waveform and loudness. */
  async startBackground(projectId: string, { kind, name, mediaId, sound }: Source): Promise<JobReply[]> {
    const jobs: JobReply[] = [];
    if (kind !== 'sound') jobs.push(await this.jobs.add(projectId, 'proxy', name, mediaId, {}));
    if (sound) jobs.push(await this.jobs.add(projectId, 'sound', name, mediaId, {}));
    return jobs;
  }

  /** The same for sources whose small pictures were freed. Lost ones are left out. */
  async startProxies(projectId: string, sourceIds: readonly string[]): Promise<JobReply[]> {
    const { sources } = await this.projects.document(projectId);
    const wanted = sourceIds.map((id) => {
      const source = sources.find((s) => s.id === id);
      if (!source) throw new Failure('unknown-source', { id });
      return source;
    });
    const jobs: JobReply[] = [];
    for (const source of wanted.filter((s) => !s.lost)) jobs.push(...(await this.startBackground(projectId, source)));
    return jobs;
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
    return this.jobs.add(
      projectId,
      'align',
      `${first.name} and ${second.name}`,
      alignSubject(first.mediaId, second.mediaId),
      params,
    );
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
        await this.jobs.add(
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
    return this.jobs.add(projectId, 'compare', `${first.name} and ${second.name}`, second.mediaId, params);
  }

  /** What is measured of a whole moving source: what its material allows made pictures, or how it pans. */
  async startMeasure(projectId: string, kind: 'heldout' | 'pan' | 'sound', sourceId: string): Promise<JobReply> {
    const { sources } = await this.projects.document(projectId);
    const source = sources.find((s) => s.id === sourceId);
    if (!source) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    if (source.lost) throw new Failure('file-missing', {}, `${source.name} was not found yet.`);
    if (kind === 'sound' && !source.sound) throw new Failure('no-sound', { source: source.name });
    if (kind !== 'sound' && !isMoving(source)) throw new Failure('no-rate', { source: source.name, kind: source.kind });
    return this.jobs.add(projectId, kind, source.name, source.mediaId, {});
  }

  async startRender(projectId: string, wanted: WantedRender): Promise<JobReply> {
    const document = await this.projects.document(projectId);
    const { timeline, ...render } = renderOf(document, wanted.timelineId, wanted);
    const form = settledForm(wanted.form);
    const before = await this.store.jobs({ projectId, kind: 'render', subject: timeline.id }, true);
    const number = before.length + 1;
    const params: RenderParams = {
      ...render,
      ...{ form, anew: [...wanted.anew], folder: this.folder(wanted.folder) },
      file: this.fileName(wanted.name) ?? `${fileStem(timeline.name)}-${number}`,
    };
    return this.jobs.add(projectId, 'render', `${timeline.name}, render ${number}`, timeline.id, params);
  }

  /** The same render once more: its edit as it was then, some of its parts written anew. */
  async startRerender(projectId: string, renderId: string, anew: readonly number[]): Promise<JobReply> {
    const { job } = await this.receipts.finishedRender(projectId, renderId);
    const was = this.specs.render(job);
    const number = (await this.store.jobs({ projectId, kind: 'render', subject: job.subject }, true)).length + 1;
    const name = was.project.timelines.find((t) => t.id === was.timelineId)?.name ?? 'Timeline';
    return this.jobs.add(projectId, 'render', `${name}, render ${number}`, job.subject, { ...was, anew: [...anew] });
  }

  /** A trial of a timeline takes the place of those before it. */
  async startTrial(projectId: string, wanted: Omit<WantedRender, 'name' | 'anew'>): Promise<JobReply> {
    const document = await this.projects.document(projectId);
    const { timeline, ...render } = renderOf(document, wanted.timelineId, wanted);
    await this.jobs.dropTrials(projectId, timeline.id);
    const form = settledForm(wanted.form);
    const params: RenderParams = { ...render, form, folder: this.folder(wanted.folder), file: fileStem(timeline.name) };
    return this.jobs.add(projectId, 'trial', timeline.name, timeline.id, params);
  }

  async startReceipt(projectId: string, renderId: string): Promise<JobReply> {
    const { job, paths } = await this.receipts.finishedRender(projectId, renderId);
    const params: ReceiptParams = { renderId: job.id, paths };
    return this.jobs.add(projectId, 'receipt', job.label, job.id, params);
  }

  async startDeliver(projectId: string, renderId: string): Promise<JobReply> {
    const { desk } = this.settings;
    if (!desk) throw new Failure('no-desk');
    const { job, paths } = await this.receipts.finishedRender(projectId, renderId);
    const [path = ''] = paths;
    if (FORMS[this.specs.render(job).form.kind].sound === 'beside')
      throw new Failure('bad-request', {}, 'A desk takes one file: render it as MP4, WebM or Matroska.');
    const params: DeliverParams = { desk, path };
    return this.jobs.add(projectId, 'deliver', job.label, job.id, params);
  }

  private fileName(typed: string | null): string | null {
    if (typed === null || typed.trim() === '') return null;
    const name = fileNameOf(typed);
    if (name === null)
      throw new Failure(
        'bad-name',
        { name: typed },
        `"${typed}" cannot be a file's name: leave out / \\ : * ? " < > | and a dot in front.`,
      );
    return name;
  }

  private folder(name: string | null): string {
    const { renderFolders } = this.settings;
    const found = name === null ? renderFolders[0] : renderFolders.find((f) => f.name === name);
    if (!found) throw new Failure('unknown-folder', { path: name ?? '' }, `${name} is none of the folders that renders go to.`);
    return found.path;
  }
}
