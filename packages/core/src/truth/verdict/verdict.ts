import { type Blend, findMixings } from '../evidence/blends.js';
import { fuller, isWithin, meanOfNew } from '../evidence/contrast.js';
import { heldEvidence, stillPlaces } from '../evidence/evidence.js';
import { isNoisy, smearedPlaces } from '../evidence/faint.js';
import { findJumps, missingIn } from '../evidence/jumps.js';
import { findMade, type MaybeMade } from '../evidence/made.js';
import { findParts, isDoubtful, type Part } from '../evidence/parts.js';
import { findPassages, type Passage } from '../evidence/passages.js';
import { beatOf, findSkipping, type Skipping, type Skips } from '../evidence/skips.js';
import type { FieldFinding } from '../fields/judgeFields.js';
import { besideCuts, type Fault } from '../measure/breaks/faults.js';
import type { Changes } from '../measure/changes.js';
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
  /** By what rhythm pictures of a higher rate were left out; null where none were. */
  readonly skips: Skips | null;
}

export interface Verdict {
  readonly kind: VerdictKind;
  readonly pictures: number;
  readonly storedRate: number;
  /** Length-weighted mean over the measurable stretches; the stored rate when there are none. */
  readonly trueRate: number;
  /** Pictures that show nothing new against the one before, ascending. */
  readonly held: readonly number[];
  /** Pictures that are the same samples as the one before, held ones included: where nothing happens none has to be held. */
  readonly unchanged: readonly number[];
  /** Pictures before which others are missing, and how many are: motion so much larger for one step. */
  readonly jumps: readonly number[];
  readonly missing: readonly number[];
  /** First pictures of shots, the first shot's left out. */
  readonly cuts: readonly number[];
  /** Pictures that do not belong where they are, ascending. */
  readonly faults: readonly Fault[];
  /** Flashes, fades and dissolves, ascending. */
  readonly passages: readonly Passage[];
  /** Pictures that are a mix of their neighbours. */
  readonly blends: readonly number[];
  /** The later picture's share in each of `blends`, 0 to 1. */
  readonly shares: readonly number[];
  /** Stretches some of whose pictures may be made by motion; they count as new. */
  readonly made: readonly MaybeMade[];
  readonly fields: FieldFinding;
  /** Parts of the picture that have rates of their own, the fastest first; empty where all that moves has one rate. */
  readonly parts: readonly Part[];
  readonly stretches: readonly Stretch[];
  /** Lowest of the stretches'. */
  readonly certainty: number;
  /** Change energy (root) below which held pictures lie, as found in this clip; null when none hold. */
  readonly holdCeiling: number | null;
}

/** Pictures about which a fault says more than their change: it, and what its neighbours seem to be because of it. */
function touched(faults: readonly Fault[]): ReadonlySet<number> {
  return new Set(faults.flatMap(({ picture: k, kind }) => [k, k + 1, ...(kind === 'swapped' ? [k + 2] : [])]));
}

export const NO_FIELDS: FieldFinding = {
  kind: 'none',
  first: null,
  flag: 'absent',
  certainty: 0,
  stretches: [],
  breaks: [],
  film: [],
};
const FRESH = PATTERNS[0] as PatternRun['pattern'];
/** Least certainty with which padding is reported; below it only single holds are. */
const SETTLED = 0.8;
/** Slower motion (Changes.displacement) makes every picture nearly a mix of its neighbours. */
const BLEND_MOTION = 0.5;

