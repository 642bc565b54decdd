import { isMoving } from '@thawline/project';
import type { CheckSpecification } from '../../analyse/check.js';
import type { ParamsOf, RequestOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import { type BeginningJob, fileSpecification, type NewJob, type SpecificationContext, type StartContext } from '../starting.js';
import type { check } from './definition.js';

/** A still has no rate to check: among others it is left out, by itself it is refused; so is a file that was not found yet. */
export async function start(
  { sourceIds, range, region }: RequestOf<typeof check>,
  { document }: StartContext,
): Promise<readonly NewJob[]> {
  const all = sourceIds.map((id) => {
    const source = document.sources.find((s) => s.id === id);
    if (!source) throw new JobRefused('unknown-source', { id });
    return source;
  });
  const sources = all.filter((s) => isMoving(s) && !s.lost);
  const lost = all.find((s) => s.lost);
  if (lost && sources.length === 0) throw new JobRefused('file-missing', {}, `${lost.name} was not found yet.`);
  if (all[0] && sources.length === 0) throw new JobRefused('no-rate', { source: all[0].name, kind: all[0].kind });
  const whole = !range && !region;
  return sources.map(({ name, mediaId, pictures }) => {
    if (range && range.from >= pictures - 1)
      throw new JobRefused('past-source', {}, `${name} has ${pictures} pictures; a check needs at least two of them.`);
    if (whole) return { kind: 'check', label: name, subject: mediaId, params: {} };
    return { kind: 'check', label: `${name}, part`, subject: partSubject(mediaId), params: { range, region } };
  });
}

/** The subject of a part's check, so that it is never taken for a check of the whole file. */
export function partSubject(mediaId: string): string {
  return `${mediaId}-part`;
}

export async function specification(
  job: BeginningJob<ParamsOf<typeof check>>,
  context: SpecificationContext,
): Promise<CheckSpecification> {
  const file = await fileSpecification(job, context);
  const { range, region } = job.params;
  const { width, height } = file.probe;
  const box = region && {
    x: Math.round(region.x * width),
    y: Math.round(region.y * height),
    width: Math.round(region.width * width),
    height: Math.round(region.height * height),
  };
  return { ...file, options: { range, region: box } };
}
