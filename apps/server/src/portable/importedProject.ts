import { mkdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { rate } from '@thawline/core/time';
import { type Media as MediaPort, type Probe, probeWithFields, seriesName, seriesPattern } from '@thawline/media';
import {
  applyDifference,
  DOCUMENT_FORMAT,
  documentSchema,
  FORMAT_STEPS,
  migrateDocument,
  migratePatches,
  type Project,
} from '@thawline/project';
import { atomicWrite, syncTree } from '@thawline/work';
import { z } from 'zod';
import type { ArchivedJob, ArchivedMedia, ArchivedRevision, ProjectArchive } from '../database/archive.js';
import { fingerprintOf, fingerprintOfSeries } from '../sources/fingerprint.js';
import { historyPartSchema, isShowable, jobsPartSchema, manifestSchema, mediaPartSchema, projectPartSchema } from './shape.js';
import { notOne, ProjectZip } from './zip.js';

const KNOWN =
  /^((thawline|project|history|media|jobs)\.json|media\/[0-9a-f]{16}\/(original(\.[a-z0-9]{1,5})?|pictures\/\d{8}\.[a-z0-9]{1,5}))$/;
const MOST_ENTRIES = 1_100_000;
/** Unpacked, of each part of JSON. */
const MOST_JSON_BYTES = 512_000_000;

type Media = z.output<typeof mediaPartSchema>[number];

/** A project file that was opened and looked through, on its way to become a project. */
export class ImportedProject {
  private readonly names = new Map<string, string>();
  private readonly probes = new Map<string, Probe>();
  private readonly fingerprints = new Map<string, string>();
  private readonly notes: string[] = [];

  private constructor(
    private readonly zip: ProjectZip,
    private readonly manifest: z.output<typeof manifestSchema>,
    private readonly project: z.output<typeof projectPartSchema>,
    private readonly revisions: z.output<typeof historyPartSchema>,
    readonly media: readonly Media[],
    private readonly jobs: z.output<typeof jobsPartSchema>,
  ) {}

  /** @throws Failure 'not-a-project' with what is wrong */
  static async open(path: string): Promise<ImportedProject> {
    const zip = await ProjectZip.open(path, KNOWN, MOST_ENTRIES);
    try {
      const part = async <T>(name: string, schema: z.ZodType<T>): Promise<T> => {
        const parsed = schema.safeParse(await zip.json(name, MOST_JSON_BYTES));
        if (parsed.success) return parsed.data;
        const issue = parsed.error.issues[0];
        throw notOne(`${name} is not as expected at "${issue?.path.join('.') ?? ''}": ${issue?.message ?? ''}`);
      };
      const manifest = await part('thawline.json', manifestSchema);
      if (manifest.format > DOCUMENT_FORMAT) throw notOne('it was made by a newer Thawline; bring this one up to date first');
      return new ImportedProject(
        zip,
        manifest,
        await part('project.json', projectPartSchema),
        await part('history.json', historyPartSchema),
        await part('media.json', mediaPartSchema),
        await part('jobs.json', jobsPartSchema),
      );
    } catch (error) {
      zip.close();
      throw error;
    }
  }

  close(): void {
    this.zip.close();
  }

  /** Bytes that its files take when they are unpacked. */
  get mediaBytes(): number {
    let sum = 0;
    for (const [name, { uncompressedSize }] of this.zip.entries) if (name.startsWith('media/')) sum += uncompressedSize;
    return sum;
  }

  /** Replaces a file's id everywhere in a project. */
  rename(from: string, to: string): void {
    this.names.set(from, to);
  }

  /** Unpacks a file into its folder and looks at it as at any other that is added: what the project file says of it is not believed. */
  async extract(media: Media, folder: string, port: MediaPort): Promise<void> {
    const own = [...this.zip.entries.keys()].filter((name) => name.startsWith(`media/${media.id}/`)).sort();
    if (own.length === 0) throw notOne(`the file of ${media.name} is missing`);
    const series = media.series;
    if (series && own.some((name, k) => basename(name) !== seriesName(k, series.ending)))
      throw notOne(`a picture of ${media.name} is missing`);
    await atomicWrite(folder, async (temporary) => {
      await mkdir(series ? join(temporary, 'pictures') : temporary, { recursive: true });
      for (const name of own) await this.zip.extract(name, join(temporary, series ? 'pictures' : '', basename(name)));
      await syncTree(temporary);
    });
    const probe = media.series
      ? port.probeSeries(seriesPattern(join(folder, 'pictures'), media.series.ending), {
          pictures: own.length,
          rate: this.rateOf(media),
        })
      : port.probe(join(folder, media.fileName));
    const found = await probe.then((own) => withFieldsOf(own, media.probe)).catch(() => null);
    if (!found) this.notes.push(`${media.name} is in the file, but cannot be read. Find it again, or remove it.`);
    else if (found.pictures !== media.probe.pictures)
      this.notes.push(`${media.name} has ${found.pictures} pictures; the project knew it with ${media.probe.pictures}.`);
    if (found) this.probes.set(media.id, found);
    const paths = own.map((name) => join(folder, media.series ? 'pictures' : '', basename(name)));
    const fingerprint = media.series ? (await fingerprintOfSeries(paths)).fingerprint : await fingerprintOf(paths[0] ?? '');
    this.fingerprints.set(media.id, fingerprint);
  }

  /** All of it with its new ids, checked once more as a whole. */
  async archive(renderFolder: string): Promise<{ archive: ProjectArchive; notes: string[] }> {
    const { format } = this.manifest;
    const document = this.documentOf(migrateDocument(this.project.document, format, FORMAT_STEPS));
    const revisions = this.history(document);
    const media = this.media.map((one) => this.archivedMedia(one));
    const jobs = this.jobs.filter((job) => isShowable(job)).map((job) => this.archivedJob(job, renderFolder));
    const lost = this.jobs.length - jobs.length;
    if (lost > 0)
      this.notes.push(`${lost} earlier ${lost === 1 ? 'result' : 'results'} could not be read and did not come along.`);
    const away = this.media.filter((m) => !m.included && this.names.has(m.id)).length;
    if (away > 0)
      this.notes.push(
        `The files of ${away === 1 ? 'one source are' : `${away} sources are`} not in it: add them anew, or find them.`,
      );
    const { version, createdAt, changedAt } = this.project;
    const archive = { format: DOCUMENT_FORMAT, document, version, createdAt, changedAt, revisions, media, jobs };
    return { archive, notes: this.notes };
  }

  private documentOf(value: unknown): Project {
    const parsed = documentSchema.safeParse(this.renamed(value));
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0];
    throw notOne(`the project is not as expected at "${issue?.path.join('.') ?? ''}": ${issue?.message ?? ''}`);
  }

  /** The history, where going back through all of it and forward again leads where it should; else none, and a note. */
  private history(document: Project): ArchivedRevision[] {
    const { format } = this.manifest;
    const revisions = this.revisions.map((revision) => ({
      ...revision,
      forward: migratePatches(this.renamed(revision.forward) as never, format),
      backward: migratePatches(this.renamed(revision.backward) as never, format),
      command: this.renamed(revision.command),
    }));
    try {
      let now = document;
      for (const { backward } of revisions.filter((r) => !r.undone).reverse()) now = this.step(now, backward);
      now = document;
      for (const { forward } of revisions.filter((r) => r.undone)) now = this.step(now, forward);
      return revisions;
    } catch {
      this.notes.push('Its history does not hold together and did not come along.');
      return [];
    }
  }

  private step(document: Project, patches: readonly unknown[]): Project {
    return documentSchema.parse(applyDifference(document, patches as never));
  }

  private archivedMedia(media: Media): ArchivedMedia {
    const { name, fileName, bytes, series } = media;
    const probe = this.probes.get(media.id) ?? media.probe;
    const fingerprint = this.fingerprints.get(media.id) ?? media.fingerprint;
    return {
      id: this.names.get(media.id) ?? media.id,
      name,
      fileName,
      bytes,
      fingerprint,
      series,
      probe,
      path: null,
      modifiedMs: null,
    };
  }

  /** Looks for a render's files in this server's own render folder, by name; no path from the imported file is followed. */
  private archivedJob(job: ArchivedJob, renderFolder: string): ArchivedJob {
    const renamed = { ...job, subject: this.renamed(job.subject) as string };
    const params = this.renamed(job.params) as Record<string, unknown>;
    const result = this.renamed(job.result) as Record<string, unknown>;
    const here = (path: unknown): string => join(renderFolder, basename(String(path)));
    if (job.kind === 'receipt') return { ...renamed, result, params: { ...params, paths: listOf(params.paths).map(here) } };
    if (job.kind !== 'render') return { ...renamed, result, params };
    return {
      ...renamed,
      params: { ...params, folder: renderFolder },
      result: { ...result, paths: listOf(result.paths).map(here) },
    };
  }

  private renamed(value: unknown): unknown {
    if (this.names.size === 0) return value;
    const ids = new RegExp([...this.names.keys()].join('|'), 'g');
    return JSON.parse(JSON.stringify(value).replace(ids, (id) => this.names.get(id) ?? id)) as unknown;
  }

  private rateOf(media: Media) {
    const { timing } = media.probe;
    return timing.kind === 'constant' ? timing.rate : rate(25);
  }
}

function listOf(value: unknown): readonly unknown[] {
  return Array.isArray(value) ? value : [];
}

/** A file's facts with its fields read as the project had them, where it did. */
function withFieldsOf(own: Probe, told: Media['probe']): Probe {
  return told.fieldsRead ? probeWithFields(own, told.fieldsRead.runs) : own;
}
