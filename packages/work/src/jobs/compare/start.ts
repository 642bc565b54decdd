import type { Project } from '@thawline/project';
import type { Compared, ComparedPair } from '../../analyse/compare.js';
import { type FrameRange, inputOf } from '../../compose/input.js';
import type { ParamsOf, RequestOf } from '../define.js';
import { JobRefused } from '../refusals.js';
import { picturesOfTimeline } from '../render/edit.js';
import { type BeginningJob, movingSourceHere, type NewJob, type SpecificationContext, type StartContext } from '../starting.js';
import type { compare } from './definition.js';

export async function start({ a, b }: RequestOf<typeof compare>, { document }: StartContext): Promise<readonly NewJob[]> {
  const [first, second] = [sideOf(document, a), sideOf(document, b)];
  if (first.mediaId === second.mediaId) throw new JobRefused('same-source');
  const params: ParamsOf<typeof compare> = {
    a,
    b,
    mediaA: first.mediaId,
    mediaB: second.mediaId,
    edits: { a: first.edit, b: second.edit },
    names: { a: first.name, b: second.name },
  };
  return [{ kind: 'compare', label: `${first.name} and ${second.name}`, subject: second.mediaId, params }];
}

interface Side {
  /** Of a timeline its own id. */
  readonly mediaId: string;
  readonly name: string;
  readonly edit: Project | null;
}

/** What stands behind an id, as something to compare; refused with a sentence where there is nothing to. */
function sideOf(document: Project, id: string): Side {
  const timeline = document.timelines.find((t) => t.id === id);
  if (timeline) return { mediaId: id, name: timeline.name, edit: picturesOfTimeline(document, timeline) };
  const { mediaId, name } = movingSourceHere(document, id);
  return { mediaId, name, edit: null };
}

export async function specification(
  { params }: BeginningJob<ParamsOf<typeof compare>>,
  context: SpecificationContext,
): Promise<ComparedPair> {
  const whole: FrameRange | null = null;
  const side = async (mediaId: string, edit: Project | null): Promise<Compared> =>
    edit ? { input: inputOf(edit, mediaId, await context.files(edit, mediaId, whole), whole) } : context.open(mediaId);
  const { mediaA, mediaB, edits } = params;
  return {
    a: await side(mediaA, (edits?.a ?? null) as Project | null),
    b: await side(mediaB, (edits?.b ?? null) as Project | null),
  };
}
