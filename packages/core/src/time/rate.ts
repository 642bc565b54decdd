import { gcd, gcdBig, mulDivFloor } from './exact.js';

/** Pictures or frames a second, as an exact fraction in lowest terms. num and den are positive safe integers. */
export interface Rate {
  readonly num: number;
  readonly den: number;
}

/** Rates outside these bounds (inclusive, per second) are refused as typing mistakes. */
export const RATE_MIN = 0.01;
export const RATE_MAX = 100_000;
/** Pictures that a source may have, frames that a timeline may reach: eleven days at 100 a second, 27.7 hours of sound in thousandths. */
export const PICTURES_MAX = 100_000_000;

/** A measured rate is called a standard rate when it is no further away than this, in parts per million. */
export const SNAP_TOLERANCE_PPM = 100;

/** Builds a rate in lowest terms. Throws RangeError unless both are positive safe integers. */
export function rate(num: number, den = 1): Rate {
  if (!Number.isSafeInteger(num) || !Number.isSafeInteger(den) || num <= 0 || den <= 0) {
    throw new RangeError(`not a rate: ${num}/${den}`);
  }
  const divisor = gcd(num, den);
  return { num: num / divisor, den: den / divisor };
}

/** The rates that practice has names for, ascending. */
export const STANDARD_RATES: readonly Rate[] = [
  rate(24000, 1001),
  rate(24),
  rate(25),
  rate(30000, 1001),
  rate(30),
  rate(48000, 1001),
  rate(48),
  rate(50),
  rate(60000, 1001),
  rate(60),
  rate(100),
  rate(120000, 1001),
  rate(120),
];

export function rateToNumber(r: Rate): number {
  return r.num / r.den;
}

/** The product, in lowest terms: 25 times 24/25 is 24. Where it would leave the safe integers, the nearest fraction that stays. */
export function times(a: Rate, b: Rate): Rate {
  const num = BigInt(a.num) * BigInt(b.num);
  const den = BigInt(a.den) * BigInt(b.den);
  return fitted(num, den);
}

/** a / b, in lowest terms: 24 over 25 is a speed of 24/25. */
export function over(a: Rate, b: Rate): Rate {
  return times(a, { num: b.den, den: b.num });
}

/** Numerators and denominators above this are brought to the nearest fraction below it: products with frame counts stay exact. */
const LARGEST = 2n ** 40n;

/** Lowest terms, then continued fractions until both fit (Khinchin, "Continued Fractions", 1964). The error is below 1/den². */
function fitted(num: bigint, den: bigint): Rate {
  const divisor = gcdBig(num, den);
  const [n, d] = [num / divisor, den / divisor];
  if (n <= LARGEST && d <= LARGEST) return { num: Number(n), den: Number(d) };
  let [a, b] = [n, d];
  let [p, q, before, below] = [1n, 0n, 0n, 1n];
  while (b !== 0n) {
    const whole = a / b;
    const [nextP, nextQ] = [whole * p + before, whole * q + below];
    if (nextP > LARGEST || nextQ > LARGEST) break;
    [before, below, p, q] = [p, q, nextP, nextQ];
    [a, b] = [b, a - whole * b];
  }
  return { num: Number(p), den: Number(q) };
}

export function sameRate(a: Rate, b: Rate): boolean {
  return a.num === b.num && a.den === b.den;
}

/** How far `measured` lies from `reference`, in parts per million; positive when faster. */
export function ppmBetween(measured: number, reference: Rate): number {
  return (measured / rateToNumber(reference) - 1) * 1e6;
}

/** A standard rate and what is left between it and the measured one. */
export interface Snapped {
  readonly rate: Rate;
  readonly ppm: number;
}

/** The nearest standard rate when it lies within the tolerance (ppm, included), else null: 27.02 stays 27.02. */
export function snapRate(measured: number, tolerancePpm: number = SNAP_TOLERANCE_PPM): Snapped | null {
  let best: Snapped | null = null;
  for (const candidate of STANDARD_RATES) {
    const ppm = ppmBetween(measured, candidate);
    if (Math.abs(ppm) <= tolerancePpm && (best === null || Math.abs(ppm) < Math.abs(best.ppm))) {
      best = { rate: candidate, ppm };
    }
  }
  return best;
}

/** A decimal as an exact fraction of thousandths, after looking for the standard rate it abbreviates (29.97, 23.98). */
function rateFromDecimal(text: string): Rate | null {
  const value = Number(text);
  if (!(value >= RATE_MIN && value <= RATE_MAX)) return null;
  const decimals = text.includes('.') ? text.length - text.indexOf('.') - 1 : 0;
  if (decimals > 9) return null;
  if (decimals >= 2) {
    for (const standard of STANDARD_RATES) {
      if (standard.den !== 1 && rateToNumber(standard).toFixed(decimals) === value.toFixed(decimals)) return standard;
    }
  }
  const scale = 10 ** decimals;
  return rate(Math.round(value * scale), scale);
}

