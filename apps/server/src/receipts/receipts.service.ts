import { readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import type { ReceiptReply } from '@thawline/contract';
import { reasonSentence } from '@thawline/desk';
import { type Media, type Probe, seriesPattern, statIfThere } from '@thawline/media';
import { FORMS, formWords, isSeries, numberingOf, type SettledForm, settledForm } from '@thawline/project';
import {
  askedFrame,
  editAtRenderRate,
  fingerprintOfAll,
  type NamedPicture,
  type Receipt,
  type RenderInput,
  type RenderParams,
  stampOf,
} from '@thawline/work';
import { type DoneJob, Store } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { SpecsService } from '../jobs/specs.service.js';
import { paramsOf, resultOf } from '../jobs/storedJobs.js';
import { DecodingTurns } from '../pictures/decodingTurns.js';
import { MEDIA } from '../ports.js';
import { now, ProjectsService } from '../projects/projects.service.js';
import { receiptPage } from './page.js';

/** Frames that are looked at are at most so wide. */
const SHOWN_WIDTH = 640;
/** Places that a page shows pictures of. */
const PAGE_PLACES = 6;

/** A render that was written, and where its files are. */
export interface FinishedRender {
  readonly job: DoneJob;
  readonly params: RenderParams & { readonly folder: string };
  readonly paths: readonly string[];
  readonly receipt: Receipt;
  readonly reused: number;
}

/** Receipts of renders: what was measured of their files, when, and whether the files are still those. */
@Injectable()
export class ReceiptsService {
  /** Fingerprints of files that were touched, by stamp: reading all of a file takes long. */
  private readonly fingerprints = new Map<string, string>();
  private readonly probes = new Map<string, Promise<Probe>>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(SpecsService) private readonly specs: SpecsService,
    @Inject(DecodingTurns) private readonly turns: DecodingTurns,
    @Inject(MEDIA) private readonly port: Media,
  ) {}

  /** Newest first: each render's own, and those of measuring its file again. */
  async list(projectId: string): Promise<ReceiptReply[]> {
    await this.projects.document(projectId);
    const renders = await this.store.doneJobs({ projectId, kind: 'render' });
    const again = await this.store.doneJobs({ projectId, kind: 'receipt' });
    const handed = await this.store.doneJobs({ projectId, kind: 'deliver' });
    const replies: (ReceiptReply & { readonly order: number })[] = [];
    for (const job of renders) {
      const own = handed.filter((d) => d.subject === job.id);
      const finished = this.finished(job);
      replies.push({ ...(await this.reply(job, job, finished, own)), order: job.order });
      for (const measured of again.filter((m) => m.subject === job.id)) {
        const receipt = resultOf('receipt', measured);
        const { paths } = paramsOf('receipt', measured);
        const reply = await this.reply(measured, job, { ...finished, paths, receipt }, own);
        replies.push({ ...reply, order: measured.order });
      }
    }
    return replies.sort((a, b) => b.order - a.order).map(({ order: _order, ...reply }) => reply);
  }

  async finishedRender(projectId: string, id: string): Promise<FinishedRender> {
    const job = await this.store.job(id);
    if (job?.kind !== 'render' || job.projectId !== projectId)
      throw new Failure('unknown-job', { id }, 'There is no such render.');
    if (job.state !== 'done') throw new Failure('not-finished', { id });
    const finished = this.finished(job);
    for (const path of finished.paths)
      if (!(await statIfThere(path)))
        throw new Failure('file-missing', {}, `${basename(path)} is no longer in ${dirname(path)}.`);
    return finished;
  }

  /** Path and name of a finished render's file. */
  async file(id: string, name?: string): Promise<{ path: string; name: string }> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    const { paths } = await this.finishedRender(job.projectId, id);
    const path = name === undefined ? paths[0] : paths.find((p) => basename(p) === name);
    if (!path) throw new Failure('unknown-job', { id }, `There is no ${name} of this render.`);
    if ((await stat(path)).isDirectory())
      throw new Failure('bad-request', {}, `${basename(path)} is a folder of pictures: it lies in ${dirname(path)}.`);
    return { path, name: basename(path) };
  }

  /** A frame as the file has it, or as the edit wants it. */
  async frame(id: string, frame: number, side: 'written' | 'asked'): Promise<Uint8Array> {
    const job = await this.store.job(id);
    if (!job) throw new Failure('unknown-job', { id }, 'There is no such job.');
    const { paths } = await this.finishedRender(job.projectId, id);
    const params = this.specs.render(job);
    const picture = await this.turns.take(async () =>
      side === 'asked'
        ? this.asked(await this.specs.written(params), params.form, frame)
        : this.written(paths[0] ?? '', settledForm(params.form), editAtRenderRate(params).timeline.rate, frame),
    );
    if (!picture) throw new Failure('unknown-picture', { picture: frame }, `There is no frame ${frame} in it.`);
    return picture;
  }

  async page(projectId: string, jobId: string, form: 'json' | 'html'): Promise<{ name: string; type: string; text: string }> {
    const receipt = (await this.list(projectId)).find((r) => r.jobId === jobId);
    if (!receipt) throw new Failure('unknown-job', { id: jobId }, 'There is no such receipt.');
    const stem = receipt.file.replace(/\.\w+$/, '');
    if (form === 'json')
      return { name: `${stem}-receipt.json`, type: 'application/json', text: `${JSON.stringify(receipt, null, 2)}\n` };
    const pictures = new Map<number, { asked: Uint8Array | null; written: Uint8Array | null }>();
    for (const { frame } of receipt.wrong.slice(0, PAGE_PLACES)) {
      // A source that is gone since leaves the page without pictures, not the person without the page.
      const look = (side: 'asked' | 'written') => this.frame(receipt.renderId, frame, side).catch(() => null);
      pictures.set(frame, { asked: await look('asked'), written: await look('written') });
    }
    return { name: `${stem}-receipt.html`, type: 'text/html; charset=utf-8', text: receiptPage(receipt, pictures, now()) };
  }

  private asked(input: RenderInput, form: Parameters<typeof askedFrame>[1]['form'], frame: number): Promise<Uint8Array | null> {
    const { from = 0, to = 0 } = input.range ?? {};
    if (from + frame >= to) return Promise.resolve(null);
    return askedFrame({ media: this.port }, { input, ...(form ? { form } : {}), frame: from + frame, most: SHOWN_WIDTH });
  }

  private async written(
    path: string,
    form: SettledForm,
    rate: RenderInput['timeline']['rate'],
    frame: number,
  ): Promise<Uint8Array | null> {
    const stamp = `${path} ${await stampOf([path])}`;
    const known = this.probes.get(stamp) ?? (isSeries(form.kind) ? this.probeFolder(path, form, rate) : this.port.probe(path));
    this.probes.set(stamp, known);
    known.catch(() => this.probes.delete(stamp));
    const probe = await known;
    if (frame >= probe.pictures) return null;
    const even = (n: number): number => Math.max(2, Math.round(n / 2) * 2);
    const width = even(Math.min(SHOWN_WIDTH, probe.width));
    const size = { width, height: even((probe.height * width) / probe.width) };
    const source = isSeries(form.kind) ? seriesPattern(path, FORMS[form.kind].ending, numberingOf(form)) : path;
    for await (const jpeg of this.port.openStills(source, probe, { ...size, quality: 4, from: frame, count: 1 })) return jpeg;
    return null;
  }

  private finished(job: DoneJob): FinishedRender {
    const params = this.specs.render(job);
    const { receipt, paths, reused } = resultOf('render', job);
    if (paths.length > 0) return { job, params, receipt, paths, reused };
    // Of earlier versions: one file, under the name it was asked for.
    return { job, params, receipt: { ...receipt, files: [params.file] }, paths: [join(params.folder, params.file)], reused };
  }

  private async reply(
    measured: DoneJob,
    render: DoneJob,
    { receipt, paths, reused }: FinishedRender,
    handed: readonly DoneJob[],
  ): Promise<ReceiptReply> {
    const params = this.specs.render(render);
    const { timeline, range } = editAtRenderRate(params);
    const named = (picture: NamedPicture | null) => picture && { source: picture.source, picture: picture.picture };
    return {
      jobId: measured.id,
      renderId: render.id,
      timeline: render.label,
      timelineId: render.subject,
      file: basename(paths[0] ?? params.file),
      folder: params.folder,
      files: [...receipt.files],
      form: params.form,
      formWords: formWords(params.form),
      range,
      rate: timeline.rate,
      startFrame: timeline.startFrame,
      dropFrame: timeline.dropFrame,
      madeAt: measured.endedAt,
      bytes: receipt.bytes,
      differs: receipt.differs,
      alike: receipt.alike,
      frames: receipt.frames,
      loudness: receipt.loudness,
      peak: receipt.peak,
      fingerprint: receipt.fingerprint,
      reused: measured.id === render.id ? reused : null,
      lines: [...receipt.lines],
      wrong: receipt.wrong.map((w) => ({ ...w, asked: named(w.asked), shown: named(w.shown) })),
      disk: await this.disk(receipt, paths),
      deliveries: handed.map((job) => {
        const { accepted, reasons } = resultOf('deliver', job);
        return { jobId: job.id, at: job.endedAt, accepted, reasons: reasons.map(reasonSentence) };
      }),
    };
  }

  /** Whether the files are still those that were measured: by size and time, and where these differ by all of their bytes. */
  private async disk(receipt: Receipt, paths: readonly string[]): Promise<ReceiptReply['disk']> {
    const stamp = await stampOf(paths).catch(() => null);
    if (stamp === null) return 'missing';
    // Receipts of earlier versions know nothing of it.
    if (receipt.fingerprint === '' || stamp === receipt.stamp) return 'same';
    const known = this.fingerprints.get(stamp) ?? (await fingerprintOfAll(paths));
    this.fingerprints.set(stamp, known);
    return known === receipt.fingerprint ? 'same' : 'changed';
  }

  private async probeFolder(folder: string, form: SettledForm, rate: RenderInput['timeline']['rate']): Promise<Probe> {
    const numbering = numberingOf(form);
    const series = { pictures: (await readdir(folder)).length, rate, first: numbering.first };
    return this.port.probeSeries(seriesPattern(folder, FORMS[form.kind].ending, numbering), series);
  }
}
