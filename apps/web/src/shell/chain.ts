import { cadenceFacts } from '@thawline/core/cadence';
import { formatRate, type Rate, sameRate } from '@thawline/core/time';
import { cadenceOf, type Project, type Timeline, type TimingOf } from '@thawline/project';

/** A source on the timeline that does not run at its rate. */
export interface Mismatch {
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
    const cadence = cadenceOf(project, timeline, clip, known);
    if (!cadence) continue;
    const { source } = cadence;
    if (!source.variable && sameRate(source.measured.rate, timeline.rate)) continue;
    const facts = cadenceFacts(cadence.mapping, cadence.map);
    const sourceRate = source.variable ? `about ${formatRate(source.measured.rate)}, variable` : formatRate(source.measured.rate);
    found.push({ name: source.name, sourceRate, hitches: facts.hitches, perSecond: facts.hitchesPerSecond, fit: clip.fit });
  }
  return found;
}

/** Different measured rates among the sources; a variable one counts by itself. */
export function ratesOf(project: Project): string[] {
  return [
    ...new Set(
      project.sources.map((s) => (s.variable ? `variable ${formatRate(s.measured.rate)}` : formatRate(s.measured.rate))),
    ),
  ];
}

/** The rate most of the sources' running time has, as a suggestion for a timeline; null without sources. */
export function suggestRate(project: Project): { rate: Rate; reason: string } | null {
  const spoken = project.sources.filter((s) => s.sound && !s.variable);
  const among = spoken.length > 0 ? spoken : project.sources.filter((s) => !s.variable);
  const time = new Map<string, { rate: Rate; seconds: number }>();
  for (const s of among) {
    const key = formatRate(s.measured.rate);
    time.set(key, { rate: s.measured.rate, seconds: (time.get(key)?.seconds ?? 0) + s.seconds });
  }
  const best = [...time.values()].sort((a, b) => b.seconds - a.seconds)[0];
  if (!best) return null;
  const what = spoken.length > 0 ? 'most of what has sound' : 'most of your running time';
  return { rate: best.rate, reason: `${formatRate(best.rate)} is what ${what} runs at` };
}