/** How people write behind a rate what it counts: frames, dropped numbers (which change no rate), or fields. */
const SUFFIX = /\s*(fps|ndf|df|nd|d|p|psf|i|\/s)$/i;
/** From here on a rate of interlaced pictures counts fields: 50i is 25 frames, 25i is 25, too. */
const FIELDS_FROM = 47;

/** Whether a typed rate counts fields: "59.94i". */
export function countsFields(text: string): boolean {
  const value = Number(text.trim().replace(SUFFIX, '').replace(',', '.'));
  return /i$/i.test(text.trim()) && value >= FIELDS_FROM;
}

/**
 * Reads what a person types: "25", "23.976", "23,976", "24000/1001", "24fps", "24 fps", "29.97df"; "59.94i" are fields, of which two
 * are a frame.
 * Null when it is not a rate between RATE_MIN and RATE_MAX: 0, negative numbers, NaN, 1000001/1.
 */
export function parseRate(text: string): Rate | null {
  if (countsFields(text)) {
    const fields = parseRate(text.trim().replace(SUFFIX, ''));
    return fields && rate(fields.num, fields.den * 2);
  }
  const clean = text.trim().replace(SUFFIX, '').replace(',', '.');
  const fraction = /^(\d{1,9})\s*\/\s*(\d{1,9})$/.exec(clean);
  if (fraction) {
    const num = Number(fraction[1]);
    const den = Number(fraction[2]);
    if (num === 0 || den === 0 || num / den < RATE_MIN || num / den > RATE_MAX) return null;
    return rate(num, den);
  }
  return /^\d{1,6}(\.\d+)?$/.test(clean) ? rateFromDecimal(clean) : null;
}

export type RateTrouble = 'empty' | 'zero' | 'negative' | 'too-low' | 'too-high' | 'not-a-number';

/** Why parseRate gave null, for the sentence at the field; null when it did not. */
export function rateTrouble(text: string): RateTrouble | null {
  if (parseRate(text)) return null;
  const clean = text.trim().replace(',', '.');
  if (clean === '') return 'empty';
  const [top = '', bottom = '1'] = clean.replace(SUFFIX, '').split('/');
  const value = Number(top) / Number(bottom);
  if (top === '' || Number.isNaN(value)) return 'not-a-number';
  if (value < 0) return 'negative';
  if (value === 0) return 'zero';
  return value < RATE_MIN ? 'too-low' : value > RATE_MAX ? 'too-high' : 'not-a-number';
}

/** Prints at most three decimals without trailing zeros: 25, 29.97, 23.976, 8.333. For reading, not for computing. */
export function formatRate(r: Rate): string {
  return formatDecimalRate(rateToNumber(r));
}

export function formatDecimalRate(value: number): string {
  return value.toFixed(3).replace(/0+$/, '').replace(/\.$/, '');
}

/** The exact form beside the short one where it says more: "24000/1001", "25". */
export function formatExact(r: Rate): string {
  return r.den === 1 ? String(r.num) : `${r.num}/${r.den}`;
}

/**
 * The frame of rate `to` that is on screen when frame n of rate `from` begins: floor(n * to / from).
 * n may be negative. Exact.
 */
export function frameAtOrBefore(n: number, from: Rate, to: Rate): number {
  if (Number.isSafeInteger(from.den * to.num) && Number.isSafeInteger(from.num * to.den)) {
    return mulDivFloor(n, from.den * to.num, from.num * to.den);
  }
  const top = BigInt(n) * BigInt(from.den) * BigInt(to.num);
  const bottom = BigInt(from.num) * BigInt(to.den);
  const quotient = top / bottom;
  return Number(top < 0n && quotient * bottom !== top ? quotient - 1n : quotient);
}

/** The first frame of rate `to` that begins at or after the start of frame n of rate `from`: ceil(n * to / from). */
export function frameAtOrAfter(n: number, from: Rate, to: Rate): number {
  return -frameAtOrBefore(-n, from, to) + 0;
}

/** Where frame n begins, in seconds: for showing only. */
export function secondsOf(n: number, r: Rate): number {
  return (n * r.den) / r.num;
}

/** The frame of rate `to` that begins nearest to the start of frame n of rate `from`; halves go up. Exact. */
export function frameNearest(n: number, from: Rate, to: Rate): number {
  return Math.floor((frameAtOrBefore(n, from, { num: to.num * 2, den: to.den }) + 1) / 2);
}
