import { type Blend, findMixings } from '../evidence/blends.js';
import { fuller, isWithin, meanOfNew } from '../evidence/contrast.js';
import { heldEvidence, stillPlaces } from '../evidence/evidence.js';
import { findJumps } from '../evidence/jumps.js';
import { findMade, type MaybeMade } from '../evidence/made.js';
import type { Changes } from '../measure/changes.js';
import type { FieldFinding } from './fields.js';
import { costOf, explain, PATTERNS, type PatternRun } from './patterns.js';

/** What a clip is, in one word. "mixed": stretches differ. */
export const VERDICT_KINDS = ['new', 'padded', 'one-in-n', 'pulldown', 'blended', 'still', 'mixed'] as const;
export type VerdictKind = (typeof VERDICT_KINDS)[number];

export interface Stretch {
  /** First picture. */
  readonly from: number;
  /** Last picture, not included. */
  readonly to: number;
  /** "new", "every-3", "one-in-25", "2:3", "2:3:3:2", "2:3 fields", "still", "blend". */
  readonly pattern: string;
  /** New pictures a second; null where nothing moves, so that no rate can be measured. */
  readonly trueRate: number | null;
  /** 0 to 1. */
  readonly certainty: number;
}

export interface Verdict {
  readonly kind: VerdictKind;
  readonly pictures: number;
  readonly storedRate: number;
  /** Length-weighted mean over the measurable stretches; the stored rate when there are none. */
  readonly trueRate: number;
  /** Pictures that show nothing new against the one before, ascending. */
  readonly held: readonly number[];
  /** Pictures before which others are missing: motion about twice as large for one step. */
  readonly jumps: readonly number[];
  /** Pictures that are a mix of their neighbours. */
  readonly blends: readonly number[];
  /** The later picture's share in each of `blends`, 0 to 1. */
  readonly shares: readonly number[];
  /** Stretches some of whose pictures may be made by motion; they count as new. */
  readonly made: readonly MaybeMade[];
  readonly fields: FieldFinding;
  readonly stretches: readonly Stretch[];
  /** Lowest of the stretches'. */
  readonly certainty: number;
  /** Change energy (root) below which held pictures lie, as found in this clip; null when none hold. */
  readonly holdCeiling: number | null;
}

export const NO_FIELDS: FieldFinding = { kind: 'none', first: null };
const FRESH = PATTERNS[0] as PatternRun['pattern'];
/** Least certainty with which padding is reported; below it only single holds are. */
const SETTLED = 0.8;
/** Slower motion (Changes.displacement) makes every picture nearly a mix of its neighbours. */
const BLEND_MOTION = 0.5;

/** Fewer consecutive held pictures than this are a freeze, not a still section. */
const STILL_AT_LEAST = 12;

/**
 * Judges a clip by the change of each of its pictures.
 * @param changes one a picture from the second on
 * @param storedRate pictures a second as measured
 * @param gaps time before each change relative to the usual (1), for variable timing; null when constant
 */
export function judge(changes: Changes, storedRate: number, gaps: Float64Array | null = null): Verdict {
  const pictures = changes.length + 1;
  const evidence = heldEvidence(changes);
  const still = stillPlaces(changes);
  const runs = merged(mergeShortStills(explain(evidence, still)).map((run) => confirmedRun(run, evidence, still)));
  const heldFlags = new Uint8Array(changes.length);
  const stretches: Stretch[] = [];
  const mixed: Blend[] = [];
  const made: MaybeMade[] = [];
  for (const run of runs) {
    markHeld(run, changes, evidence, heldFlags);
    const parts = stretchesOf(run, changes, { storedRate, certainty: certaintyOf(run, evidence, still), mixed });
    stretches.push(...parts);
    if (run.pattern === FRESH && parts.length === 1 && parts[0]?.pattern === 'new')
      made.push(...findMade(changes, run.from, run.to, storedRate));
  }
  if (stretches.length === 0) stretches.push({ from: 0, to: pictures, pattern: 'still', trueRate: null, certainty: 0 });
  const held = indices(heldFlags);
  const known = new Set(mixed.map((b) => b.at));
  const blends = [...mixed, ...findBlends(changes, heldFlags).filter((b) => !known.has(b.at))].sort((a, b) => a.at - b.at);
  return {
    kind: kindOf(stretches, blends.length, pictures),
    pictures,
    storedRate,
    trueRate: meanRate(stretches, storedRate),
    held,
    jumps: findJumps(changes, heldFlags, gaps),
    blends: blends.map((b) => b.at),
    shares: blends.map((b) => Math.round(b.share * 100) / 100),
    made,
    fields: NO_FIELDS,
    stretches,
    certainty: Math.min(...stretches.map((s) => s.certainty)),
    // Not Math.max(...): hours of padding hold more pictures than a call takes arguments.
    holdCeiling: held.length > 0 ? held.reduce((most, k) => Math.max(most, changes.at('rms', k - 1)), 0) : null,
  };
}

