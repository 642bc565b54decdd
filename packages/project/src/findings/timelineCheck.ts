import { rateToNumber } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import type { Clip, Project, Source, Timeline } from '../document/document.js';
import { cadenceOf, segmentsOf } from '../resolve/plan.js';
import { nestedOf } from '../resolve/sources.js';
import { asSeen, momentsAFrame } from '../timing/fieldRate.js';
import { type TimingOf, timelineLength } from '../timing/mapping.js';
import { corrected } from './judged.js';

/**
 * Why a frame shows nothing new against the one before it, or leaves something out.
 *
 * - rate: the step map shows the same picture again. cut: the next clip begins with the picture the last one ended on.
 * - source: another picture, which in its source shows nothing new.
 * - skip: pictures are left out beyond the usual step. jump: pictures are missing in the source.
 */
export const FRAME_CAUSES = ['rate', 'cut', 'source', 'skip', 'jump'] as const;
export type FrameCause = (typeof FRAME_CAUSES)[number];

/** A run of frames with one cause in one clip; of a timeline in fields, of fields. */
export interface FrameFinding {
  readonly from: number;
  /** Not included. */
  readonly to: number;
  readonly cause: FrameCause;
  readonly clipId: string;
  readonly sourceId: string;
  /** The source's picture at `from`, and the one shown in the frame before. */
  readonly picture: number;
  readonly before: number;
}

/** What a timeline's own frames show, by the cause of each finding. Of a timeline in fields all that is counted here are its fields, two a frame. */
export interface TimelineCheck {
  /** Moments that a frame has: 2 where it is of two fields. */
  readonly moments: 1 | 2;
  /** First frame, and the one after the last. */
  readonly range: { readonly from: number; readonly to: number };
  /** Frames that show something new, made pictures included. */
  readonly fresh: number;
  /** Frames a cause; skips and jumps are new frames all the same. */
  readonly frames: Readonly<Record<FrameCause, number>>;
  readonly blended: number;
  /** Stand still as asked for: stills and freezes. */
  readonly frozen: number;
  readonly black: number;
  /** New pictures a second where pictures are meant to move; the timeline's rate where nothing is. */
  readonly trueRate: number;
  readonly findings: readonly FrameFinding[];
  /** Sources that are shown and were not checked: what they hold is not known. */
  readonly uncheckedIds: readonly string[];
}

type Faults = Pick<Verdict, 'held' | 'jumps'>;
/** A source's findings by media id; undefined when it was not checked. */
export type FaultsOf = (mediaId: string) => Faults | undefined;

/** Placed timelines within each other are followed so deep. */
const DEEPEST = 12;

/**
 * Judges each frame of the timeline, or each of its fields, by its step maps and by what the checks of its sources found.
 * @param range in the timeline's own frames; its in to out when left out, null for all of it
 */
export function checkTimeline(
  project: Project,
  timeline: Timeline,
  {
    known,
    faultsOf,
    range = timeline.range,
  }: {
    readonly known: TimingOf;
    readonly faultsOf: FaultsOf;
    readonly range?: { readonly from: number; readonly to: number } | null;
  },
): TimelineCheck {
  const moments = momentsAFrame(timeline);
  const within = range && { from: moments * range.from, to: moments * range.to };
  return { moments, ...frameByFrame({ project, known, faultsOf, found: new Map() }, asSeen(timeline), within, 0) };
}

interface Context {
  readonly project: Project;
  readonly known: TimingOf;
  readonly faultsOf: FaultsOf;
  /** By source id: many clips share a source, and what it holds may be long. */
  readonly found: Map<string, Known | null>;
}

/** What the frame before showed. */
interface Last {
  readonly sourceId: string;
  readonly picture: number;
  readonly mixed: boolean;
}

function frameByFrame(
  context: Context,
  timeline: Timeline,
  range: TimelineCheck['range'] | null,
  depth: number,
): Omit<TimelineCheck, 'moments'> {
  const { project, known } = context;
  const first = range?.from ?? 0;
  const end = range?.to ?? timelineLength(timeline);
  const findings: FrameFinding[] = [];
  const frames: Record<FrameCause, number> = { rate: 0, cut: 0, source: 0, skip: 0, jump: 0 };
  const unchecked = new Set<string>();
  let [fresh, blended, frozen, covered, moving] = [0, 0, 0, 0, 0];
  let last: Last | null = null;
  for (const segment of segmentsOf(timeline)) {
    const [from, to] = [Math.max(first, segment.from), Math.min(end, segment.to)];
    if (to <= from) continue;
    const cadence = segment.clip && cadenceOf(project, timeline, segment.clip, known);
    if (!cadence) {
      last = null;
      continue;
    }
    covered += to - from;
    const { clip, source, map } = cadence;
    if (source.kind === 'still' || clip.fit === 'freeze') {
      frozen += to - from;
      last = { sourceId: source.id, picture: map.pictures[to - 1 - clip.start] as number, mixed: false };
      continue;
    }
    moving += to - from;
    const faults = faultsWithin(context, { clip, source, unchecked, depth });
    for (let frame = from; frame < to; frame++) {
      const n = frame - clip.start;
      const picture = map.pictures[n] as number;
      const mixed = (map.nextShare[n] as number) > 0;
      const cause = causeOf({
        last,
        now: { sourceId: source.id, picture, mixed },
        begins: frame === from,
        usualStep: map.usualStep,
        faults,
      });
      if (mixed) blended++;
      if (cause) {
        frames[cause]++;
        const before = last?.picture ?? picture;
        add(findings, { from: frame, to: frame + 1, cause, clipId: clip.id, sourceId: source.id, picture, before });
      }
      if (cause === null || cause === 'skip' || cause === 'jump') fresh++;
      last = { sourceId: source.id, picture, mixed };
    }
  }
  const rate = rateToNumber(timeline.rate);
  return {
    range: { from: first, to: end },
    fresh,
    frames,
    blended,
    frozen,
    black: Math.max(0, end - first - covered),
    trueRate: moving > 0 ? (fresh / moving) * rate : rate,
    findings,
    uncheckedIds: [...unchecked],
  };
}

