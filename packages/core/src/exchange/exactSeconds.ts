import { gcdBig, type Rate, rate, rateToNumber, snapRate } from '../time/index.js';

/** An exact time in seconds: n / d, d > 0, lowest terms. Edit files add up hundreds of lengths at different rates. */
export interface ExactSeconds {
  readonly n: bigint;
  readonly d: bigint;
}

export const ZERO: ExactSeconds = { n: 0n, d: 1n };

function lowest(n: bigint, d: bigint): ExactSeconds {
  const divisor = gcdBig(n < 0n ? -n : n, d);
  return { n: n / divisor, d: d / divisor };
}

export function plus(a: ExactSeconds, b: ExactSeconds): ExactSeconds {
  return a.d === b.d ? lowest(a.n + b.n, a.d) : lowest(a.n * b.d + b.n * a.d, a.d * b.d);
}

/** Denominators up to here are exact; the usual rates and sample rates together stay far below. */
const MOST_DENOMINATOR = 10n ** 15n;
/** Beyond, moments are rounded to this fraction of a second. */
const FINEST = 10n ** 12n;

/**
 * The moment itself, or where its denominator has grown past a million thousand millions, the nearest millionth of a millionth of a second:
 * thousands of lengths at rates that share no factor would otherwise make numbers of thousands of digits.
 */
export function bounded(m: ExactSeconds): ExactSeconds {
  if (m.d <= MOST_DENOMINATOR) return m;
  const twice = 2n * m.n * FINEST + m.d;
  const bottom = 2n * m.d;
  const quotient = twice / bottom;
  return lowest(twice < 0n && quotient * bottom !== twice ? quotient - 1n : quotient, FINEST);
}

export function minus(a: ExactSeconds, b: ExactSeconds): ExactSeconds {
  return plus(a, { n: -b.n, d: b.d });
}

export function sameExactSeconds(a: ExactSeconds, b: ExactSeconds): boolean {
  return a.n === b.n && a.d === b.d;
}

/** Where so many frames (whole or with a fraction, to a millionth) of a rate end. */
export function exactSecondsOf(frames: number, r: Rate): ExactSeconds {
  const whole = Number.isInteger(frames);
  const top = BigInt(whole ? frames : Math.round(frames * 1e6)) * BigInt(r.den);
  return lowest(top, BigInt(r.num) * (whole ? 1n : 1_000_000n));
}

/** A moment as a speed makes it: m * speed. */
export function scaled(m: ExactSeconds, speed: Rate): ExactSeconds {
  return lowest(m.n * BigInt(speed.num), m.d * BigInt(speed.den));
}

/** The frame on screen then: floor(m * r). */
export function frameBefore(m: ExactSeconds, r: Rate): number {
  const top = m.n * BigInt(r.num);
  const bottom = m.d * BigInt(r.den);
  const quotient = top / bottom;
  return Number(top < 0n && quotient * bottom !== top ? quotient - 1n : quotient);
}

/** The nearest frame, halves up: floor(m * r + 1/2). */
export function frameNear(m: ExactSeconds, r: Rate): number {
  return Math.floor((frameBefore({ n: m.n * 2n, d: m.d }, r) + 1) / 2);
}

/** Frames of a rate with their fraction, for formats that write decimals. */
export function framesAt(m: ExactSeconds, r: Rate): number {
  const top = m.n * BigInt(r.num);
  const bottom = m.d * BigInt(r.den);
  return top % bottom === 0n ? Number(top / bottom) : Number((top * 1_000_000n) / bottom) / 1e6;
}

export function secondsIn(m: ExactSeconds): number {
  return Number(m.n) / Number(m.d);
}

/** Parses a decimal as files write rates and speeds: the standard rate or thousandth that it means, else to the millionth. Null when it is not a number. */
export function rateFromNumber(value: unknown): Rate | null {
  if (typeof value !== 'number' || !Number.isFinite(value) || value < 1e-6 || value > 1e6) return null;
  return snapRate(value)?.rate ?? speedFromNumber(value);
}

/** A factor as an exact fraction: the simplest within a ten-millionth (29.97/25 comes back whole), by continued fractions. */
export function speedFromNumber(value: number): Rate | null {
  if (!Number.isFinite(value) || value < 1e-6 || value > 1e6) return null;
  let [p, q, before, below] = [1, 0, 0, 1];
  let rest = value;
  for (let i = 0; i < 32; i++) {
    const whole = Math.floor(rest);
    [p, before] = [whole * p + before, p];
    [q, below] = [whole * q + below, q];
    if (p > 0 && Math.abs(rateToNumber({ num: p, den: q }) / value - 1) < 1e-10) break;
    if (rest - whole < 1e-12) break;
    rest = 1 / (rest - whole);
    if (whole * p + before > 1e12) break;
  }
  return p > 0 ? rate(p, q) : null;
}