/** The run as reported: with its holds, or as all new where it is not certain enough that any picture holds. */
function confirmedRun(run: PatternRun, evidence: Float64Array, still: Uint8Array): PatternRun {
  if (run.pattern.name === 'still' || run.pattern === FRESH) return run;
  const isSure = (one: PatternRun): boolean => certaintyOf(one, evidence, still) >= SETTLED;
  if (!isSure(run)) return { ...run, pattern: FRESH, phase: 0 };
  const full = fuller(run, evidence);
  return isSure(full) ? full : run;
}

/** The verdict on pictures that fields of others were woven into, 2:3: no picture holds, and four in five are real. */
export function judgePulldown(pictures: number, storedRate: number, first: FieldFinding['first'], certainty: number): Verdict {
  const trueRate = storedRate * 0.8;
  return {
    kind: 'pulldown',
    pictures,
    storedRate,
    trueRate,
    held: [],
    jumps: [],
    blends: [],
    shares: [],
    made: [],
    fields: { kind: 'pulldown', first },
    stretches: [{ from: 0, to: pictures, pattern: '2:3 fields', trueRate, certainty }],
    certainty,
    holdCeiling: null,
  };
}

/** The verdict on a part of a clip, in the clip's own numbers. @param by the part's first picture */
export function shifted(verdict: Verdict, by: number): Verdict {
  if (by === 0) return verdict;
  const moved = (pictures: readonly number[]): number[] => pictures.map((k) => k + by);
  return {
    ...verdict,
    held: moved(verdict.held),
    jumps: moved(verdict.jumps),
    blends: moved(verdict.blends),
    made: verdict.made.map((m) => ({ ...m, from: m.from + by, to: m.to + by })),
    stretches: verdict.stretches.map((s) => ({ ...s, from: s.from + by, to: s.to + by })),
  };
}

/** A run as stretches: all-new pictures may turn out to be mixed from others in part. Mixed pictures are added to `mixed`. */
function stretchesOf(
  run: PatternRun,
  changes: Changes,
  { storedRate, certainty, mixed }: { readonly storedRate: number; readonly certainty: number; readonly mixed: Blend[] },
): Stretch[] {
  const { name, newShare } = run.pattern;
  const stretch = (from: number, to: number, more: Partial<Stretch> = {}): Stretch => ({
    from: from === 0 ? 0 : from + 1,
    to: to + 1,
    pattern: name,
    trueRate: name === 'still' ? null : storedRate * newShare,
    certainty,
    ...more,
  });
  const mixings = name === 'new' ? findMixings(changes, run.from, run.to, storedRate) : [];
  const found: Stretch[] = [];
  let at = run.from;
  for (const mixing of mixings) {
    if (mixing.from > at) found.push(stretch(at, mixing.from));
    found.push(stretch(mixing.from, mixing.to, { pattern: 'blend', trueRate: mixing.sourceRate, certainty: mixing.certainty }));
    mixed.push(...mixing.blends);
    at = mixing.to;
  }
  if (at < run.to) found.push(stretch(at, run.to));
  return found;
}

/** A pattern gives each picture a prior; strong evidence of its own still makes a single freeze or a new picture. */
function markHeld(run: PatternRun, changes: Changes, evidence: Float64Array, flags: Uint8Array): void {
  const { cycle, name } = run.pattern;
  // A still section is left out of the sum: its pictures are neither held nor new.
  if (name === 'still') return;
  // Against the beat a picture is new if it is as new as the others that are.
  const newest = Math.min(-3, meanOfNew(run, evidence));
  for (let k = run.from; k < run.to; k++) {
    const expected = cycle[(run.phase + k - run.from) % cycle.length] as boolean;
    // Within all-new material a freeze is rare and needs more of its own, less so beside another one.
    const beside = k > run.from && flags[k - 1] === 1;
    const prior = expected ? -newest : name !== 'new' ? -3 : beside ? -1 : -3.4;
    flags[k] = (evidence[k] as number) + prior > 0 ? 1 : 0;
  }
  if (name === 'new') dropCalm(run, changes, flags);
}

/** Natural logarithm of how much more the pictures on both sides of a freeze have to change than it does. */
const FREEZE_DROP = 0.8;

