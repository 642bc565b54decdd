import { copyFile, mkdir, rm } from 'node:fs/promises';
import type { IncomingMessage } from 'node:http';
import { availableParallelism } from 'node:os';
import { basename, extname, join } from 'node:path';
import { Inject, Injectable, Logger } from '@nestjs/common';
import { type Asker, type ChangeReply, ERROR_SENTENCES, type FileState } from '@thawline/contract';
import type { FieldRun } from '@thawline/core/fields';
import { findSeries, type Series } from '@thawline/core/files';
import type { Rate } from '@thawline/core/time';
import { MediaError, sentence } from '@thawline/media';
import { type FileSource, type Reading, type Sequence, sourceSchema, storedFacts } from '@thawline/project';
import { sourceFromProbe } from '@thawline/work';
import { Store, type StoredMedia } from '../database/store.js';
import { asStoreError, STORE_CODES } from '../database/storeError.js';
import { Failure } from '../http/failure.js';
import { JobsService } from '../jobs/jobs.service.js';
import { StartsService } from '../jobs/starts.service.js';
import { type AskedBy, newId, ProjectsService } from '../projects/projects.service.js';
import { ReceiptsService } from '../receipts/receipts.service.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { UploadsService } from '../uploads/uploads.service.js';
import { FoldersService } from './folders.service.js';
import { type KnownFiles, MediaService } from './media.service.js';
import { nameTrouble, type Received, receiveFiles } from './receive.js';

export interface Added {
  readonly added: FileSource[];
  readonly refused: { file: string; code: string; message: string }[];
  /** The change to the project; null where nothing was added. */
  readonly change: ChangeReply | null;
}

export interface AddOptions extends AskedBy {
  /** Pictures a second for numbered series; without it numbered pictures are single ones. */
  readonly sequence?: Rate | null | undefined;
}

const logger = new Logger('sources');

const ABREAST = availableParallelism();
/** Proxies wait this long after the last addition, in milliseconds, because more files may be coming. */
const HOLD_MS = 1500;

interface Item {
  /** As a person knows it. */
  readonly name: string;
  readonly take: (known: KnownFiles) => Promise<{ media: StoredMedia; numbers?: Numbers }>;
  /** Puts away what is left when it is not taken. */
  readonly drop: () => Promise<void>;
}

@Injectable()
export class SourcesService {
  private readonly beingAddedTo = new Map<string, { readonly known: KnownFiles; users: number }>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(StartsService) private readonly starts: StartsService,
    @Inject(ReceiptsService) private readonly receipts: ReceiptsService,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(FoldersService) private readonly folders: FoldersService,
    @Inject(UploadsService) private readonly uploads: UploadsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  /** Takes uploaded files: each is probed, what cannot be used is refused with a sentence and removed, the rest is one step to undo. */
  async upload(project: string, request: IncomingMessage, options: AddOptions): Promise<Added> {
    await this.projects.document(project);
    const received = await receiveFiles(request, places.incoming(this.settings), newId);
    if (received.length === 0) throw new Failure('no-file', {}, 'No file came with the request.');
    return this.add(project, this.received(received, options), options);
  }

  /** Takes finished uploads of the tus protocol, like files that came with the request. */
  async addUploads(project: string, uploads: readonly string[], options: AddOptions): Promise<Added> {
    await this.projects.document(project);
    const added = await this.add(project, this.received(await this.uploads.files(uploads), options), options);
    const noRoom = added.refused.some((r) => (STORE_CODES as readonly string[]).includes(r.code));
    if (!noRoom) await this.uploads.remove(uploads);
    return added;
  }

  /** Copies files on this machine into the project, as an upload would. The originals are only read. */
  async addFrom(project: string, paths: readonly string[], options: AddOptions = {}): Promise<Added> {
    const folder = places.incoming(this.settings);
    await mkdir(folder, { recursive: true });
    const copies: Received[] = [];
    for (const path of paths) {
      const copy = join(folder, newId());
      await copyFile(path, copy);
      copies.push({ name: basename(path), path: copy, bytes: 0 });
    }
    return this.add(project, this.received(copies, options), options);
  }

