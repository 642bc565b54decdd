import type { Rate } from '@thawline/core/time';
import type { Clip, Lane, Project, Timeline } from '../document/document.js';
import { sourceOf } from '../resolve/sources.js';
import { clipEnd, type TimingOf } from '../timing/mapping.js';
import { carryClip, carryCuts } from './carry.js';

/** Clips taken from a timeline, to be put on it again or on another, whatever its rate. */
export interface Clipboard {
  readonly rate: Rate;
  /** Their starts count from the first one's. */
  readonly clips: readonly Clip[];
  /** Place of each clip's lane among those of its kind, by clip id. */
  readonly lanes: Readonly<Record<string, { readonly kind: Lane['kind']; readonly index: number }>>;
}

/** The named clips and what is linked with them. Null for none. */
export function copyClips(timeline: Timeline, clipIds: readonly string[]): Clipboard | null {
  const ids = new Set(clipIds);
  const links = new Set(timeline.clips.filter((c) => ids.has(c.id) && c.link !== null).map((c) => c.link));
  const clips = timeline.clips.filter((c) => ids.has(c.id) || (c.link !== null && links.has(c.link)));
  if (clips.length === 0) return null;
  const first = Math.min(...clips.map((c) => c.start));
  const lanes = Object.fromEntries(
    clips.map((clip) => {
      const kind = timeline.lanes.find((l) => l.id === clip.laneId)?.kind ?? 'picture';
      const index = timeline.lanes.filter((l) => l.kind === kind).findIndex((l) => l.id === clip.laneId);
      return [clip.id, { kind, index }];
    }),
  );
  return { rate: timeline.rate, clips: clips.map((c) => ({ ...c, start: c.start - first })), lanes };
}

/**
 * The clips that pasting at a frame makes, in real time: cuts go to the nearest frames of this timeline's rate, what met still
 * meets. Where the place is taken all move on together to the first that is free.
 */
export function clipsToPaste(
  project: Project,
  {
    board,
    timeline,
    at,
    newId,
    known,
  }: {
    readonly board: Clipboard;
    readonly timeline: Timeline;
    readonly at: number;
    readonly newId: () => string;
    readonly known: TimingOf;
  },
): Clip[] {
  const spans = board.clips.map((c) => ({ start: c.start, end: clipEnd(c) }));
  const cuts = carryCuts(spans, board.rate, timeline.rate);
  const links = new Map<string, string>();
  const clips = board.clips.map((clip) => {
    const start = cuts.get(clip.start) ?? 0;
    const length = (cuts.get(clipEnd(clip)) ?? 0) - start;
    const carried = carryClip(clip, {
      source: sourceOf(project, clip.sourceId),
      from: board.rate,
      to: timeline.rate,
      place: { start, length },
      known,
    });
    if (clip.link !== null && !links.has(clip.link)) links.set(clip.link, newId());
    return { ...carried, id: newId(), link: clip.link && (links.get(clip.link) ?? null), laneId: laneFor(board, clip, timeline) };
  });
  let start = Math.max(0, at);
  for (let moved = true; moved; ) {
    moved = false;
    for (const clip of clips)
      for (const taken of timeline.clips)
        if (taken.laneId === clip.laneId && taken.start < start + clipEnd(clip) && clipEnd(taken) > start + clip.start) {
          start = clipEnd(taken) - clip.start;
          moved = true;
        }
  }
  return clips.map((clip) => ({ ...clip, start: clip.start + start }));
}

function laneFor(board: Clipboard, clip: Clip, timeline: Timeline): string {
  const { kind, index } = board.lanes[clip.id] ?? { kind: 'picture', index: 0 };
  const lanes = timeline.lanes.filter((l) => l.kind === kind);
  return lanes[Math.min(index, lanes.length - 1)]?.id ?? clip.laneId;
}
