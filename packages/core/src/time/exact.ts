/**
 * Exact integer arithmetic on frame counts.
 *
 * Numbers are used while every intermediate product is a safe integer, BigInt beyond. For integers p < 2^53 and
 * b > 0 the double quotient p / b never rounds up to the next integer: the true quotient is at least 1/b below it,
 * while half a unit in the last place is at most p/b * 2^-53 < 1/b. So Math.floor(p / b) is exact.
 */

/** floor(a * b / c) for integers, c > 0. Exact for any size of a and b; throws RangeError when the result is not a safe integer. */
export function mulDivFloor(a: number, b: number, c: number): number {
  const product = a * b;
  if (Number.isSafeInteger(product)) return Math.floor(product / c);
  const big = BigInt(a) * BigInt(b);
  const divisor = BigInt(c);
  const quotient = big / divisor;
  return safe(big < 0n && quotient * divisor !== big ? quotient - 1n : quotient);
}

/** Greatest common divisor of two positive integers. */
export function gcd(a: number, b: number): number {
  let x = Math.abs(a);
  let y = Math.abs(b);
  while (y !== 0) [x, y] = [y, x % y];
  return x;
}

function safe(value: bigint): number {
  const n = Number(value);
  if (!Number.isSafeInteger(n)) throw new RangeError(`not a safe integer: ${value}`);
  return n;
}

/** Greatest common divisor of two integers that are not negative; 1 when both are 0. */
export function gcdBig(a: bigint, b: bigint): bigint {
  let [x, y] = [a, b];
  while (y !== 0n) [x, y] = [y, x % y];
  return x === 0n ? 1n : x;
}
