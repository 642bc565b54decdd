import { cadenceFacts, type Fit, fitMakes, longestRun } from '@thawline/core/cadence';
import { formatRate, rateToNumber } from '@thawline/core/time';
import {
  type Clip,
  cadenceAsSeen,
  clipEnd,
  ownRate,
  type Project,
  passingRate,
  type Source,
  sourceOf,
  speedWords,
  type Timeline,
} from '@thawline/project';

/** The price of a fit for one clip or many, computed by applying the command to a copy. */
export interface FitPrice {
  readonly seconds: number;
  /** Length all pictures would take where there is no room for them. */
  readonly whole: number;
  readonly speeds: readonly number[];
  readonly steps: string;
  readonly hitches: number;
  readonly perSecond: number;
  readonly blended: number;
  /** Pictures made by motion. */
  readonly made: number;
  /** The worst of the clips, in ms. */
  readonly unevenMs: number;
  readonly semitones: readonly number[];
}

/** "50 %", or the least and the most of several. */
export function speedSpread(speeds: readonly number[]): string {
  const [low, high] = [speedWords(Math.min(...speeds)), speedWords(Math.max(...speeds))];
  return low === high ? low : `${low}\u2013${high}`;
}

/** One number, or the least and the most. */
export function spread(values: readonly number[], digits: number, unit: string): string {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const one = low.toFixed(digits);
  return one === high.toFixed(digits) ? `${one}${unit}` : `${one}\u2013${high.toFixed(digits)}${unit}`;
}

/** The clips that have pictures to fit; all of them where none has. */
export function pictureClips(timeline: Timeline, clips: readonly Clip[]): readonly Clip[] {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  const pictures = clips.filter((c) => lanes.has(c.laneId));
  return pictures.length > 0 ? pictures : clips;
}

/** Picture clips whose pictures pass at the same rate as this one's. */
export function clipsOfSameRate(project: Project, timeline: Timeline, clip: Clip, source: Source): Clip[] {
  const rate = passingRate(source, clip);
  const key = rate && formatRate(rate);
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  return timeline.clips.filter((c) => {
    const other = lanes.has(c.laneId) ? sourceOf(project, c.sourceId) : undefined;
    const passing = other && passingRate(other, c);
    return passing && formatRate(passing) === key;
  });
}

/** The price of a fit for the `meant` clips, measured on a project in which they have it; null if none of them can have it. */
export function fitPrice(
  after: Project,
  {
    timeline,
    meant,
    fit,
    timings,
  }: {
    readonly timeline: Timeline;
    readonly meant: readonly Clip[];
    readonly fit: Fit;
    readonly timings: Parameters<typeof cadenceAsSeen>[3];
  },
): FitPrice | null {
  const changed = after.timelines.find((t) => t.id === timeline.id);
  if (!changed) return null;
  const there = new Map(changed.clips.map((c) => [c.id, c]));
  let seconds = 0;
  let whole = 0;
  let hitches = 0;
  let blended = 0;
  let made = 0;
  let unevenMs = 0;
  let steps = '';
  const speeds: number[] = [];
  const semitones: number[] = [];
  for (const clip of meant) {
    const now = there.get(clip.id);
    const cadence = now && cadenceAsSeen(after, changed, now, timings);
    if (!now || !cadence) continue;
    const { source, mapping, map } = cadence;
    const facts = cadenceFacts(mapping, map, ownRate(source));
    // A clip that has no room for all its pictures is cut by the next one: said beside its length.
    const cut =
      source.kind !== 'still' &&
      fit !== 'freeze' &&
      (clip.fit === 'pictures') !== (fit === 'pictures') &&
      clipEnd(now) > now.start;
    whole += cut ? Math.max(facts.seconds, longestRun(mapping) / rateToNumber(mapping.timeline)) : facts.seconds;
    seconds += facts.seconds;
    hitches += facts.hitches;
    blended += facts.blended;
    made += facts.made;
    unevenMs = Math.max(unevenMs, facts.unevennessMs);
    speeds.push(facts.speed);
    semitones.push(facts.semitones);
    if (steps === '') {
      const runs = passingRate(source, now);
      steps =
        fitMakes(fit) && runs
          ? `even ${(rateToNumber(runs) / rateToNumber(mapping.timeline)).toFixed(3)}`
          : [...map.steps.slice(1, 7)].join(' ');
    }
  }
  if (speeds.length === 0) return null;
  const perSecond = seconds > 0 ? hitches / seconds : 0;
  return { seconds, whole, speeds, steps, hitches, perSecond, blended, made, unevenMs, semitones };
}
