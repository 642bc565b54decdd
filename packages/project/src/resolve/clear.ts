import { isSeenThrough } from '@thawline/core/picture';
import type { Clip, FileSource, Project, Source, Timeline } from '../document/document.js';
import { laidBy } from './laid.js';
import { segmentsOf } from './plan.js';
import { beneath, nestedOf, sourceOf } from './sources.js';

/** Timelines within timelines that are followed. */
const DEPTH_MOST = 12;

/** Whether something is seen through a file's pictures. */
type Through = (source: FileSource) => boolean;

/** By what the project knows of it. */
function isThrough(source: FileSource): boolean {
  return source.kind !== 'sound' && isSeenThrough({ pixelFormat: source.pixelFormat, alpha: source.looks?.alpha });
}

interface Looking {
  readonly project: Project;
  readonly through: Through;
  readonly depth: number;
}

/** Whether what lies beneath a source's pictures is seen through them: alpha of a file, or what a placed timeline leaves free at some time. */
export function seesThrough(project: Project, source: Source, through: Through = isThrough): boolean {
  return sees({ project, through, depth: 0 }, source);
}

/** Whether what lies beneath a clip is seen: through it, or beside it. */
export function isClear(
  project: Project,
  timeline: Pick<Timeline, 'width' | 'height'>,
  clip: Pick<Clip, 'framing' | 'pose' | 'opacity'>,
  source: Source | undefined,
): boolean {
  return clears({ project, through: isThrough, depth: 0 }, timeline, { clip, source });
}

function sees(looking: Looking, source: Source): boolean {
  if (source.kind !== 'timeline') return looking.through(source);
  const inner = nestedOf(looking.project, source.id);
  return inner !== undefined && isOpen(looking, inner);
}

function clears(
  looking: Looking,
  timeline: Pick<Timeline, 'width' | 'height'>,
  { clip, source }: { readonly clip: Pick<Clip, 'framing' | 'pose' | 'opacity'>; readonly source: Source | undefined },
): boolean {
  if (clip.opacity !== undefined) return true;
  if (!source || source.kind === 'sound') return false;
  return !laidBy(source, timeline, clip).covers || sees(looking, source);
}

const known = new WeakMap<Timeline, { readonly project: Project; readonly open: boolean }>();

/** Whether a timeline leaves something of its frames free at some time. What the project says of it is asked once. */
function isOpen(looking: Looking, timeline: Timeline): boolean {
  const { project, through, depth } = looking;
  if (depth > DEPTH_MOST) return true;
  const found = known.get(timeline);
  if (through === isThrough && found?.project === project) return found.open;
  const open = segmentsOf(timeline).some((segment) => isFree({ ...looking, depth: depth + 1 }, timeline, segment));
  if (through === isThrough) known.set(timeline, { project, open });
  return open;
}

/** Whether something of a timeline's frames is free where one clip, or two in a dissolve, and what lies beneath them are. */
function isFree(
  looking: Looking,
  timeline: Timeline,
  { clip, dissolve, from, to }: ReturnType<typeof segmentsOf>[number],
): boolean {
  const shown = dissolve ? [dissolve.out, dissolve.into] : [clip];
  return shown.some((one) => {
    if (!one) return true;
    const source = sourceOf(looking.project, one.sourceId);
    if (!clears(looking, timeline, { clip: one, source })) return false;
    const lower = beneath(timeline, one);
    const within = segmentsOf(lower).filter((s) => s.from < to && s.to > from);
    const covered = within.reduce((until, s) => (s.from <= until ? Math.max(until, s.to) : until), from);
    return covered < to || within.some((segment) => isFree(looking, lower, segment));
  });
}
