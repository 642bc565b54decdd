import { isMoving, type Project, type Source } from '@thawline/project';
import type { FrameRange, SourceFile } from '../compose/input.js';
import type { JobDefinition, ParamsOf, RequestOf } from './define.js';
import type { JobKind } from './definitions.js';
import { JobRefused } from './refusals.js';

/** A job as it goes into the queue. */
export interface NewJob {
  /** One request may start jobs of several kinds. */
  readonly kind: JobKind;
  /** What it works on, for people. */
  readonly label: string;
  /** What its results are found by; see JobDefinition. */
  readonly subject: string;
  readonly params: object;
}

/** A render that was written, and where its files are. */
export interface WrittenRender<Params> {
  readonly id: string;
  readonly label: string;
  readonly subject: string;
  readonly params: Params;
  readonly paths: readonly string[];
}

/** What a job may look up when it is asked for. */
export interface StartContext {
  readonly document: Project;
  /** How many jobs of a kind were asked for with this subject. */
  count(kind: JobKind, subject: string): Promise<number>;
  /** Stops and forgets jobs of a kind with this subject. */
  drop(kind: JobKind, subject: string): Promise<void>;
  /** Throws where there is no such render, it has not finished or its files are gone. */
  writtenRender<Params>(jobId: string): Promise<WrittenRender<Params>>;
  /** Path of a folder that renders go to, by its name; the first for null. Throws where there is none of that name. */
  renderFolder(name: string | null): string;
  /** Address of the intake desk; null where there is none. */
  readonly desk: string | null;
}

/** What a job may look up when it begins. */
export interface SpecificationContext {
  /** The file behind media. Throws where it is missing or was changed. */
  open(mediaId: string): Promise<SourceFile>;
  /** The files that a timeline of an edit needs, by media id. */
  files(project: Project, timelineId: string, range: FrameRange | null): Promise<Record<string, SourceFile>>;
  /** What a render's row keeps. */
  renderParams<Params>(jobId: string): Promise<Params>;
  /** The folder with everything that is made from a media file. */
  mediaFolder(mediaId: string): string;
  /** The job's own folder, which is emptied when it has ended. */
  readonly workFolder: string;
  /** Parts that renders share. */
  readonly cacheFolder: string;
  /** Where renders of earlier versions went. */
  readonly firstRenderFolder: string;
}

/** A job that begins: its row, read by its definition. */
export interface BeginningJob<Params> {
  readonly subject: string;
  readonly params: Params;
}

/** The server's side of a kind: what `start.ts` of its folder exports. */
export interface StartModule<Definition extends JobDefinition, Specification> {
  /** The jobs that a request makes. Throws JobRefused where it cannot be done. */
  start(request: RequestOf<Definition>, context: StartContext): Promise<readonly NewJob[]>;
  /** What the job's thread is given: plain data that can be copied. */
  specification(job: BeginningJob<ParamsOf<Definition>>, context: SpecificationContext): Promise<Specification>;
}

/** A source of the project that is there; refused with a sentence where it is not. */
export function sourceHere(document: Project, id: string): Source {
  const source = document.sources.find((s) => s.id === id);
  if (!source) throw new JobRefused('unknown-source', { id });
  if (source.lost) throw new JobRefused('file-missing', {}, `${source.name} was not found yet.`);
  return source;
}

/** The same, of pictures in time. */
export function movingSourceHere(document: Project, id: string): Source {
  const source = sourceHere(document, id);
  if (!isMoving(source)) throw new JobRefused('no-rate', { source: source.name, kind: source.kind });
  return source;
}

/** Suffix of a job's subject that means part of a file; the media id is before it. */
export const PART = /-part$/;

/** A job of one file: what its thread needs to know where the file says it all. */
export async function fileSpecification(job: BeginningJob<unknown>, context: SpecificationContext): Promise<SourceFile> {
  return context.open(job.subject.replace(PART, ''));
}