/** A freeze begins and ends abruptly; motion that slows down and speeds up again is not one. */
function dropCalm(run: PatternRun, changes: Changes, flags: Uint8Array): void {
  const { level } = changes.columns;
  const largest = (from: number, to: number): number => {
    let most = Number.NEGATIVE_INFINITY;
    for (let k = Math.max(0, from); k < Math.min(changes.length, to); k++) most = Math.max(most, level[k] as number);
    return most;
  };
  for (let k = run.from; k < run.to; k++) {
    if (!flags[k]) continue;
    let end = k + 1;
    while (end < run.to && flags[end]) end++;
    const before = largest(k - 2, k);
    const after = largest(end, end + 2);
    const outside = Math.min(Number.isFinite(before) ? before : after, Number.isFinite(after) ? after : before);
    if (outside - largest(k, end) < FREEZE_DROP) flags.fill(0, k, end);
    k = end;
  }
}

function mergeShortStills(runs: PatternRun[]): PatternRun[] {
  return merged(
    runs.map((run) =>
      run.pattern.name === 'still' && run.to - run.from < STILL_AT_LEAST && runs.length > 1
        ? { ...run, pattern: FRESH, phase: 0 }
        : run,
    ),
  );
}

/** Neighbours of one pattern as one, where any phase is the same. */
function merged(runs: readonly PatternRun[]): PatternRun[] {
  return runs.reduce<PatternRun[]>((found, run) => {
    const last = found.at(-1);
    if (last && last.pattern === run.pattern && run.pattern.cycle.length === 1) found[found.length - 1] = { ...last, to: run.to };
    else found.push(run);
    return found;
  }, []);
}

/** Odds against the best rival explanation of the same pictures, softened: each picture is worth less than it says. */
function certaintyOf(run: PatternRun, evidence: Float64Array, still: Uint8Array): number {
  if (run.pattern.name === 'still') {
    // The share of its steps around which nothing moves beyond the noise measured in them.
    const quiet = still.subarray(run.from, run.to).reduce((sum, one) => sum + one, 0);
    return Math.min(0.999, quiet / (run.to - run.from));
  }
  const own = costOf(run.pattern, evidence, run.from, run.to);
  let rival = Number.POSITIVE_INFINITY;
  for (const p of PATTERNS) {
    if (p === run.pattern || p.name === 'still') continue;
    const cost = costOf(p, evidence, run.from, run.to);
    // Contrast has decided against a cheaper pattern that holds a part of the same.
    if (cost > own || p.newShare === 1 || !isWithin(p, run)) rival = Math.min(rival, cost);
  }
  return Math.min(0.999, 1 / (1 + Math.exp(-(rival - own) / 3)));
}

function meanRate(stretches: readonly Stretch[], storedRate: number): number {
  let sum = 0;
  let length = 0;
  for (const stretch of stretches) {
    if (stretch.trueRate === null) continue;
    sum += stretch.trueRate * (stretch.to - stretch.from);
    length += stretch.to - stretch.from;
  }
  return length > 0 ? sum / length : storedRate;
}

function kindOf(stretches: readonly Stretch[], blends: number, pictures: number): VerdictKind {
  const told = stretches.filter((s) => s.pattern !== 'still');
  if (told.length === 0) return 'still';
  const names = new Set(told.map((s) => s.pattern));
  if (names.size > 1) return 'mixed';
  const name = told[0]?.pattern ?? 'new';
  if (name.startsWith('every-')) return 'padded';
  if (name.startsWith('one-in-')) return 'one-in-n';
  if (name.startsWith('2:3')) return 'pulldown';
  if (name === 'blend') return 'blended';
  return blends > pictures * 0.2 ? 'blended' : 'new';
}

/** Pictures that lie between their neighbours, where the meter found motion enough to tell. */
function findBlends(changes: Changes, held: Uint8Array): Blend[] {
  const found: Blend[] = [];
  for (let i = 0; i + 1 < changes.length; i++) {
    if (held[i] || held[i + 1]) continue;
    const share = 1 - changes.at('mixShare', i);
    const moves = Math.min(changes.at('displacement', i), changes.at('displacement', i + 1)) > BLEND_MOTION;
    if (moves && changes.at('mixLeft', i) < 0.02 && share > 0.12 && share < 0.88) found.push({ at: i + 1, share });
  }
  return found;
}

function indices(flags: Uint8Array): number[] {
  const found: number[] = [];
  for (let i = 0; i < flags.length; i++) if (flags[i]) found.push(i + 1);
  return found;
}