/** Light that rises or falls by more than this from picture to picture, in 8-bit steps, fades. */
const FADES = 0.8;

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
  const smeared = smearedPlaces(changes);
  const evidence = heldEvidence(changes, smeared);
  const still = stillPlaces(changes);
  // Of parts with rates of their own the fastest one says how fast the whole is.
  const parts = findParts(changes, storedRate);
  parts?.fastest.forEach((said, k) => {
    if (Number.isNaN(said)) return;
    evidence[k] = said;
    still[k] = 0;
  });
  const runs = merged(mergeShortStills(explain(evidence, still)).map((run) => confirmedRun(run, evidence, still)));
  const heldFlags = new Uint8Array(changes.length);
  const stretches: Stretch[] = [];
  const mixed: Blend[] = [];
  const skipped: Skipping[] = [];
  const made: MaybeMade[] = [];
  for (const run of runs) {
    markHeld(run, changes, evidence, heldFlags);
    const rests = run.pattern === FRESH && restShare(run, changes, heldFlags) > MOSTLY;
    const beats = run.pattern !== FRESH && run.pattern.name !== 'still';
    const doubtful = (beats && !parts && isDoubtful(changes, heldFlags, run.from, run.to)) || isMostlySmeared(run, smeared);
    const told = stretchesOf(run, changes, {
      storedRate,
      gaps,
      certainty: Math.min(certaintyOf(run, evidence, still), doubtful ? DOUBTED : 1),
      mixed,
      skipped,
      inParts: parts !== null,
    });
    // Where most pictures are the one before, what comes now and then has no rate.
    stretches.push(...(rests ? told.map((s) => ({ ...s, pattern: 'still', trueRate: null, skips: null })) : told));
    if (!parts && run.pattern === FRESH && told.length === 1 && told[0]?.pattern === 'new')
      made.push(...findMade(changes, run.from, run.to, storedRate));
  }
  if (stretches.length === 0)
    stretches.push({ from: 0, to: pictures, pattern: 'still', trueRate: null, certainty: 0, skips: null });
  const { cuts } = changes;
  const passages = findPassages(changes);
  // A fade ends in black.
  const fades = passages.filter((p) => p.kind === 'fade');
  const faults = changes.faults
    .filter(({ picture, kind }) => kind !== 'black' || !fades.some((p) => picture >= p.from - 1 && picture <= p.to))
    .map((fault) => ({ ...fault, certainty: besideCuts(fault.certainty, fault.picture, cuts) }));
  const odd = touched(faults);
  for (let i = 0; i < heldFlags.length; i++) if (changes.at('broken', i) || odd.has(i + 1)) heldFlags[i] = 0;
  const held = indices(heldFlags);
  const known = new Set(mixed.map((b) => b.at));
  const between = parts ? [] : findBlends(changes, heldFlags);
  const blends = [...mixed, ...between.filter((b) => !known.has(b.at) && !odd.has(b.at))].sort((a, b) => a.at - b.at);
  const single = jumpsOf(changes, heldFlags, gaps, skipped).filter(
    // A part that waits makes up for it.
    (k) => !odd.has(k) && (!parts || changes.at('missing', k - 1) > 0),
  );
  const [only] = stretches;
  const plain = !gaps && !parts && skipped.length === 0 && held.length === 0 && stretches.length === 1 && only?.pattern === 'new';
  const beat = plain ? beatOf(single, pictures, storedRate) : null;
  if (beat && only) {
    const { leftOut, of, madeFrom } = beat;
    stretches[0] = { ...only, skips: { leftOut, of, madeFrom }, certainty: Math.min(only.certainty, beat.certainty) };
    skipped.push(beat);
  }
  const jumps = beat ? beat.longer.map((k) => k + 1) : single;
  return {
    kind: kindOf(stretches, blends.length, pictures),
    pictures,
    storedRate,
    trueRate: meanRate(stretches, storedRate),
    held,
    unchanged: unchangedOf(changes, heldFlags),
    jumps,
    missing: jumps.map((k) => missingBefore(changes, k, skipped)),
    cuts,
    faults,
    passages,
    blends: blends.map((b) => b.at),
    shares: blends.map((b) => Math.round(b.share * 100) / 100),
    made,
    fields: NO_FIELDS,
    parts: parts?.parts ?? [],
    stretches,
    certainty: Math.min(...stretches.map((s) => s.certainty)),
    // Not Math.max(...): hours of padding hold more pictures than a call takes arguments.
    holdCeiling: held.length > 0 ? held.reduce((most, k) => Math.max(most, changes.at('rms', k - 1)), 0) : null,
  };
}

/** Single pictures that are left out, and those of steady skipping, ascending. */
function jumpsOf(changes: Changes, held: Uint8Array, gaps: Float64Array | null, skipped: readonly Skipping[]): number[] {
  const inRhythm = (k: number): boolean => skipped.some((s) => k >= s.from && k < s.to);
  const alone = findJumps(changes, held, gaps).filter((k) => !inRhythm(k - 1));
  return [...alone, ...skipped.flatMap((s) => s.longer.map((k) => k + 1))].sort((a, b) => a - b);
}

