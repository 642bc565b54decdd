import {
  type Clip,
  type Command,
  clipEnd,
  clipsFor,
  type Lane,
  type Source,
  type Timeline,
  type TimingOf,
} from '@thawline/project';
import { newId } from '../../../shared/state/view.js';
import { snapped } from './scale.js';

/** What is being dragged. */
export type Dragged =
  | { readonly what: 'source'; readonly source: Source }
  | { readonly what: 'clip' | 'head' | 'tail'; readonly clip: Clip };

export interface DragPlace {
  readonly timeline: Timeline;
  readonly timings: TimingOf;
  /** Chosen clips go along with the one that is dragged. */
  readonly chosen: readonly string[];
  /** Frames the pointer has moved by; of a source, the frame it would begin at. */
  readonly frames: number;
  readonly over: Lane | undefined;
  /** Frames to snap to, and from how far; null when snapping is off. */
  readonly snap: { readonly places: readonly number[]; readonly reach: number } | null;
}

/** The command that letting go here would be; null for none. */
export function dropCommand(dragged: Dragged, place: DragPlace): Command | null {
  const { timeline, over } = place;
  if (dragged.what === 'source') return over ? placing(dragged.source, over, place) : null;
  // As it stands in the project: what is drawn while dragging is already moved.
  const clip = timeline.clips.find((c) => c.id === dragged.clip.id);
  if (!clip) return null;
  return dragged.what === 'clip' ? moving(clip, place) : trimming(clip, dragged.what, place);
}

function snapTo(edges: readonly number[], by: number, snap: DragPlace['snap']): number {
  return snap ? snapped(edges, by, snap.places, snap.reach) : by;
}

function placing(source: Source, lane: Lane, { timeline, timings, frames, snap }: DragPlace): Command | null {
  const laneId = lane.kind === 'picture' || source.kind === 'sound' ? lane.id : undefined;
  const start = Math.max(0, snapTo([0], frames, snap));
  const clips = clipsFor({ timeline, source, fit: 'nearest', start, laneId, newId }, timings);
  return clips.length > 0 ? { type: 'placeClips', timelineId: timeline.id, clips } : null;
}

function moving(clip: Clip, { timeline, chosen, frames, over, snap }: DragPlace): Command {
  const clipIds = chosen.includes(clip.id) ? [...chosen] : [clip.id];
  const moved = timeline.clips.filter((c) => clipIds.includes(c.id));
  const still = snap && { ...snap, places: snap.places.filter((p) => !moved.some((c) => p === c.start || p === clipEnd(c))) };
  const by = snapTo([clip.start, clipEnd(clip)], frames, still);
  const first = moved.reduce((least, c) => Math.min(least, c.start), clip.start);
  const kin = timeline.lanes.filter((l) => l.kind === over?.kind);
  const own = kin.findIndex((l) => l.id === clip.laneId);
  const byLanes = own >= 0 && over ? kin.findIndex((l) => l.id === over.id) - own : 0;
  return { type: 'moveClips', timelineId: timeline.id, clipIds, byFrames: Math.max(-first, by), byLanes };
}

function trimming(clip: Clip, end: 'head' | 'tail', { timeline, frames, snap }: DragPlace): Command {
  const edge = end === 'head' ? clip.start : clipEnd(clip);
  const by = snapTo([edge], frames, snap && { ...snap, places: snap.places.filter((p) => p !== edge) });
  const start = end === 'head' ? Math.max(0, Math.min(clip.start + by, clipEnd(clip) - 1)) : clip.start;
  const to = end === 'tail' ? Math.max(clip.start + 1, clipEnd(clip) + by) : clipEnd(clip);
  return { type: 'trimClip', timelineId: timeline.id, clipId: clip.id, start, end: to };
}

/** Where clips snap to: every cut, the playhead, in and out, the start. */
export function snapPlaces(timeline: Timeline, playhead: number): number[] {
  const cuts = timeline.clips.flatMap((c) => [c.start, clipEnd(c)]);
  const range = timeline.range ? [timeline.range.from, timeline.range.to] : [];
  return [...new Set([0, playhead, ...range, ...cuts, ...timeline.marks.map((m) => m.frame)])];
}
