import { over, type Rate, rateToNumber, STANDARD_RATES, snapRate } from '../../time/index.js';
import type { Changes } from '../measure/changes.js';
import { fraction } from './beats.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, log, max, min, round, sqrt } = Math;

/** A clip that was brought to its rate by leaving pictures out of a higher one. */
export interface Skips {
  /** Of `of` pictures in a row so many are missing. */
  readonly leftOut: number;
  readonly of: number;
  /** Pictures a second before. */
  readonly madeFrom: number;
}

/** Steady skipping over some changes, `to` not included. */
export interface Skipping extends Skips {
  readonly from: number;
  readonly to: number;
  /** Changes in which more pictures are missing than in those around them. */
  readonly longer: readonly number[];
  /** 0 to 1. */
  readonly certainty: number;
}

/** Rhythms are looked for in pieces of about so many pictures: one that stops is still found. */
const PIECE = 240;
/** Fewer steps than this that could be measured show no rhythm. */
const LEAST_STEPS = 24;
/** Longer beats are not seen whole. */
const LONGEST = 60;
/** Least pictures that are left out for each that stays. */
const LEAST_LEFT_OUT = 0.02;
/** Words that are longer have to be so many times nearer. */
const SIMPLER = 0.25;
/** Rates of the same name differ by a thousandth: nearer than this a rate is a standard one. */
const NEAR = 4e-4;
/** Share of the unevenness that the rhythm has to explain, and how much of its own unevenness has to be there. */
const EXPLAINED = 0.55;
const SLOPE = { least: 0.4, most: 1.4 } as const;
/** Natural logarithm of what a rhythm has to be better than none, for trying so many. */
const LEAST_GAIN = 12;
/** Steps that are longer than foreseen for reasons of their own count no more than this. */
const MOST = 2.5;

/**
 * Looks for the rhythm of steps that is left when pictures of a higher rate are left out: some steps are those of one picture more than the
 * others, as often as both rates say. Nothing repeats in such a clip.
 * @param from, to changes, `to` not included
 * @param storedRate pictures a second
 */
export function findSkipping(changes: Changes, from: number, to: number, storedRate: number): Skipping[] {
  const candidates = sourcesOf(storedRate);
  const pieces = max(1, round((to - from) / PIECE));
  const found: Skipping[] = [];
  for (let i = 0; i < pieces && candidates.length > 0; i++) {
    const piece = {
      from: from + floor((i * (to - from)) / pieces),
      to: from + floor(((i + 1) * (to - from)) / pieces),
    };
    const one = skippingIn(changes, piece, candidates);
    const last = found.at(-1);
    if (one && last && last.to === one.from && last.madeFrom === one.madeFrom)
      found[found.length - 1] = {
        ...last,
        to: one.to,
        longer: [...last.longer, ...one.longer],
        certainty: min(last.certainty, one.certainty),
      };
    else if (one) found.push(one);
  }
  return found;
}

interface Candidate extends Skips {
  readonly step: number;
  /** Phases that are told apart: a whole beat's, or as many as a long one needs. */
  readonly phases: number;
  /** What its gain has to be better by than that of a shorter beat. */
  readonly rare: number;
}

/** Phases of a beat that is longer than any that can be seen whole. */
const LONG_PHASES = 60;
/** A longer beat has to explain more than a short one, by so much gain. */
const RARE = 4;

/** Higher standard rates from which a rate of this is made by a rhythm of pictures left out. */
function sourcesOf(storedRate: number): Candidate[] {
  const stored: Rate | undefined =
    STANDARD_RATES.find((r) => abs(rateToNumber(r) / storedRate - 1) < NEAR) ?? snapRate(storedRate)?.rate;
  if (!stored) return [];
  return STANDARD_RATES.flatMap((source) => {
    const { num, den } = over(source, stored);
    const step = num / den;
    // A whole number of steps leaves no rhythm, and a picture in hundreds is no beat.
    if (num <= den || den === 1 || step - 1 < LEAST_LEFT_OUT) return [];
    const madeFrom = rateToNumber(source);
    if (num <= LONGEST) return [{ leftOut: num - den, of: num, madeFrom, step, phases: num, rare: 0 }];
    return [{ ...nearest(step), madeFrom, step, phases: LONG_PHASES, rare: RARE }];
  });
}

/** Rates that differ by a thousandth have beats like those of their neighbours, but for a picture now and then: so many of so many, nearly. */
function nearest(step: number): { leftOut: number; of: number } {
  let best = { leftOut: 1, of: 2, off: Number.POSITIVE_INFINITY };
  for (let of = 2; of <= LONGEST; of++) {
    const leftOut = round(of - of / step);
    const off = abs(of / (of - leftOut) / step - 1);
    if (leftOut > 0 && leftOut < of && off < best.off * SIMPLER) best = { leftOut, of, off };
  }
  return { leftOut: best.leftOut, of: best.of };
}

