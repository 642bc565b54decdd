import { cadenceFacts } from '@thawline/core/cadence';
import { formatRate, type Rate, sameRate } from '@thawline/core/time';
import {
  asSeen,
  cadenceAsSeen,
  isMoving,
  ownRate,
  type Project,
  passingRate,
  readRate,
  readSeconds,
  readsUnevenly,
  type Timeline,
  type TimingOf,
} from '@thawline/project';
import { rateLabel } from './rates.js';

/** A source on the timeline that does not run at its rate. */
export interface Mismatch {
  readonly clipId: string;
  /** First frame on the timeline. */
  readonly start: number;
  readonly name: string;
  readonly sourceRate: string;
  readonly hitches: number;
  readonly perSecond: number;
  readonly fit: string;
}

/** Sources that stand on the timeline at another rate than its own, with the hitches that costs. */
export function mismatches(project: Project, timeline: Timeline, known: TimingOf): Mismatch[] {
  const pictures = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  const found: Mismatch[] = [];
  for (const clip of timeline.clips) {
    if (!pictures.has(clip.laneId)) continue;
    const cadence = cadenceAsSeen(project, timeline, clip, known);
    if (!cadence) continue;
    const { source } = cadence;
    const runs = passingRate(source, clip);
    if (!runs || (!readsUnevenly(source) && fits(timeline, runs))) continue;
    const facts = cadenceFacts(cadence.mapping, cadence.map, ownRate(source));
    const sourceRate = readsUnevenly(source) ? `about ${formatRate(runs)}, variable` : formatRate(runs);
    found.push({
      clipId: clip.id,
      start: clip.start,
      name: clip.label ?? source.name,
      sourceRate,
      hitches: facts.hitches,
      perSecond: facts.hitchesPerSecond,
      fit: clip.fit,
    });
  }
  return found;
}

/** Whether so many pictures a second are the timeline's own: one a frame, or where its frames are of two fields, one a field. */
function fits(timeline: Timeline, pictures: Rate): boolean {
  return sameRate(pictures, timeline.rate) || sameRate(pictures, asSeen(timeline).rate);
}

/** Different rates that the sources are read at; a variable one counts by itself, a still has none. */
export function ratesOf(project: Project): string[] {
  return [...new Set(project.sources.filter(isMoving).map(rateLabel))];
}

/** The rate most of the sources' running time has, as a suggestion for a timeline; null without sources. */
export function suggestRate(project: Project): { rate: Rate; reason: string } | null {
  const even = project.sources.filter((s) => !readsUnevenly(s));
  const spoken = even.filter((s) => s.sound);
  const among = spoken.length > 0 ? spoken : even;
  const time = new Map<string, { rate: Rate; seconds: number }>();
  for (const s of among) {
    const rate = readRate(s);
    if (!rate) continue;
    const key = formatRate(rate);
    time.set(key, { rate, seconds: (time.get(key)?.seconds ?? 0) + (readSeconds(s) ?? 0) });
  }
  const best = [...time.values()].sort((a, b) => b.seconds - a.seconds)[0];
  if (!best) return null;
  const what = spoken.length > 0 ? 'most of what has sound' : 'most of your running time';
  return { rate: best.rate, reason: `${formatRate(best.rate)} is what ${what} runs at` };
}
