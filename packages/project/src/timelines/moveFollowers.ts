import { frameAtOrAfter, type Rate, type Timing } from '@thawline/core/time';
import type { Clip } from '../document/document.js';
import { clipEnd } from '../timing/mapping.js';

/** Frames from the start of picture `first` that show no picture after `last`. */
export function framesThrough(timing: Timing, first: number, last: number, timeline: Rate): number {
  if (timing.kind === 'still') return 1;
  if (timing.kind === 'constant') return frameAtOrAfter(last + 1 - first, timing.rate, timeline);
  const end = timing.ticks[last + 1] ?? timing.end;
  return frameAtOrAfter(end - (timing.ticks[first] as number), timing.timeBase, timeline);
}

/** A clip as it stood before a change of lengths. */
export interface ClipBefore {
  readonly clip: Clip;
  readonly lane: string;
  readonly start: number;
  readonly end: number;
  /** Its new end moves what follows. */
  readonly pulls: boolean;
}

/**
 * Moves each clip as far as the end of the clip before it (on any lane, the one that ended last) has moved, so that what met
 * still meets and what ran side by side stays so; never over a clip of its own lane, never before frame 0. Linked clips that run beside each
 * other move as one.
 */
export function moveFollowers(before: readonly ClipBefore[]): void {
  const inOrder = movedAsOne(before).sort((a, b) => startOf(a) - startOf(b));
  const done: { end: number; lane: string; newEnd: number; shift: number }[] = [];
  for (const group of inOrder) {
    const start = startOf(group);
    let anchor: (typeof done)[number] | null = null;
    let least = -start;
    for (const earlier of done) {
      const ended = earlier.end <= start;
      if (ended && (!anchor || earlier.end > anchor.end || (earlier.end === anchor.end && earlier.shift > anchor.shift)))
        anchor = earlier;
      for (const member of group)
        if (member.lane === earlier.lane && earlier.end <= member.start) least = Math.max(least, earlier.newEnd - member.start);
    }
    const shift = Math.max(anchor?.shift ?? 0, least);
    for (const { clip, lane, start: was, end, pulls } of group) {
      clip.start = was + shift;
      const newEnd = pulls ? clipEnd(clip) : Math.max(end + shift, clipEnd(clip));
      done.push({ end, lane, newEnd, shift: newEnd - end });
    }
  }
}

/** Clips by themselves, or with those of their link that run beside them: one that follows another may have to give way to it. */
function movedAsOne(before: readonly ClipBefore[]): ClipBefore[][] {
  const groups: { link: string | null; end: number; members: ClipBefore[] }[] = [];
  for (const entry of before.toSorted((a, b) => a.start - b.start)) {
    const { link } = entry.clip;
    const beside = link === null ? undefined : groups.findLast((g) => g.link === link);
    if (beside && entry.start < beside.end) {
      beside.members.push(entry);
      beside.end = Math.max(beside.end, entry.end);
    } else groups.push({ link, end: entry.end, members: [entry] });
  }
  return groups.map((g) => g.members);
}

function startOf(group: readonly ClipBefore[]): number {
  return Math.min(...group.map((e) => e.start));
}
