import { type Clock, formatTimecode, nominalRate, parseTimecode } from '@thawline/core/time';

/** Sizes of the weave, in pixels a frame: film strip, single pictures, threads alone, and (0) the whole clip. */
export const WEAVE_ZOOMS = [96, 38, 14, 5, 0] as const;

/** The next size, closer or wider; the ends stay. */
export function wider(zoom: number, closer: boolean): number {
  const at = WEAVE_ZOOMS.findIndex((z) => z <= zoom);
  const next = Math.max(0, Math.min(WEAVE_ZOOMS.length - 1, (at < 0 ? WEAVE_ZOOMS.length - 1 : at) + (closer ? -1 : 1)));
  return WEAVE_ZOOMS[next] ?? 38;
}

/**
 * The nearest of some frames that lies within reach of one of the moved edges, as the move that puts that edge on it; the
 * wanted move when none does.
 * @param edges frames that are moved
 * @param by wanted move, in frames
 * @param reach frames
 */
export function snapped(edges: readonly number[], by: number, places: readonly number[], reach: number): number {
  let best = by;
  let nearest = reach;
  for (const edge of edges)
    for (const place of places) {
      const apart = Math.abs(place - edge - by);
      if (apart <= nearest) {
        nearest = apart;
        best = place - edge;
        if (apart === 0) return by;
      }
    }
  return best;
}

/** Seconds that labels may be apart. */
const LABEL_SECONDS = [1, 2, 5, 10, 30, 60, 300, 600, 3600];
const LABEL_FRAMES = [1, 2, 5, 10];

/**
 * The frames of a timeline that a ruler names: round timecodes, also where drop-frame leaves numbers out or the timeline begins between two.
 * @param apart frames that labels need at least
 * @param from first frame that is seen
 * @param to first one that is not
 */
export function rulerFrames(clock: Clock, apart: number, from: number, to: number): number[] {
  const base = nominalRate(clock.rate);
  const options = { dropFrame: clock.dropFrame };
  const step = LABEL_FRAMES.find((n) => n >= apart) ?? null;
  const seconds = step ? 1 : (LABEL_SECONDS.find((s) => s * base >= apart) ?? 3600);
  const labelled = formatTimecode(clock.startFrame + Math.floor(from), clock.rate, options)
    .split(/[:;]/)
    .map(Number);
  const [h = 0, m = 0, s = 0] = labelled;
  const frames: number[] = [];
  const frameOf = (second: number, frame: number): number | null => {
    const parts = [Math.floor(second / 3600), Math.floor(second / 60) % 60, second % 60, frame];
    const counted = parseTimecode(parts.map((n) => String(n).padStart(2, '0')).join(':'), clock.rate, options);
    // A number that drop-frame leaves out: the first one after it stands there.
    const found =
      counted ??
      parseTimecode(parts.map((n, i) => String(i === 3 ? base / 15 : n).padStart(2, '0')).join(':'), clock.rate, options);
    return found === null ? null : found - clock.startFrame;
  };
  const first = Math.floor((h * 3600 + m * 60 + s) / seconds) * seconds;
  for (let second = first; ; second += seconds) {
    const begins = frameOf(second, 0);
    if (begins === null || begins >= to || frames.length > 10_000) return frames.filter((f) => f >= 0);
    frames.push(begins);
    // Within a second, round numbers that leave the next one room.
    for (let n = step ?? base; step && n + step / 2 < base; n += step) {
      const frame = frameOf(second, n);
      if (frame !== null && frame > begins && frame < to) frames.push(frame);
    }
  }
}
