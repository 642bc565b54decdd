import type { FaultKind, Verdict } from '@thawline/core/truth';

/** Changes of a check: of picture `from + 1` and on, each against the one before. */
export interface Trace {
  readonly changes: readonly number[];
  readonly from: number;
}

type Found = Pick<Verdict, 'held' | 'jumps' | 'missing' | 'cuts' | 'faults' | 'stretches'>;

/** Pictures on each side that say what is usual. */
const AROUND = 8;

/** What is to be left out when asking what is usual. */
export function setApart({ held, jumps, cuts, faults }: Pick<Found, 'held' | 'jumps' | 'cuts' | 'faults'>): ReadonlySet<number> {
  return new Set([...held, ...jumps, ...cuts, ...faults.flatMap((f) => [f.picture, f.picture + 1])]);
}

/** Median change of the new pictures around one, within its shot; null where there are none. */
export function foreseen(
  picture: number,
  { changes, from }: Trace,
  apart: ReadonlySet<number>,
  cuts: ReadonlySet<number>,
): number | null {
  const near: number[] = [];
  const add = (k: number): void => {
    const change = changes[k - from - 1];
    if (change !== undefined && !apart.has(k)) near.push(change);
  };
  for (let k = picture; k > picture - AROUND && !cuts.has(k); k--) add(k - 1);
  for (let k = picture + 1; k <= picture + AROUND && !cuts.has(k); k++) add(k);
  return near.length === 0 ? null : (near.sort((a, b) => a - b)[near.length >> 1] as number);
}

const FAULTS: Record<FaultKind, (k: number) => string> = {
  black: (k) => `All of ${k} is dark, and ${k - 1} and what follows show the same things.`,
  white: (k) => `All of ${k} is bright, and ${k - 1} and what follows show the same things.`,
  damaged: (k) => `A part of ${k} is found neither before nor after it. ${k - 1} and ${k + 1} go on into each other there.`,
  foreign: (k) => `Nothing of ${k} is found before or after it. ${k - 1} and ${k + 1} go on into each other.`,
  swapped: (k) => `Motion goes two steps on, one back and two on again. With ${k} and ${k + 1} exchanged it is even.`,
  backward: (k) => `${k} shows what an earlier picture showed. ${k + 1} goes on from ${k - 1} as if it were not there.`,
};

/** A held picture that changes by this share of what new ones do was not found by how much it changes: noise is new in it. */
const MOSTLY_NOISE = 0.5;

const number = (change: number): string => change.toFixed(change < 1 ? 2 : 1);

/** Why a picture was found to be what it is, in two sentences; null where it is new as others are. */
export function whyWords(picture: number, verdict: Found, trace: Trace): string | null {
  const fault = verdict.faults.find((f) => f.picture === picture);
  if (fault) return FAULTS[fault.kind](picture);
  if (verdict.cuts.includes(picture))
    return `Hardly anything of ${picture - 1} is found again in ${picture}. What follows goes on from ${picture}.`;
  const change = trace.changes[picture - trace.from - 1];
  const usual = foreseen(picture, trace, setApart(verdict), new Set(verdict.cuts));
  const stretch = verdict.stretches.find((s) => picture >= s.from && picture < s.to);
  const jump = verdict.jumps.indexOf(picture);
  if (jump >= 0) {
    const missing = verdict.missing[jump] ?? 1;
    const beat = stretch?.skips
      ? `Every so often a step is too long, at the beat of ${stretch.skips.leftOut} of ${stretch.skips.of} left out.`
      : `All that moves goes ${missing === 1 ? 'twice' : `${missing + 1} times`} as far as the steps before and after foresee.`;
    return `${beat} ${missing === 1 ? 'One picture is' : `${missing} pictures are`} missing between ${picture - 1} and ${picture}.`;
  }
  if (!verdict.held.includes(picture)) return null;
  const beat = stretch?.pattern.startsWith('every-')
    ? `Each picture here is stored ${stretch.pattern.slice(6)} times, and this is one of those that repeat.`
    : stretch?.pattern.startsWith('one-in-')
      ? `One in ${stretch.pattern.slice(7)} repeats here, and this is one of them.`
      : 'What moves before and after stands still: it repeats the one before.';
  return `${changeWords(picture, change, usual)} ${beat}`;
}

/** How much a held picture changes against new ones around it. */
function changeWords(picture: number, change: number | undefined, usual: number | null): string {
  const between = `From ${picture - 1} to ${picture}`;
  if (change === undefined || usual === null) return `${between} nothing moves.`;
  if (change > MOSTLY_NOISE * usual)
    return `${between} nothing but noise changes (by ${number(change)}; new ones here by ${number(usual)}).`;
  return `${between} the picture changes by ${number(change)}; new ones here change by ${number(usual)}.`;
}