function skippingIn(
  changes: Changes,
  { from, to }: { readonly from: number; readonly to: number },
  candidates: readonly Candidate[],
): Skipping | null {
  const { pace, broken } = changes.columns;
  const known: number[] = [];
  for (let k = from; k < to; k++) if (!broken[k] && (pace[k] as number) > 0) known.push(k);
  if (known.length < LEAST_STEPS) return null;
  let best: { candidate: Candidate; phase: number; gain: number } | null = null;
  for (const candidate of candidates) {
    for (let i = 0; i < candidate.phases; i++) {
      // Phases between those of a whole picture give the same rhythm.
      const phase = (i + 0.5) / candidate.phases;
      const gain = gainOf(known, pace, candidate, phase, from) - candidate.rare;
      if (gain > LEAST_GAIN && gain > (best?.gain ?? 0)) best = { candidate, phase, gain };
    }
  }
  if (!best) return null;
  const { candidate, phase, gain } = best;
  const whole = floor(candidate.step);
  const longer: number[] = [];
  for (let k = from; k < to; k++) if (!broken[k] && picturesIn(k - from, candidate.step, phase) > whole) longer.push(k);
  const { leftOut, of, madeFrom } = candidate;
  return { from, to, leftOut, of, madeFrom, longer, certainty: min(0.999, 1 - Math.exp(-(gain - LEAST_GAIN / 2) / 3)) };
}

/** Pictures of the higher rate that go by in step k. */
function picturesIn(k: number, step: number, phase: number): number {
  return round(phase + (k + 1) * step - fraction(phase + (k + 1) * step)) - round(phase + k * step - fraction(phase + k * step));
}

/** How much better the rhythm explains the paces than evenness does, as a logarithm of odds; 0 where it is not that rhythm. */
function gainOf(known: readonly number[], pace: Float32Array, { step }: Candidate, phase: number, from: number): number {
  let [n, x1, y1, xx, xy, yy] = [0, 0, 0, 0, 0, 0];
  for (const k of known) {
    const x = picturesIn(k - from, step, phase) / step;
    const y = min(MOST, pace[k] as number);
    n++;
    x1 += x;
    y1 += y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
  }
  const [vx, vy, c] = [xx - (x1 * x1) / n, yy - (y1 * y1) / n, xy - (x1 * y1) / n];
  if (vx <= 0 || vy <= 0 || c <= 0) return 0;
  const explained = (c * c) / (vx * vy);
  const slope = c / vx;
  if (explained < EXPLAINED || slope < SLOPE.least || slope > SLOPE.most) return 0;
  // Of rhythms with the same beat the one whose steps are as long as they should be.
  return (n / 4) * log(1 / max(1e-3, 1 - explained)) - (sqrt(n) / 2) * abs(log(slope / SHORTENED));
}

/** Paces are taken against a mean over eleven steps that the step itself is part of, which takes a little of its length away. */
const SHORTENED = 0.95;

/** Fewer single skips than this make no beat. */
const LEAST_SKIPS = 8;
/** Of the places where either a beat or what was found has a skip so many are of both. */
const IN_BOTH = 0.85;

/**
 * The beat that single skips keep, where motion is too quick for steps to be measured; null where they keep none.
 * @param jumps first pictures after missing ones, ascending
 * @param pictures of the clip
 */
export function beatOf(jumps: readonly number[], pictures: number, storedRate: number): Skipping | null {
  if (jumps.length < LEAST_SKIPS) return null;
  // Looked for where skips were found, and not over hours; the beat is told over all.
  const some = jumps.slice(0, MOST_SKIPS);
  const found = new Set(some);
  const [first, last] = [jumps[0] as number, some.at(-1) as number];
  let best: { candidate: Candidate; phase: number; share: number } | null = null;
  for (const candidate of sourcesOf(storedRate)) {
    if (floor(candidate.step) !== 1) continue;
    const phases = candidate.rare > 0 ? 4 * candidate.phases : candidate.phases;
    for (let i = 0; i < phases; i++) {
      const phase = (i + 0.5) / phases;
      let [both, either] = [0, some.length];
      for (let k = first - 1; k < last; k++) {
        if (picturesIn(k, candidate.step, phase) < 2) continue;
        if (found.has(k + 1)) both++;
        else either++;
      }
      const share = both / either - (candidate.rare > 0 ? RARELY : 0);
      if (share >= IN_BOTH && share > (best?.share ?? 0)) best = { candidate, phase, share };
    }
  }
  if (!best) return null;
  const { candidate, phase, share } = best;
  const longer: number[] = [];
  for (let k = 0; k + 1 < pictures; k++) if (picturesIn(k, candidate.step, phase) > 1) longer.push(k);
  const { leftOut, of, madeFrom } = candidate;
  return { from: 0, to: pictures - 1, leftOut, of, madeFrom, longer, certainty: min(0.999, share + RARELY) };
}

/** Skips that a beat is looked for in. */
const MOST_SKIPS = 400;
/** What a longer beat has to fit better by than a short one. */
const RARELY = 0.02;
