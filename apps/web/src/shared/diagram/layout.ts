import {
  type FrameState,
  frameContent,
  frameState,
  type Mapping,
  picturesIn,
  SHARES,
  type StepMap,
} from '@thawline/core/cadence';
import { pictureAfter, pictureCount, rateToNumber } from '@thawline/core/time';

/** The weave as plain places: no drawing here, so that it can be tested and drawn anywhere. Units: frames of the timeline. */
export interface WeaveLayout {
  readonly pictures: readonly WeavePicture[];
  readonly frames: readonly WeaveFrame[];
}

export interface WeavePicture {
  readonly picture: number;
  /** Place along the row: the frame, with fraction, at which the picture's own time begins. */
  readonly at: number;
  readonly skipped: boolean;
}

export interface WeaveFrame {
  /** Frame of the clip, 0 is its first. */
  readonly frame: number;
  readonly at: number;
  readonly step: number;
  readonly hitch: boolean;
  readonly state: FrameState;
  /** Pictures it shows, with their share: one, two where it lies between them, more for an open shutter. */
  readonly threads: readonly { readonly picture: number; readonly at: number; readonly share: number }[];
}

/**
 * Where a picture's own time begins among the frames of a curve: where the line through the positions of these frames passes it,
 * nearest to the middle; beyond them, as far as it would be at their speed.
 */
function placeOnCurve(map: StepMap, from: number, to: number, picture: number): number {
  const at = (n: number): number => (map.pictures[n] as number) + (map.nextShare[n] as number) / SHARES;
  const middle = (from + to) / 2;
  let best = Number.NaN;
  for (let n = from; n + 1 < to; n++) {
    const [a, b] = [at(n), at(n + 1)];
    if (a === b ? a !== picture : (picture - a) * (picture - b) > 0) continue;
    const place = a === b ? n : n + (picture - a) / (b - a);
    if (!(Math.abs(place - middle) >= Math.abs(best - middle))) best = place;
  }
  if (!Number.isNaN(best) || to - from < 2) return Number.isNaN(best) ? from : best;
  const speed = (at(to - 1) - at(from)) / (to - 1 - from) || 1;
  return from + (picture - at(from)) / speed;
}

/** The frame, with fraction, at which a picture's own time begins in this mapping without a curve. For drawing only. */
export function placeOfPicture(mapping: Mapping, picture: number): number {
  const { timing, timeline, fit, inPicture, headTrim } = mapping;
  if (timing.kind === 'still') return -headTrim;
  if (fit === 'pictures') return picture - inPicture - headTrim;
  const perSecond = rateToNumber(timeline);
  if (timing.kind === 'constant') return ((picture - inPicture) * perSecond) / rateToNumber(timing.rate) - headTrim;
  const tick = (k: number): number => timing.ticks[k] ?? timing.end;
  return ((tick(picture) - tick(inPicture)) * perSecond) / rateToNumber(timing.timeBase) - headTrim;
}

/** Lays out the frames from `from` to `to` (not included) of a clip and the pictures whose time falls there. */
export function layoutWeave(mapping: Mapping, map: StepMap, from: number, to: number): WeaveLayout {
  const first = Math.max(0, from);
  const end = Math.min(map.pictures.length, to);
  const hitches = new Set(map.hitches);
  const shown = new Set<number>();
  const placeOf = (picture: number): number =>
    mapping.curve?.length ? placeOnCurve(map, first, end, picture) : placeOfPicture(mapping, picture);
  const frames: WeaveFrame[] = [];
  for (let frame = first; frame < end; frame++) {
    const picture = map.pictures[frame] as number;
    const position = {
      picture,
      nextShare: map.nextShare[frame] as number,
      next: pictureAfter(mapping.timing, picture),
      weight: 1,
    };
    const shares = picturesIn(mapping.shutterDegrees ? frameContent(mapping, frame) : { parts: [position] });
    const threads = [...shares].map(([of, share]) => ({ picture: of, at: placeOf(of), share }));
    for (const thread of threads) shown.add(thread.picture);
    const step = frame === 0 ? 0 : (map.steps[frame] as number);
    const state = frameState(mapping, map, frame);
    frames.push({ frame, at: frame, step, hitch: hitches.has(frame), state, threads });
  }
  const pictures: WeavePicture[] = [];
  if (frames.length > 0) {
    const least = Math.min(...shown);
    const most = Math.max(...shown);
    const lowest = Math.max(0, least - 2);
    const highest = Math.min(pictureCount(mapping.timing) - 1, most + 2);
    for (let picture = lowest; picture <= highest; picture++) {
      const at = placeOf(picture);
      if (at < first - 1 || at > end) continue;
      // Beyond the drawn frames' own pictures nothing is known here: only what lies between them can have been skipped.
      const between = picture > least && picture < most;
      if (shown.has(picture)) pictures.push({ picture, at, skipped: false });
      else if (between) pictures.push({ picture, at, skipped: true });
    }
  }
  return { pictures, frames };
}

/** The path of a thread from a picture (x1, y1) down to a frame (x2, y2). */
export function threadPath(x1: number, y1: number, x2: number, y2: number): string {
  const middle = (y1 + y2) / 2;
  return `M${x1.toFixed(1)} ${y1}C${x1.toFixed(1)} ${middle} ${x2.toFixed(1)} ${middle} ${x2.toFixed(1)} ${y2}`;
}

/** Frames of one column of pixels. */
export interface WeaveColumn {
  readonly frames: number;
  readonly held: number;
  /** Or made. */
  readonly blended: number;
  readonly hitches: number;
}

/** The frames from `from` to `to` (not included) of a clip, gathered into so many columns; each frame counts in one. */
export function columnsOf(
  mapping: Mapping,
  map: StepMap,
  { from, to, columns }: { readonly from: number; readonly to: number; readonly columns: number },
): WeaveColumn[] {
  const first = Math.max(0, from);
  const end = Math.min(map.pictures.length, to);
  const found = Array.from({ length: columns }, () => ({ frames: 0, held: 0, blended: 0, hitches: 0 }));
  const columnOf = (frame: number): number =>
    Math.min(columns - 1, Math.floor(((frame - first) * columns) / Math.max(1, end - first)));
  for (let frame = first; frame < end; frame++) {
    const column = found[columnOf(frame)];
    if (!column) continue;
    column.frames++;
    const state = frameState(mapping, map, frame);
    if (state === 'held') column.held++;
    else if (state !== 'real') column.blended++;
  }
  for (const hitch of map.hitches) {
    const column = hitch >= first && hitch < end ? found[columnOf(hitch)] : undefined;
    if (column) column.hitches++;
  }
  return found;
}
