import { longestRun, positionAt } from '@thawline/core/cadence';
import { over, rate, type Timing } from '@thawline/core/time';
import { checkMaterial, checkRoom, findClip, findSource, Refused, withLinked } from './checks.js';
import type { Command } from './commands.js';
import type { Clip, Project, Timeline } from './document.js';
import { clipEnd, mappingOf, type TimingOf } from './mapping.js';
import { furthestLength } from './soundMaterial.js';
import { holds, nestedOf } from './sources.js';

/** What commands do to the clips of one timeline. All work on a draft and throw Refused where a thing cannot be done. */

type Of<T extends Command['type']> = Extract<Command, { type: T }>;

/** Clips that come from another rate have their cuts at the nearest frame: the last may begin after the pictures' end. */
const ROUNDED = 1;

export function placeClips(draft: Project, timeline: Timeline, clips: readonly Clip[], known: TimingOf): void {
  const ids = new Set(timeline.clips.map((c) => c.id));
  const lanes = new Map(timeline.lanes.map((l) => [l.id, l]));
  for (const clip of clips) {
    if (ids.has(clip.id)) throw new Refused('id-taken', { id: clip.id });
    ids.add(clip.id);
    if (!lanes.has(clip.laneId)) throw new Refused('unknown-lane', { lane: clip.laneId });
    if (nestedOf(draft, clip.sourceId) && holds(draft, clip.sourceId, timeline.id))
      throw new Refused('within-itself', { timeline: timeline.name });
    const source = findSource(draft, clip.sourceId);
    if (source.kind === 'sound' && lanes.get(clip.laneId)?.kind === 'picture')
      throw new Refused('no-pictures', { clip: source.name });
    checkMaterial(draft, timeline, clip, known, ROUNDED);
    timeline.clips.push(clip);
  }
  checkRoom(timeline, clips);
}

export function moveClips(timeline: Timeline, command: Of<'moveClips'>): void {
  const moved = withLinked(timeline, command.clipIds);
  const named = new Set(command.clipIds);
  for (const clip of moved) {
    if (clip.start + command.byFrames < 0) throw new Refused('before-start', {});
    clip.start += command.byFrames;
    if (command.byLanes !== 0 && named.has(clip.id)) clip.laneId = laneBeside(timeline, clip, command.byLanes);
  }
  checkRoom(timeline, moved);
}

function laneBeside(timeline: Timeline, clip: Clip, by: number): string {
  const own = timeline.lanes.find((l) => l.id === clip.laneId);
  const sameKind = timeline.lanes.filter((l) => l.kind === own?.kind);
  const lane = sameKind[sameKind.findIndex((l) => l.id === clip.laneId) + by];
  if (!lane) throw new Refused('no-lane-there', {});
  return lane.id;
}

export function trimClip(draft: Project, timeline: Timeline, command: Of<'trimClip'>, known: TimingOf): void {
  const clip = findClip(timeline, command.clipId);
  const trimmed = withLinked(timeline, [clip.id]);
  const { start, end } = command;
  if (end <= start) throw new Refused('past-source', { clip: findSource(draft, clip.sourceId).name });
  for (const each of trimmed) {
    const shorter = start >= each.start && end <= clipEnd(each);
    each.headTrim += start - each.start;
    each.start = start;
    each.length = end - start;
    each.cut = null;
    // What is linked follows as far as it has material: sound that goes on longer than its pictures may be pulled out.
    if (each !== clip) {
      const furthest = furthestLength(findSource(draft, each.sourceId), each, timeline, known);
      each.length = Math.max(1, Math.min(each.length, furthest));
    }
    // A carried clip may run a little past its pictures: cutting it shorter is always allowed.
    if (!shorter) checkMaterial(draft, timeline, each, known);
  }
  checkRoom(timeline, trimmed);
}

/** Other pictures at the same place: `byPictures` later ones of each clip's source. */
export function slipClips(draft: Project, timeline: Timeline, command: Of<'slipClips'>, known: TimingOf): void {
  for (const clip of withLinked(timeline, command.clipIds)) {
    const source = findSource(draft, clip.sourceId);
    clip.inPicture += command.byPictures;
    if (clip.inPicture < 0) countFromLater(timeline, clip, mappingOf(clip, source, timeline, known).timing);
    if (clip.curve) for (const pin of clip.curve) pin.picture += command.byPictures;
    clip.cut = null;
    if (clip.curve?.some((pin) => pin.picture < 0 || pin.picture >= source.pictures))
      throw new Refused('past-source', { clip: source.name });
    if (clip.inPicture < 0) throw new Refused('past-source', { clip: source.name });
    checkMaterial(draft, timeline, clip, known);
  }
}

/**
 * Lets a clip whose in picture lies before the first one count from a later one instead, by whole turns of its cadence: it shows the
 * same. A clip that was split far from its in point may well be slipped by more than that lies in.
 */
function countFromLater(timeline: Timeline, clip: Clip, timing: Timing): void {
  if (timing.kind !== 'constant') return;
  const turn = clip.fit === 'pictures' ? rate(1) : over(timing.rate, timeline.rate);
  const turns = Math.ceil(-clip.inPicture / turn.num);
  if (clip.headTrim < turns * turn.den) return;
  clip.inPicture += turns * turn.num;
  clip.headTrim -= turns * turn.den;
}