  /** A finished render as a source, like any other file. */
  async addRender(project: string, jobId: string, { client }: Asker = {}): Promise<Added> {
    const { path } = await this.receipts.file(jobId);
    return this.addFrom(project, [path], { client });
  }

  /** Adds files of the media folders in place, without copying. */
  async addInPlace(
    project: string,
    wanted: readonly { path: string; kind: 'film' | 'picture' | 'sound' | 'series' }[],
    options: AddOptions,
  ): Promise<Added> {
    await this.projects.document(project);
    const items = wanted.map(({ path, kind }): Item => {
      const name = basename(path);
      const drop = async (): Promise<void> => undefined;
      if (kind !== 'series') {
        const take: Item['take'] = async (known) => {
          const real = await this.folders.real(path);
          return { media: await this.media.take({ name, path: real, inPlace: true }, known) };
        };
        return { name, take, drop };
      }
      const take: Item['take'] = async (known) => {
        const series = await this.folders.seriesAt(path);
        if (!options.sequence)
          throw new Failure(
            'rate-needed',
            {},
            `${series.name} is ${series.paths.length} numbered pictures: say the rate to read them at.`,
          );
        const names = series.paths.map((p) => basename(p));
        const media = await this.media.takeSeries({ ...series, names, inPlace: true }, options.sequence, known);
        return { media, numbers: numbersOf(series) };
      };
      return { name, take, drop };
    });
    return this.add(project, items, options);
  }

  /** Puts the file that an edit named in its stand-in's place: a source of that name, else a file of the media folders. */
  async look(project: string, sourceId: string, { client }: Asker = {}): Promise<ChangeReply> {
    const document = await this.projects.document(project);
    const lost = document.sources.find((s) => s.id === sourceId);
    if (!lost) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    const stem = basename(lost.name, extname(lost.name)).toLowerCase();
    const here = document.sources.find((s) => !s.lost && s.id !== lost.id && s.name.toLowerCase() === stem);
    if (here) return this.projects.command(project, { type: 'replaceSource', sourceId, byId: here.id }, { client });
    const path = await this.folders.named(lost.name);
    if (!path)
      throw new Failure('not-found-again', {}, `Neither a source nor a file in the media folders is called ${lost.name}.`);
    const batch = newId();
    const { added, refused } = await this.addInPlace(project, [{ path, kind: 'film' }], { batch, client });
    const [found] = added;
    if (!found) throw new Failure('not-found-again', {}, refused[0]?.message ?? `${path} cannot be used.`);
    return this.projects.command(project, { type: 'replaceSource', sourceId, byId: found.id }, { batch, client });
  }

  /** Takes a changed file as it is now, under a new media id: undo brings back what was known of the old one. */
  async renew(project: string, sourceId: string, { client }: Asker = {}): Promise<ChangeReply> {
    const document = await this.projects.document(project);
    const source = document.sources.find((s) => s.id === sourceId);
    if (!source) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    const media = await this.media.media(source.mediaId);
    const { state, sentence: why } = await this.media.state(media);
    if (state === 'missing') throw new Failure('file-missing', { file: media.name }, why ?? '');
    if (state === 'here' || media.path === null || media.series) throw new Failure('file-unchanged', { file: media.name });
    let now: StoredMedia;
    try {
      now = await this.media.take({ name: media.name, path: media.path, inPlace: true }, new Map());
    } catch (error) {
      throw error instanceof MediaError ? new Failure('file-changed', {}, sentence(error.code, media.name, error.detail)) : error;
    }
    const renewed = asSource(source.id, now, source.numbers, source.readAt?.rate ?? null);
    const change = await this.projects.command(project, { type: 'renewSource', source: renewed }, { client });
    this.media.added([now.id]);
    await this.background(project, [renewed]);
    return change;
  }

