import type { CheckSummary, ComparisonReply, Region } from '@thawline/contract';
import { NO_FIELDS, type Verdict } from '@thawline/core/truth';
import { isMoving, type Project } from '@thawline/project';
import type { CheckOptions, CheckResult, Comparison, FrameRange, SourceFile } from '@thawline/work';
import type { StoredJob } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { picturesOf } from './renders.js';

/** What checks and comparisons keep in their rows, and what is told of them. */

/** What a comparison needs to start again after a restart: media, or a timeline's id with the edit as it was. */
export interface CompareParams {
  readonly a: string;
  readonly b: string;
  readonly mediaA: string;
  readonly mediaB: string;
  readonly edits?: { readonly a: Project | null; readonly b: Project | null };
  readonly names: { readonly a: string; readonly b: string };
}

/** One side of a comparison: a source's media, or a timeline under its own id. */
export interface Comparable {
  readonly mediaId: string;
  readonly name: string;
  readonly edit: Project | null;
}

/** What stands behind an id, as something to compare; refused with a sentence where there is nothing to. */
export function comparable(document: Project, id: string): Comparable {
  const timeline = document.timelines.find((t) => t.id === id);
  if (timeline) return { mediaId: id, name: timeline.name, edit: picturesOf(document, timeline) };
  const source = document.sources.find((s) => s.id === id);
  if (!source) throw new Failure('unknown-source', { id }, 'There is no such source.');
  if (source.lost) throw new Failure('file-missing', {}, `${source.name} was not found yet.`);
  if (!isMoving(source)) throw new Failure('no-rate', { source: source.name, kind: source.kind });
  return { mediaId: source.mediaId, name: source.name, edit: null };
}

/** What of a file is checked: see startJobSchema. */
export interface CheckPart {
  readonly range?: FrameRange | null;
  readonly region?: Region | null;
}
export const WHOLE: CheckPart = {};
/** Behind the media id of a part's check, so that it never stands for the whole file's. */
export const PART = /-part$/;

export function partOf(mediaId: string): string {
  return `${mediaId}-part`;
}

export function optionsOf({ range = null, region = null }: CheckPart, { width, height }: SourceFile['probe']): CheckOptions {
  const box = region && {
    x: Math.round(region.x * width),
    y: Math.round(region.y * height),
    width: Math.round(region.width * width),
    height: Math.round(region.height * height),
  };
  return { range, region: box };
}

export function comparisonOf(job: StoredJob): ComparisonReply {
  const found = JSON.parse(job.result ?? '') as Comparison;
  const { a, b, names } = JSON.parse(job.params) as CompareParams;
  return {
    ...found,
    jobId: job.id,
    a,
    b,
    names,
    madeAt: job.endedAt ?? job.createdAt,
    droppedFromA: [...found.droppedFromA],
    repeatedInB: [...found.repeatedInB],
    blendsInB: [...found.blendsInB],
    path: found.path.map(([i, j]) => [i, j]),
  };
}

/** What checks of earlier versions do not say. */
const LITTLE_KNOWN: Pick<Verdict, 'shares' | 'made' | 'fields'> = { shares: [], made: [], fields: NO_FIELDS };

export function checkSummary(job: Pick<StoredJob, 'id' | 'subject' | 'result'>): CheckSummary {
  const result = JSON.parse(job.result ?? '') as CheckResult;
  const { decoded } = result;
  const verdict: Verdict = { ...LITTLE_KNOWN, ...result.verdict };
  const { held, jumps, blends, stretches } = verdict;
  return {
    mediaId: job.subject.replace(PART, ''),
    jobId: job.id,
    decoded,
    range: result.range ?? { from: 0, to: decoded },
    region: result.region ?? null,
    counter: result.counter ?? null,
    verdict: {
      ...verdict,
      held: [...held],
      jumps: [...jumps],
      blends: [...blends],
      shares: [...verdict.shares],
      made: [...verdict.made],
      stretches: [...stretches],
    },
  };
}
