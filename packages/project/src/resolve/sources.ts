import { secondsOf } from '@thawline/core/time';
import { isDraft } from 'immer';
import type { Clip, FileSource, Project, Source, Timeline } from '../document/document.js';
import { asSeen, momentsAFrame } from '../timing/fieldRate.js';
import { timelineLength } from '../timing/mapping.js';

/** Whether a source has pictures in time: something to read at a rate, to check, to retime. */
export function isMoving(source: Pick<Source, 'kind'>): boolean {
  return source.kind !== 'still' && source.kind !== 'sound';
}

const indexes = new WeakMap<readonly Source[], Map<string, Source>>();
const asSources = new WeakMap<Timeline, { readonly project: Project; readonly source: Source }>();

/**
 * What a clip was made of: a source, or a timeline standing as one (its own rate is then a source's rate). Undefined when
 * it is gone. Looked up, not searched: two thousand clips ask for it.
 */
export function sourceOf(project: Project, id: string): Source | undefined {
  if (isDraft(project.sources)) return project.sources.find((s) => s.id === id) ?? nested(project, id);
  let index = indexes.get(project.sources);
  if (!index) {
    index = new Map(project.sources.map((s) => [s.id, s]));
    indexes.set(project.sources, index);
  }
  return index.get(id) ?? nested(project, id);
}

/** The timeline of an id; undefined for a file's. */
export function timelineOf(project: Pick<Project, 'timelines'>, id: string): Timeline | undefined {
  return project.timelines.find((t) => t.id === id);
}

/** The timeline that a clip shows, its frames the pictures that pass: one of two fields a frame by its fields. Undefined for a clip of a file. */
export function nestedOf(project: Pick<Project, 'timelines'>, id: string): Timeline | undefined {
  const timeline = timelineOf(project, id);
  return timeline && asSeen(timeline);
}

function nested(project: Project, id: string): Source | undefined {
  const timeline = timelineOf(project, id);
  if (!timeline) return undefined;
  if (isDraft(timeline)) return timelineAsSource(project, timeline);
  const known = asSources.get(timeline);
  if (known && known.project === project) return known.source;
  const source = timelineAsSource(project, timeline);
  asSources.set(timeline, { project, source });
  return source;
}

/** A timeline as a source: its frames (where these are of two fields, those) are the pictures, its rate is stored and measured. */
export function timelineAsSource(project: Project, timeline: Timeline): Source {
  const { id, name, rate, width, height } = asSeen(timeline);
  const pictures = Math.max(1, momentsAFrame(timeline) * timelineLength(timeline));
  const seconds = secondsOf(pictures, rate);
  return {
    id,
    mediaId: id,
    name,
    kind: 'timeline',
    pictures,
    stored: rate,
    measured: { rate, ppm: 0 },
    variable: false,
    seconds,
    width,
    height,
    codec: 'timeline',
    pixelFormat: 'yuv420p',
    fields: 'progressive',
    sound: sounds(project, timeline) ? { seconds, sampleRate: 48_000, channels: 2, codec: 'mix', startSeconds: 0 } : null,
    claimed: null,
    readAt: null,
    timecode: null,
    lost: null,
  };
}

function sounds(project: Project, timeline: Timeline): boolean {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  return timeline.clips.some((c) => lanes.has(c.laneId) && sourceOf(project, c.sourceId)?.sound);
}

/** Whether `inner` is `outer` or contains it, at any depth: it cannot be placed in it then. */
export function holds(project: Project, inner: string, outer: string): boolean {
  if (inner === outer) return true;
  const timeline = timelineOf(project, inner);
  return timeline?.clips.some((c) => holds(project, c.sourceId, outer)) ?? false;
}

/** Whether a clip is neither seen nor heard: it, or its lane, is switched off. */
export function isOff(timeline: Timeline, clip: Clip): boolean {
  return clip.off === true || timeline.lanes.some((l) => l.id === clip.laneId && l.off);
}

const lowered = new WeakMap<Timeline, Map<string, Timeline>>();

/** The same timeline without a clip's lane and all above it: what lies beneath the clip. Made once for each lane. */
export function beneath(timeline: Timeline, clip: Pick<Clip, 'laneId'>): Timeline {
  const known = lowered.get(timeline) ?? new Map<string, Timeline>();
  lowered.set(timeline, known);
  const found = known.get(clip.laneId);
  if (found) return found;
  const lane = timeline.lanes.findIndex((l) => l.id === clip.laneId);
  const made = {
    ...timeline,
    lanes: timeline.lanes.map((l, i) => (l.kind === 'picture' && i >= lane ? { ...l, off: true as const } : l)),
  };
  known.set(clip.laneId, made);
  return made;
}

/** The files that a timeline (or a range of its frames) needs, those of timelines placed in it included, each once. */
export function filesOf(project: Project, timeline: Timeline, range: Timeline['range'] = null): FileSource[] {
  const found = new Map<string, FileSource>();
  const look = (within: Timeline, of: Timeline['range']): void => {
    for (const clip of within.clips) {
      if (isOff(within, clip)) continue;
      if (of && (clip.start >= of.to || clip.start + clip.length <= of.from)) continue;
      const inner = timelineOf(project, clip.sourceId);
      if (inner) look(inner, null);
      else {
        const source = sourceOf(project, clip.sourceId);
        if (source && source.kind !== 'timeline') found.set(source.id, source);
      }
    }
  };
  look(timeline, range);
  return [...found.values()];
}

/** A timeline and all that are placed in it. */
export function withNested(project: Project, timeline: Timeline): Timeline[] {
  const found = new Set<Timeline>();
  const look = (within: Timeline): void => {
    found.add(within);
    for (const clip of within.clips) {
      const inner = timelineOf(project, clip.sourceId);
      if (inner && !found.has(inner)) look(inner);
    }
  };
  look(timeline);
  return [...found];
}

/** Timelines that a timeline is placed in. */
export function placedIn(project: Project, timelineId: string): Timeline[] {
  return project.timelines.filter((t) => t.clips.some((c) => c.sourceId === timelineId));
}
