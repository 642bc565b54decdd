import { exactPositionAt, type FrameState, fitMakes, frameState, type Mapping, SHARES } from '@thawline/core/cadence';
import { type QuickPan, quickPans, type Shift } from '@thawline/core/motion';
import { type Rate, rate, rateToNumber, times } from '@thawline/core/time';
import { type Clip, type ClipCadence, isMoving, ownRate, type Source } from '@thawline/project';

/** What the Retime view knows of a clip's frames; plain computing, so that it can be tested. Frames count from the clip's first. */

/** Source position of each frame from `from` on, in pictures. */
export function positionsOf(mapping: Mapping, from: number, to: number): Float64Array {
  const smooth: Mapping = {
    ...mapping,
    fit: fitMakes(mapping.fit) || mapping.fit === 'nearest' ? 'blend' : mapping.fit,
  };
  return Float64Array.from({ length: Math.max(0, to - from) }, (_, i) => {
    const { picture, nextShare, next = picture + 1 } = exactPositionAt(smooth, from + i, SHARES);
    return picture + ((next - picture) * nextShare) / SHARES;
  });
}

/** Speed of the action at a frame, 1 is as it was taken; backward is negative. */
export function speedAt(mapping: Mapping, source: Source, n: number): number {
  const own = ownRate(source);
  if (!own || mapping.length < 2) return 1;
  const at = Math.min(n, mapping.length - 2);
  const [a = 0, b = 0] = positionsOf(mapping, at, at + 2);
  return (b - a) * (rateToNumber(mapping.timeline) / rateToNumber(own));
}

/**
 * Stretches of a clip, in its frames, in which a point crosses the frame too quickly for its timeline's rate.
 * @param shifts of the source, each picture from the one before
 */
export function quickStretches(mapping: Mapping, shifts: readonly Shift[]): QuickPan[] {
  // Where the camera has got to at each picture; between two, in proportion.
  const been: Shift[] = [];
  for (const { x, y } of shifts) been.push({ x: x + (been.at(-1)?.x ?? 0), y: y + (been.at(-1)?.y ?? 0) });
  // Of the first picture nothing is known; it stands where the second one comes from.
  const at = (position: number): Shift => {
    const k = Math.max(0, Math.min(been.length - 1, Math.floor(position)));
    const [a, b] = [been[k] as Shift, been[Math.min(k + 1, been.length - 1)] as Shift];
    const share = Math.min(1, Math.max(0, position - k));
    return { x: a.x + (b.x - a.x) * share, y: a.y + (b.y - a.y) * share };
  };
  if (been.length === 0) return [];
  const places = Array.from(positionsOf(mapping, 0, mapping.length), at);
  const steps = places.map((p, n) => ({ x: p.x - (places[n - 1]?.x ?? p.x), y: p.y - (places[n - 1]?.y ?? p.y) }));
  return quickPans(steps, rateToNumber(mapping.timeline));
}

/** Runs of frames that pass less than a picture each and do not stand: here pictures have to be made, whatever the fit. `to` is not included. */
export function slowRuns(positions: Float64Array): { from: number; to: number }[] {
  const runs: { from: number; to: number }[] = [];
  for (let n = 0; n + 1 < positions.length; n++) {
    const step = Math.abs((positions[n + 1] as number) - (positions[n] as number));
    if (step > 0.999 || step < 1e-6) continue;
    const last = runs.at(-1);
    if (last && last.to === n) runs[runs.length - 1] = { from: last.from, to: n + 1 };
    else runs.push({ from: n, to: n + 1 });
  }
  return runs;
}

/**
 * The slowest speed at which nothing has to be made: each new picture once. Exact.
 * @param held pictures that a check found to show nothing new
 */
export function cleanestSlow(source: Source, timeline: Rate, held: number): Rate | null {
  const own = ownRate(source);
  if (!own) return null;
  const fresh = times(own, rate(Math.max(1, source.pictures - held), source.pictures));
  return rate(timeline.num * fresh.den, timeline.den * fresh.num);
}

/** How many frames of a clip are what. */
export function countStates(cadence: ClipCadence): Record<FrameState, number> {
  const counts: Record<FrameState, number> = { real: 0, held: 0, blended: 0, made: 0 };
  for (let n = 0; n < cadence.clip.length; n++) counts[frameState(cadence.mapping, cadence.map, n)]++;
  return counts;
}

/** The clips that can be retimed, in the order of the timeline: moving pictures, and whatever sounds. */
export function retimable(
  clips: readonly Clip[],
  lanes: ReadonlySet<string>,
  sourceOf: (id: string) => Source | undefined,
): Clip[] {
  return clips
    .filter((c) => {
      const source = sourceOf(c.sourceId);
      return lanes.has(c.laneId) ? isMoving(source ?? { kind: 'still' }) : Boolean(source?.sound);
    })
    .sort((a, b) => a.start - b.start || Number(lanes.has(b.laneId)) - Number(lanes.has(a.laneId)));
}