  /** Reads fields in other ways. Pictures as read are media of their own beside the file's, so that all that is found of them is theirs. */
  async readFields(
    project: string,
    wanted: readonly { readonly sourceId: string; readonly runs: FieldRun[] | null }[],
    by: Asker = {},
  ): Promise<ChangeReply> {
    const document = await this.projects.document(project);
    const readings: { sourceId: string; reading: { mediaId: string; runs: FieldRun[] } | null }[] = [];
    const made: string[] = [];
    try {
      for (const { sourceId, runs } of wanted) {
        const source = document.sources.find((s) => s.id === sourceId);
        if (!source) throw new Failure('unknown-source', { id: sourceId });
        if (source.kind !== 'film') throw new Failure('no-fields', { source: source.name });
        const stored = storedFacts(source);
        const media = runs && (await this.media.readFields(stored.mediaId, runs));
        if (media) made.push(media.id);
        readings.push({ sourceId, reading: runs && media ? { mediaId: media.id, runs } : null });
      }
      const change = await this.projects.command(project, { type: 'readFields', readings }, by);
      const now = await this.projects.document(project);
      await this.background(
        project,
        now.sources.filter((s) => wanted.some((w) => w.sourceId === s.id && w.runs)),
      );
      return change;
    } finally {
      this.media.added(made);
    }
  }

  async files(project: string): Promise<FileState[]> {
    const document = await this.projects.document(project);
    const ids = [...new Set(document.sources.map((s) => s.mediaId))];
    const media = new Map((await this.store.mediaOf(ids)).map((m) => [m.id, m]));
    return Promise.all(
      ids.map((id) => {
        const known = media.get(id);
        return known ? this.media.state(known) : unreadable(id);
      }),
    );
  }

  /** What is made of sources by itself. They are added by now: where its jobs cannot be stored, the sources stay without it. */
  private async background(project: string, sources: readonly FileSource[]): Promise<void> {
    try {
      await this.starts.start(project, { kind: 'proxy', sourceIds: sources.map((s) => s.id) });
    } catch (error) {
      if (!asStoreError(error)) throw error;
    }
  }

  private received(files: readonly Received[], options: AddOptions): Item[] {
    const { series, rest } = options.sequence ? findSeries(files, (f) => f.name) : { series: [], rest: [...files] };
    const single = rest.map(
      (file): Item => ({
        name: file.name,
        take: async (known) => {
          const trouble = nameTrouble(file.name);
          if (trouble) throw new Failure('bad-name', {}, trouble);
          return { media: await this.media.take({ name: file.name, path: file.path, inPlace: false }, known) };
        },
        drop: () => rm(file.path, { force: true }),
      }),
    );
    const runs = series.map(
      (s): Item => ({
        name: s.name,
        take: async (known) => {
          const trouble = s.files.map((f) => nameTrouble(f.name)).find((t) => t !== null);
          if (trouble || !options.sequence) throw new Failure('bad-name', {}, trouble ?? '');
          const paths = s.files.map((f) => f.path);
          const names = s.files.map((f) => f.name);
          const media = await this.media.takeSeries({ ...s, paths, names, inPlace: false }, options.sequence, known);
          return { media, numbers: numbersOf(s) };
        },
        drop: async () => {
          for (const { path } of s.files) await rm(path, { force: true });
        },
      }),
    );
    return [...single, ...runs];
  }

  private async add(project: string, items: readonly Item[], options: AddOptions): Promise<Added> {
    this.jobs.holdProxies(HOLD_MS);
    const known = await this.known(project);
    try {
      return await this.addKnowing(project, items, options, known);
    } finally {
      this.release(project);
    }
  }