/** Runs of held frames are one finding; each skip and each jump stands alone. */
function add(findings: FrameFinding[], one: FrameFinding): void {
  const last = findings.at(-1);
  const runs = one.cause === 'rate' || one.cause === 'source';
  if (runs && last && last.to === one.from && last.cause === one.cause && last.clipId === one.clipId)
    findings[findings.length - 1] = { ...last, to: one.to };
  else findings.push(one);
}

interface Known {
  readonly held: ReadonlySet<number>;
  readonly jumps: ReadonlySet<number>;
}
const NO_FAULTS: Known = { held: new Set(), jumps: new Set() };

function faultsWithin(
  context: Context,
  {
    clip,
    source,
    unchecked,
    depth,
  }: { readonly clip: Clip; readonly source: Source; readonly unchecked: Set<string>; readonly depth: number },
): Known {
  const inner = nestedOf(context.project, clip.sourceId);
  if (inner) {
    if (depth >= DEEPEST) return NO_FAULTS;
    const check = frameByFrame(context, inner, null, depth + 1);
    for (const id of check.uncheckedIds) unchecked.add(id);
    const framesOf = (causes: readonly FrameCause[]): Set<number> =>
      new Set(
        check.findings
          .filter((f) => causes.includes(f.cause))
          .flatMap((f) => Array.from({ length: f.to - f.from }, (_, i) => f.from + i)),
      );
    return { held: framesOf(['rate', 'cut', 'source']), jumps: framesOf(['skip', 'jump']) };
  }
  let known = context.found.get(source.id);
  if (known === undefined) {
    const found = context.faultsOf(source.mediaId);
    const faults = found ? corrected(found, source.judged) : null;
    known = faults && { held: new Set(faults.held), jumps: new Set(faults.jumps) };
    context.found.set(source.id, known);
  }
  if (!known) unchecked.add(source.id);
  return known ?? NO_FAULTS;
}

function causeOf({
  last,
  now,
  begins,
  usualStep,
  faults,
}: {
  readonly last: Last | null;
  readonly now: Last;
  readonly begins: boolean;
  readonly usualStep: number;
  readonly faults: Known;
}): FrameCause | null {
  if (!last || last.sourceId !== now.sourceId || last.mixed || now.mixed) return null;
  if (now.picture === last.picture) return begins ? 'cut' : 'rate';
  // A cut to another place of the same source leaves nothing out that was meant to be seen.
  if (begins || now.picture < last.picture) return null;
  let [fresh, jumped] = [0, false];
  for (let k = last.picture + 1; k <= now.picture; k++) {
    if (!faults.held.has(k)) fresh++;
    jumped ||= faults.jumps.has(k);
  }
  if (fresh === 0) return 'source';
  // Held pictures that are passed over are no loss.
  if (fresh > Math.max(1, usualStep)) return 'skip';
  return jumped ? 'jump' : null;
}

/** Marks for all places of the edit where held pictures of a source are seen, one a run; what the command markFrames takes. */
export function holdMarks(
  project: Project,
  sourceId: string,
  known: TimingOf,
  faultsOf: FaultsOf,
): { timelineId: string; frame: number; length: number; name: string }[] {
  const using = project.timelines.filter((t) => t.clips.some((c) => c.sourceId === sourceId));
  return using.flatMap((timeline) => {
    const { findings, moments } = checkTimeline(project, timeline, { known, faultsOf, range: null });
    return findings
      .filter((f) => f.cause === 'source' && f.sourceId === sourceId)
      .map(({ from, to, picture }) => {
        const name = project.sources.find((s) => s.id === sourceId)?.name ?? '';
        // A frame is marked where one of its fields holds.
        const frame = Math.floor(from / moments);
        return { timelineId: timeline.id, frame, length: Math.ceil(to / moments) - frame, name: `held: ${name} ${picture}` };
      });
  });
}
