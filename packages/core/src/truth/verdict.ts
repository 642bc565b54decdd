import type { Change } from './change.js';
import { heldEvidence, stillPlaces } from './evidence.js';
import { costOf, explain, PATTERNS, type PatternRun } from './patterns.js';

/** What a clip is, in one word. "mixed": stretches differ. */
export const VERDICT_KINDS = ['new', 'padded', 'one-in-n', 'pulldown', 'blended', 'still', 'mixed'] as const;
export type VerdictKind = (typeof VERDICT_KINDS)[number];

export interface Stretch {
  /** First picture. */
  readonly from: number;
  /** Last picture, not included. */
  readonly to: number;
  /** "new", "every-3", "one-in-25", "2:3", "still", "blend". */
  readonly pattern: string;
  /** New pictures a second; null where nothing moves, so that nothing can be told. */
  readonly trueRate: number | null;
  /** 0 to 1. */
  readonly certainty: number;
}

export interface Verdict {
  readonly kind: VerdictKind;
  readonly pictures: number;
  readonly storedRate: number;
  /** Length-weighted mean over the stretches that can be told; the stored rate when none can. */
  readonly trueRate: number;
  /** Pictures that show nothing new against the one before, ascending. */
  readonly held: readonly number[];
  /** Pictures before which others are missing: motion about twice as large for one step. */
  readonly jumps: readonly number[];
  /** Pictures that are a mix of their neighbours. */
  readonly blends: readonly number[];
  readonly stretches: readonly Stretch[];
  /** Lowest of the stretches'. */
  readonly certainty: number;
  /** Change energy (root) below which held pictures lie, as found in this clip; null when none hold. */
  readonly holdCeiling: number | null;
}

/** Fewer held pictures than this many in a row are freezes, not a still section, whatever stands around them. */
const STILL_AT_LEAST = 12;

/**
 * Judges a clip by the change of each of its pictures.
 * @param changes one a picture from the second on
 * @param storedRate pictures a second as measured
 * @param gaps time before each change relative to the usual (1), for variable timing; null when constant
 */
export function judge(changes: readonly Change[], storedRate: number, gaps: Float64Array | null = null): Verdict {
  const pictures = changes.length + 1;
  const evidence = heldEvidence(changes);
  const still = stillPlaces(changes);
  const runs = mergeShortStills(explain(evidence, still));
  const heldFlags = new Uint8Array(changes.length);
  const stretches: Stretch[] = [];
  for (const run of runs) {
    markHeld(run, evidence, heldFlags);
    const { pattern } = run;
    stretches.push({
      from: run.from === 0 ? 0 : run.from + 1,
      to: run.to + 1,
      pattern: pattern.name,
      trueRate: pattern.name === 'still' ? null : storedRate * pattern.newShare,
      certainty: certaintyOf(run, evidence, still),
    });
  }
  if (stretches.length === 0) stretches.push({ from: 0, to: pictures, pattern: 'still', trueRate: null, certainty: 0 });
  const held = indices(heldFlags);
  const blends = findBlends(changes, heldFlags);
  return {
    kind: kindOf(stretches, blends.length, pictures),
    pictures,
    storedRate,
    trueRate: meanRate(stretches, storedRate),
    held,
    jumps: findJumps(changes, heldFlags, gaps),
    blends,
    stretches,
    certainty: Math.min(...stretches.map((s) => s.certainty)),
    // Not Math.max(...): hours of padding hold more pictures than a call takes arguments.
    holdCeiling: held.length > 0 ? held.reduce((most, k) => Math.max(most, (changes[k - 1] as Change).rms), 0) : null,
  };
}

/** A pattern gives each picture a prior; strong evidence of its own still makes a single freeze or a new picture. */
function markHeld(run: PatternRun, evidence: Float64Array, flags: Uint8Array): void {
  const { cycle, name } = run.pattern;
  // A still section is left out of the sum: its pictures are neither held nor new.
  if (name === 'still') return;
  for (let k = run.from; k < run.to; k++) {
    const expected = cycle[(run.phase + k - run.from) % cycle.length] as boolean;
    // Within all-new material a freeze is rare and needs more of its own.
    const prior = expected ? 1.5 : name === 'new' ? -3.4 : -1.5;
    flags[k] = (evidence[k] as number) + prior > 0 ? 1 : 0;
  }
}

function mergeShortStills(runs: PatternRun[]): PatternRun[] {
  const fresh = PATTERNS[0] as PatternRun['pattern'];
  return runs
    .map((run) =>
      run.pattern.name === 'still' && run.to - run.from < STILL_AT_LEAST && runs.length > 1
        ? { ...run, pattern: fresh, phase: 0 }
        : run,
    )
    .reduce<PatternRun[]>((merged, run) => {
      const last = merged[merged.length - 1];
      if (last && last.pattern === run.pattern && run.pattern.cycle.length === 1)
        merged[merged.length - 1] = { ...last, to: run.to };
      else merged.push(run);
      return merged;
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
    if (p !== run.pattern && p.name !== 'still') rival = Math.min(rival, costOf(p, evidence, run.from, run.to));
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
  if (name === '2:3') return 'pulldown';
  return blends > pictures * 0.2 ? 'blended' : 'new';
}

/** Displacement twice that of the new pictures around it, for one step. Needs even motion around it to say so. */
function findJumps(changes: readonly Change[], held: Uint8Array, gaps: Float64Array | null): number[] {
  const fresh = changes.flatMap((change, i) =>
    held[i]
      ? []
      : [
          {
            at: i,
            move: change.displacement / (gaps?.[i] ?? 1),
            along: change.coherence / (gaps?.[i] ?? 1),
            energy: change.energy,
          },
        ],
  );
  const jumps: number[] = [];
  for (let i = 0; i < fresh.length; i++) {
    const here = fresh[i] as (typeof fresh)[number];
    const around = [...fresh.slice(Math.max(0, i - 5), i), ...fresh.slice(i + 1, i + 6)];
    if (i < 4 || i + 4 >= fresh.length || here.move < 0.08) continue;
    const moves = around.map((a) => a.move).sort((a, b) => a - b);
    const middle = moves[moves.length >> 1] as number;
    const largest = moves[moves.length - 1] as number;
    const energies = around.map((a) => a.energy).sort((a, b) => a - b);
    const usualEnergy = energies[energies.length >> 1] as number;
    const ratio = here.move / middle;
    const even = largest < middle * 1.35 && (moves[0] as number) > middle * 0.65;
    // A scene cut changes everything at once: that is not a jump.
    // The fine measure confirms it while motion is small enough for it to see (0.4 here is 1.6 of its pixels).
    if (here.along < 1.5 && here.move < 0.4) continue;
    if (even && ratio > 1.65 && ratio < 4.5 && here.energy > usualEnergy * 1.5 && here.energy < usualEnergy * 14)
      jumps.push(here.at + 1);
  }
  return jumps;
}

/** Pictures that lie between their neighbours, where the meter found motion enough to tell. */
function findBlends(changes: readonly Change[], held: Uint8Array): number[] {
  const found: number[] = [];
  for (let i = 0; i + 1 < changes.length; i++) {
    const here = changes[i] as Change;
    if (held[i] || held[i + 1]) continue;
    if (here.mix.left < 0.02 && here.mix.share > 0.12 && here.mix.share < 0.88) found.push(i + 1);
  }
  return found;
}

function indices(flags: Uint8Array): number[] {
  const found: number[] = [];
  for (let i = 0; i < flags.length; i++) if (flags[i]) found.push(i + 1);
  return found;
}