/**
 * Cuts clips in two at a frame, what is linked with them too; the cadence goes on across the cut. New ids are the seed with
 * a number. Without named clips, all that lie under the frame.
 */
export function splitClips(timeline: Timeline, command: Of<'splitClips'>): void {
  const { frame, seed } = command;
  const under = (clip: Clip): boolean => clip.start < frame && clipEnd(clip) > frame;
  const named = command.clipIds.length > 0 ? withLinked(timeline, command.clipIds) : timeline.clips;
  const cut = named.filter(under);
  if (cut.length === 0) throw new Refused('nothing-there', { frame });
  const ids = new Set(timeline.clips.map((c) => c.id));
  const links = new Map<string, string>();
  cut.forEach((clip, i) => {
    const id = `${seed}-${i}`;
    if (ids.has(id)) throw new Refused('id-taken', { id });
    if (clip.link !== null && !links.has(clip.link)) links.set(clip.link, `${seed}-l${links.size}`);
    const by = frame - clip.start;
    const { dissolve: _, ...rest } = clip;
    const right = { ...rest, id, start: frame, length: clip.length - by, headTrim: clip.headTrim + by, cut: null };
    timeline.clips.push({ ...right, link: clip.link && (links.get(clip.link) ?? null) });
    clip.length = by;
    clip.cut = null;
  });
}

/**
 * Closes gaps by moving what follows to the left: those where nothing lies on any lane, or those of one lane, whose clips
 * take along what is linked with them.
 */
export function closeGaps(timeline: Timeline, command: Of<'closeGaps'>): void {
  const { laneId } = command;
  if (laneId !== null && !timeline.lanes.some((l) => l.id === laneId)) throw new Refused('unknown-lane', { lane: laneId });
  const counted = timeline.clips.filter((c) => laneId === null || c.laneId === laneId).sort((a, b) => a.start - b.start);
  let end = 0;
  let shift = 0;
  const moves = new Map<string, number>();
  for (const clip of counted) {
    if (clip.start > end) shift += clip.start - end;
    end = Math.max(end, clipEnd(clip));
    if (shift > 0) moves.set(clip.id, shift);
  }
  if (moves.size === 0) throw new Refused('no-gaps', {});
  const byLink = new Map(counted.filter((c) => c.link !== null).map((c) => [c.link, moves.get(c.id) ?? 0]));
  for (const clip of timeline.clips) {
    const by = moves.get(clip.id) ?? (laneId === null ? 0 : (byLink.get(clip.link) ?? 0));
    if (by > clip.start) throw new Refused('before-start', {});
    clip.start -= by;
  }
  checkRoom(timeline, timeline.clips);
}

/** Joins clips so that they move, split and go together; or parts them. */
export function linkClips(timeline: Timeline, command: Of<'linkClips'>): void {
  const clips = withLinked(timeline, command.clipIds);
  if (command.link !== null && clips.length < 2) throw new Refused('one-clip', {});
  for (const clip of clips) clip.link = command.link;
}

/**
 * Another fit keeps the clip's place and its first picture. A clip that was as long as its source stays so, if there is
 * room; one that is now longer than its material ends with it.
 */
export function setFit(draft: Project, timeline: Timeline, clipIds: readonly string[], fit: Clip['fit'], known: TimingOf): void {
  const clips = withLinked(timeline, clipIds);
  for (const clip of clips) {
    const source = findSource(draft, clip.sourceId);
    // Sound alone has no pictures to fit; it can stop.
    if (source.kind === 'sound' && fit !== 'nearest' && fit !== 'freeze') continue;
    const before = mappingOf(clip, source, timeline, known);
    const whole = clip.fit !== 'freeze' && !clip.curve && clip.length >= longestRun(before);
    const paced = (f: Clip['fit']): boolean => f === 'pictures' || f === 'freeze';
    if (paced(clip.fit) !== paced(fit) || clip.fit === 'freeze' || fit === 'freeze') {
      clip.curve = null;
      clip.instead = [];
      clip.inPicture = Math.max(0, Math.min(source.pictures - 1, positionAt(before, 0).picture));
      clip.headTrim = 0;
    }
    clip.fit = fit;
    clip.cut = null;
    clip.keptAt = null;
    if (fit === 'freeze') continue;
    const longest = longestRun(mappingOf(clip, source, timeline, known));
    if (whole) clip.length = Math.min(longest, roomAfter(timeline, clip));
    clip.length = Math.max(1, Math.min(clip.length, longest));
  }
  checkRoom(timeline, clips);
}

/** Free frames from the clip's start to the next clip of its lane. */
function roomAfter(timeline: Timeline, clip: Clip): number {
  const next = timeline.clips
    .filter((c) => c.laneId === clip.laneId && c.id !== clip.id && c.start >= clip.start)
    .reduce((least, c) => Math.min(least, c.start), Number.MAX_SAFE_INTEGER);
  return next - clip.start;
}
