import { type Exposed, exposures, pictureAlone } from './shutter.js';
import { type Mapping, positionAt, SHARES, type StepMap } from './stepmap.js';

/**
 * What a frame shows, and how it comes by it. Everything that answers this asks here: the viewer, the weave, the price, the render and its
 * receipt.
 */

/**
 * Real: a picture of its own, untouched. Held: the same as the frame before. Blended: several pictures mixed. Made: by motion, or
 * averaged from such.
 */
export const FRAME_STATES = ['real', 'held', 'blended', 'made'] as const;
export type FrameState = (typeof FRAME_STATES)[number];

export interface FrameContent {
  /** A held frame is found by comparing it with the frame before, see `repeats`. */
  readonly kind: Exclude<FrameState, 'held'>;
  /** What is averaged: one position, or with an open shutter all that it sees. Weights sum up to 1. */
  readonly parts: readonly Exposed[];
}

/** What frame n of a run is made of (0 is its first). */
export function frameContent(mapping: Mapping, n: number): FrameContent {
  const parts = isOpen(mapping, n)
    ? exposures(mapping, n, mapping.shutterDegrees ?? 0)
    : [{ ...positionAt(mapping, n), weight: 1 }];
  if (pictureAlone(parts) !== null) return { kind: 'real', parts };
  const made = isByMotion(mapping, n) && parts.some((one) => one.nextShare > 0);
  return { kind: made ? 'made' : 'blended', parts };
}

/** The pictures that a frame is mixed from, and how much of it each is; they sum up to 1. */
export function picturesIn({ parts }: Pick<FrameContent, 'parts'>): Map<number, number> {
  const weights = new Map<number, number>();
  const add = (picture: number, weight: number): void => {
    if (weight > 0) weights.set(picture, (weights.get(picture) ?? 0) + weight);
  };
  for (const { picture, nextShare, next = picture + 1, weight } of parts) {
    add(picture, weight * (1 - nextShare / SHARES));
    add(next, (weight * nextShare) / SHARES);
  }
  return weights;
}

/** Whether a frame shows just what the frame before does: one position, the same. What a shutter averages is not looked at. */
export function repeats(content: FrameContent, before: FrameContent): boolean {
  const [[one, more], [other, others]] = [content.parts, before.parts];
  if (!one || !other || more || others) return false;
  return one.picture === other.picture && one.nextShare === other.nextShare;
}

/** Whether a run shows its own picture for good: a still, or a freeze. Its frames repeat nothing. */
export function standsStill({ timing, fit }: Pick<Mapping, 'timing' | 'fit'>): boolean {
  return timing.kind === 'still' || fit === 'freeze';
}

/**
 * The state of frame n, from the run's step map where that suffices.
 * @param before the frame of this run that is shown before it; null: what is shown before is not this run's
 */
export function frameState(mapping: Mapping, map: StepMap, n: number, before: number | null = n > 0 ? n - 1 : null): FrameState {
  const compared = standsStill(mapping) ? null : before;
  if (mapping.shutterDegrees) {
    const content = openContent(mapping, map, n);
    return compared !== null && repeats(content, openContent(mapping, map, compared)) ? 'held' : content.kind;
  }
  if (compared !== null && map.pictures[n] === map.pictures[compared] && map.nextShare[n] === map.nextShare[compared])
    return 'held';
  if (map.nextShare[n] === 0) return 'real';
  return isByMotion(mapping, n) ? 'made' : 'blended';
}

/** Contents of frames with an open shutter, kept as long as the step map: one takes as long as ten positions. */
const opened = new WeakMap<StepMap, FrameContent[]>();

function openContent(mapping: Mapping, map: StepMap, n: number): FrameContent {
  const known = opened.get(map) ?? [];
  opened.set(map, known);
  const content = known[n] ?? frameContent(mapping, n);
  known[n] = content;
  return content;
}

/** Whether motion makes frame n, should it lie between two pictures. */
function isByMotion({ fit, mixed, headTrim }: Mapping, n: number): boolean {
  return fit === 'motion' && !mixed?.has(n + headTrim);
}

/** Only what passes in time is averaged; a frame for which a whole picture was chosen shows that. */
function isOpen({ shutterDegrees = 0, fit, timing, whole, headTrim }: Mapping, n: number): boolean {
  if (shutterDegrees === 0 || fit === 'pictures' || fit === 'freeze' || timing.kind === 'still') return false;
  return !whole?.has(n + headTrim);
}