/** How certain a beat of holds is in which something seems to move. */
const DOUBTED = 0.5;

/** Whether the coder spread motion over most pictures of a run, so that what was new and what held cannot be told any more. */
function isMostlySmeared({ pattern, from, to }: PatternRun, smeared: Uint8Array): boolean {
  const count = smeared.subarray(from, to).reduce((sum, one) => sum + one, 0);
  return pattern.name !== 'still' && count > MOSTLY * (to - from);
}

/** More than this share of a run's pictures are the same samples as before: it is told as still. */
const MOSTLY = 0.5;

/** Share of a run's pictures that are the same samples as the one before without being held. */
function restShare(run: PatternRun, changes: Changes, held: Uint8Array): number {
  let same = 0;
  for (let k = run.from; k < run.to; k++) if (!held[k] && changes.at('rms', k) < SAME_SAMPLES) same++;
  return same / Math.max(1, run.to - run.from);
}

/** Root mean square change below which pictures are the same samples, in 8-bit steps. */
const SAME_SAMPLES = 0.02;

function unchangedOf(changes: Changes, held: Uint8Array): number[] {
  const found: number[] = [];
  for (let i = 0; i < changes.length; i++) if (held[i] || changes.at('rms', i) < SAME_SAMPLES) found.push(i + 1);
  return found;
}

/** Pictures that are missing before picture k, by its step's length against those around it; at least one. */
function missingBefore(changes: Changes, k: number, skipped: readonly Skipping[]): number {
  const rhythm = skipped.find((s) => k > s.from && k <= s.to);
  // A step of the longer kind leaves out as many pictures as the rates have to each other, rounded up.
  if (rhythm) return Math.max(1, Math.ceil(rhythm.of / (rhythm.of - rhythm.leftOut)) - 1);
  return missingIn(changes, k - 1);
}

/** The run as reported: with its holds, or as all new where it is not certain enough that any picture holds. */
function confirmedRun(run: PatternRun, evidence: Float64Array, still: Uint8Array): PatternRun {
  if (run.pattern.name === 'still' || run.pattern === FRESH) return run;
  const isSure = (one: PatternRun): boolean => certaintyOf(one, evidence, still) >= SETTLED;
  if (!isSure(run)) return { ...run, pattern: FRESH, phase: 0 };
  const full = fuller(run, evidence);
  return isSure(full) ? full : run;
}

/** The verdict on a part of a clip, in the clip's own numbers. @param by the part's first picture */
export function shifted(verdict: Verdict, by: number): Verdict {
  if (by === 0) return verdict;
  const moved = (pictures: readonly number[]): number[] => pictures.map((k) => k + by);
  return {
    ...verdict,
    held: moved(verdict.held),
    unchanged: moved(verdict.unchanged),
    jumps: moved(verdict.jumps),
    cuts: moved(verdict.cuts),
    faults: verdict.faults.map((f) => ({ ...f, picture: f.picture + by })),
    passages: verdict.passages.map((p) => ({ ...p, from: p.from + by, to: p.to + by })),
    blends: moved(verdict.blends),
    made: verdict.made.map((m) => ({ ...m, from: m.from + by, to: m.to + by })),
    stretches: verdict.stretches.map((s) => ({ ...s, from: s.from + by, to: s.to + by })),
    fields: {
      ...verdict.fields,
      stretches: verdict.fields.stretches.map((s) => ({ ...s, from: s.from + by, to: s.to + by })),
      breaks: moved(verdict.fields.breaks),
      film: verdict.fields.film.map((f) => ({ ...f, from: f.from + by, to: f.to + by })),
    },
  };
}

interface RunFacts {
  readonly storedRate: number;
  readonly gaps: Float64Array | null;
  readonly certainty: number;
  /** What is found is added to these. */
  readonly mixed: Blend[];
  readonly skipped: Skipping[];
  /** Whether parts of the picture have rates of their own: what goes for all of it says nothing then. */
  readonly inParts: boolean;
}

