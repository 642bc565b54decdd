import { type FrameState, frameContent, frameState, standsStill } from '@thawline/core/cadence';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { type TimingOf, timelineLength } from '../timing/mapping.js';
import { dissolveShare } from './dissolves.js';
import { cadenceOf, segmentAt, segmentsOf } from './plan.js';
import { nestedOf } from './sources.js';

/** What the whole timeline will show, frame by frame. */
export interface FrameTally {
  readonly frames: number;
  /** Show a picture of their own, untouched. */
  readonly real: number;
  /** Repeat the frame before. */
  readonly held: number;
  readonly blended: number;
  /** Made by motion. */
  readonly made: number;
  readonly black: number;
  /** Want pictures of a file that is not there. */
  readonly missing: number;
  /** Frames that are hitches, ascending. */
  readonly hitches: readonly number[];
  /** Names of the sources that hitch, each once. */
  readonly hitching: readonly string[];
}

/** How a frame of a timeline comes by what it shows. */
export type TimelineFrameState = FrameState | 'black' | 'missing';

/**
 * Counts what frames of the range show. Placed timelines are followed to their own clips: a frame that shows a made one is made, and
 * hitches of theirs are seen where the frame with them comes by.
 * @param range the whole timeline when left out
 */
export function tallyFrames(project: Project, timeline: Timeline, known: TimingOf, range = timeline.range): FrameTally {
  const first = range?.from ?? 0;
  const end = range?.to ?? timelineLength(timeline);
  const tally = { real: 0, held: 0, blended: 0, made: 0, black: 0, missing: 0 };
  let covered = 0;
  for (const segment of segmentsOf(timeline)) {
    const [from, to] = [Math.max(first, segment.from), Math.min(end, segment.to)];
    const cadence = to > from && segment.clip && cadenceOf(project, timeline, segment.clip, known);
    if (!cadence) continue;
    covered += to - from;
    const { clip, source, mapping, map } = cadence;
    if (source.lost && !segment.dissolve) {
      tally.missing += to - from;
      continue;
    }
    const nested = nestedOf(project, source.id) !== undefined || segment.dissolve !== undefined;
    for (let frame = from; frame < to; frame++) {
      const before = frame > first ? frame - 1 : null;
      // Where clips meet, the frame before is another's.
      if (nested || frame === from) tally[stateAt(project, timeline, { frame, before, known })]++;
      else tally[frameState(mapping, map, frame - clip.start)]++;
    }
  }
  tally.black += Math.max(0, end - first - covered);
  const hitches = hitchesIn(project, timeline, known).filter(({ frame }) => frame > first && frame < end);
  return {
    ...tally,
    frames: end - first,
    hitches: [...new Set(hitches.map((h) => h.frame))],
    hitching: [...new Set(hitches.map((h) => h.source.name))],
  };
}

/** @param before the frame of this timeline that is shown before it; null: none */
export function stateAt(
  project: Project,
  timeline: Timeline,
  { frame, before, known }: { readonly frame: number; readonly before: number | null; readonly known: TimingOf },
): TimelineFrameState {
  const look = (at: number): Seen => seenAt(project, timeline, at, known);
  const { state, key, still } = look(frame);
  if (before === null || still || state === 'black' || state === 'missing') return state;
  return look(before).key === key ? 'held' : state;
}

/** What a frame shows, followed through placed timelines to files. */
interface Seen {
  readonly state: Exclude<TimelineFrameState, 'held'>;
  /** Frames with the same key show the same. */
  readonly key: string;
  /** It shows a still or a freeze, which repeat nothing. */
  readonly still: boolean;
}

const BLACK: Seen = { state: 'black', key: 'black', still: true };

function seenAt(project: Project, timeline: Timeline, frame: number, known: TimingOf): Seen {
  const { clip = null, dissolve } = segmentAt(timeline, frame) ?? {};
  if (!dissolve) return seenOf(project, timeline, { clip, frame, known });
  const [out, into] = [dissolve.out, dissolve.into].map((of) => seenOf(project, timeline, { clip: of, frame, known })) as [
    Seen,
    Seen,
  ];
  const states = [out.state, into.state];
  const state = states.includes('missing') ? 'missing' : states.includes('made') ? 'made' : 'blended';
  return { state, key: `${out.key} over ${into.key} ${dissolveShare(dissolve, frame)}`, still: false };
}

/** What one clip shows there. */
function seenOf(
  project: Project,
  timeline: Timeline,
  { clip, frame, known }: { readonly clip: Clip | null; readonly frame: number; readonly known: TimingOf },
): Seen {
  const cadence = clip && cadenceOf(project, timeline, clip, known);
  if (!clip || !cadence) return BLACK;
  const { source, mapping } = cadence;
  if (source.lost) return { state: 'missing', key: source.id, still: true };
  const { kind, parts } = frameContent(mapping, frame - clip.start);
  const within = standsStill(mapping);
  const place = `${source.id} ${clip.framing}`;
  const inner = nestedOf(project, source.id);
  if (!inner) return { state: kind, key: `${place} ${kind} ${JSON.stringify(parts)}`, still: within };
  const seen = parts.flatMap(({ picture, nextShare, next = picture + 1 }) =>
    (nextShare > 0 ? [picture, next] : [picture]).map((k) => seenAt(project, inner, k, known)),
  );
  const [one] = seen;
  // However many of its frames are mixed: where all show the same, so does the mix.
  if (one && seen.every(({ key }) => key === one.key)) return { ...one, key: `${place} ${one.key}`, still: within || one.still };
  const states = new Set(seen.map(({ state }) => state));
  const key = `${place} ${kind} ${JSON.stringify(parts)} ${seen.map((s) => s.key).join()}`;
  return { state: states.has('missing') ? 'missing' : states.has('made') ? 'made' : kind, key, still: within };
}

interface Hitch {
  /** Of the timeline. */
  readonly frame: number;
  readonly source: Source;
}

/** Hitches of what is seen, by frame: where steps of a clip are uneven, and where such a frame of a placed timeline comes by. */
function hitchesIn(project: Project, timeline: Timeline, known: TimingOf): Hitch[] {
  const hitches: Hitch[] = [];
  for (const { from, to, clip } of segmentsOf(timeline)) {
    const cadence = clip && cadenceOf(project, timeline, clip, known);
    if (!cadence) continue;
    const { source, map } = cadence;
    const offset = clip.start;
    const add = (n: number, of: Source): void => {
      if (n + offset > from && n + offset < to) hitches.push({ frame: n + offset, source: of });
    };
    for (const n of map.hitches) add(n, source);
    const inner = nestedOf(project, source.id);
    if (!inner) continue;
    const within = hitchesIn(project, inner, known);
    for (let n = 1, at = 0; n < map.pictures.length && within.length > 0; n++) {
      const [before, now] = [map.pictures[n - 1] as number, map.pictures[n] as number];
      const [low, high] = [Math.min(before, now), Math.max(before, now)];
      // Pictures mostly advance, so start the search where the last one ended.
      while (at > 0 && (within[at - 1] as Hitch).frame > low) at--;
      while (at < within.length && (within[at] as Hitch).frame <= low) at++;
      for (let i = at; i < within.length && (within[i] as Hitch).frame <= high; i++) add(n, (within[i] as Hitch).source);
    }
  }
  return hitches.sort((a, b) => a.frame - b.frame);
}