  private async addKnowing(project: string, items: readonly Item[], options: AddOptions, known: KnownFiles): Promise<Added> {
    const outcomes: (FileSource | Added['refused'][number])[] = [];
    // ABREAST at a time; results are reported in the order of the files.
    for (let at = 0; at < items.length; at += ABREAST)
      outcomes.push(...(await Promise.all(items.slice(at, at + ABREAST).map((item) => takeItem(item, known, options)))));
    const added = outcomes.filter((o): o is FileSource => 'mediaId' in o);
    const refused = outcomes.filter((o): o is Added['refused'][number] => !('mediaId' in o));
    if (added.length === 0) return { added, refused, change: null };
    try {
      const change = await this.projects.command(project, { type: 'addSources', sources: added }, options);
      this.media.added(added.map((s) => s.mediaId));
      await this.background(project, added);
      return { added, refused, change };
    } catch (error) {
      // A file that no project refers to must not keep its copy: nothing would ever remove it.
      for (const { mediaId } of added) await this.media.forget(mediaId);
      throw error;
    }
  }

  /** What a project has already. Requests that add to it at the same time share one list: each sees what the others are adding. */
  private async known(project: string): Promise<KnownFiles> {
    const shared = this.beingAddedTo.get(project) ?? { known: new Map(), users: 0 };
    shared.users++;
    this.beingAddedTo.set(project, shared);
    const document = await this.projects.document(project);
    const media = await this.store.mediaOf(document.sources.map((s) => s.mediaId));
    for (const { fingerprint, name } of media) if (fingerprint) shared.known.set(fingerprint, name);
    return shared.known;
  }

  private release(project: string): void {
    const shared = this.beingAddedTo.get(project);
    if (shared && --shared.users === 0) this.beingAddedTo.delete(project);
  }
}

/** The state of a file whose row in the database is gone or damaged. */
function unreadable(mediaId: string): FileState {
  return {
    mediaId,
    state: 'missing',
    proxy: false,
    path: null,
    sentence: 'What was stored of this file cannot be read. Add it again.',
  };
}

/** Makes a source of an item, or says why not; a refused item leaves nothing behind. */
async function takeItem(item: Item, known: KnownFiles, options: AddOptions): Promise<FileSource | Added['refused'][number]> {
  try {
    const { media, numbers } = await item.take(known);
    return asSource(newId(), media, numbers, options.sequence ?? null);
  } catch (error) {
    await item.drop();
    return { file: item.name.slice(0, 80), ...refusalOf(error, item.name) };
  }
}

/** The sentence for a file that could not be added, for any thrown value: one bad file never fails the others. */
function refusalOf(error: unknown, name: string): { code: string; message: string } {
  if (error instanceof MediaError) return { code: error.code, message: sentence(error.code, name, error.detail) };
  if (error instanceof Failure) return { code: error.code, message: error.message };
  const store = asStoreError(error);
  if (store) return { code: store.code, message: `${name}: ${ERROR_SENTENCES[store.code]({ reason: store.reason })}` };
  logger.error(`${name}: ${error instanceof Error ? error.stack : String(error)}`);
  return { code: 'internal', message: `${name} was not added: something went wrong while it was read. Nothing of it was kept.` };
}

function numbersOf(series: Pick<Series<unknown>, 'first' | 'last' | 'missing'>): Numbers {
  return { first: series.first, last: series.last, missing: series.missing };
}

/** What of a file the project's document holds. */
function asSource(id: string, media: StoredMedia, numbers: Numbers | undefined, sequence: Rate | null): FileSource {
  const { probe } = media;
  const bare = basename(media.name, extname(media.name)) || media.name;
  const name = (probe.kind === 'sequence' ? media.name : bare).slice(0, 255);
  const readAt: Reading | undefined = sequence ? { rate: sequence, pictures: 'once', from: 'typed', sound: 'along' } : undefined;
  return sourceSchema.parse(sourceFromProbe(probe, { id, mediaId: media.id, name, numbers, readAt }));
}

/** Which numbered pictures there are. */
type Numbers = NonNullable<Sequence['numbers']>;