/** A run as stretches: all-new pictures may turn out to be mixed from others in part. Steady skipping is a stretch of its own. */
function stretchesOf(
  run: PatternRun,
  changes: Changes,
  { storedRate, gaps, certainty, mixed, skipped, inParts }: RunFacts,
): Stretch[] {
  const { name, newShare } = run.pattern;
  const stretch = (from: number, to: number, more: Partial<Stretch> = {}): Stretch => ({
    from: from === 0 ? 0 : from + 1,
    to: to + 1,
    pattern: name,
    trueRate: name === 'still' ? null : storedRate * newShare,
    certainty,
    skips: null,
    ...more,
  });
  const mixings = name === 'new' && !inParts ? findMixings(changes, run.from, run.to, storedRate) : [];
  const found: Stretch[] = [];
  let at = run.from;
  const plain = (from: number, to: number): void => {
    const skippings = gaps || inParts || name !== 'new' ? [] : findSkipping(changes, from, to, storedRate);
    let next = from;
    for (const one of skippings) {
      if (one.from > next) found.push(stretch(next, one.from));
      const { leftOut, of, madeFrom } = one;
      found.push(stretch(one.from, one.to, { skips: { leftOut, of, madeFrom }, certainty: Math.min(certainty, one.certainty) }));
      next = one.to;
    }
    skipped.push(...skippings);
    if (next < to) found.push(stretch(next, to));
  };
  for (const mixing of mixings) {
    if (mixing.from > at) plain(at, mixing.from);
    found.push(stretch(mixing.from, mixing.to, { pattern: 'blend', trueRate: mixing.sourceRate, certainty: mixing.certainty }));
    mixed.push(...mixing.blends);
    at = mixing.to;
  }
  if (at < run.to) plain(at, run.to);
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
  if (name === 'new') dropCalm(run, changes, evidence, flags);
}

/** Natural logarithm of how much more the pictures on both sides of a freeze have to change than it does. */
const FREEZE_DROP = 0.8;
/** Log odds for held of the pictures on both sides of a freeze under noise, in any order: a step that makes up for it may be farther than is seen. */
const CLEARLY_NEW = { one: -3, other: -1 } as const;

/** A freeze begins and ends abruptly; motion that slows down and speeds up again is not one. */
function dropCalm(run: PatternRun, changes: Changes, evidence: Float64Array, flags: Uint8Array): void {
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
    // Under noise a freeze changes as much as anything; what is beside it has to be clearly new.
    const beside = [k - 1, end].map((i) => (changes.at('broken', i) ? CLEARLY_NEW.one : (evidence[i] ?? 0)));
    const isBetweenNew = Math.min(...beside) <= CLEARLY_NEW.one && Math.max(...beside) <= CLEARLY_NEW.other;
    const isAbrupt = isNoisy(changes, k) ? isBetweenNew : outside - largest(k, end) >= FREEZE_DROP;
    if (!isAbrupt) flags.fill(0, k, end);
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

export function meanRate(stretches: readonly Stretch[], storedRate: number): number {
  let sum = 0;
  let length = 0;
  for (const stretch of stretches) {
    if (stretch.trueRate === null) continue;
    sum += stretch.trueRate * (stretch.to - stretch.from);
    length += stretch.to - stretch.from;
  }
  return length > 0 ? sum / length : storedRate;
}

export function kindOf(stretches: readonly Stretch[], blends: number, pictures: number): VerdictKind {
  const told = stretches.filter((s) => s.pattern !== 'still');
  if (told.length === 0) return 'still';
  const names = new Set(told.map((s) => s.pattern));
  if (names.size > 1) return 'mixed';
  const name = told[0]?.pattern ?? 'new';
  if (name.startsWith('every-')) return 'padded';
  if (name.startsWith('one-in-')) return 'one-in-n';
  if (name.startsWith('2:3') || name.endsWith('fields')) return 'pulldown';
  if (name === 'blend') return 'blended';
  return blends > pictures * 0.2 ? 'blended' : 'new';
}

/** Pictures that lie between their neighbours, where the meter found motion enough to tell. */
function findBlends(changes: Changes, held: Uint8Array): Blend[] {
  const found: Blend[] = [];
  for (let i = 0; i + 1 < changes.length; i++) {
    if (held[i] || held[i + 1] || changes.at('broken', i) || changes.at('broken', i + 1)) continue;
    // In a fade or a dissolve each picture lies between its neighbours without being mixed of them.
    const [light, next] = [changes.at('light', i), changes.at('light', i + 1)];
    if (Math.min(light, next) > FADES || Math.max(light, next) < -FADES) continue;
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
