import type { Rate } from './rate.js';
import { rate } from './rate.js';

/** Slowest and fastest a speed may be: 1 % and 10,000 %. */
export const SPEED_MIN = 0.01;
export const SPEED_MAX = 100;

/**
 * Reads a speed as a person types it, exactly: "0.25", "25 %", "1/4". Null when it is not a speed between SPEED_MIN and SPEED_MAX.
 * Decimals count as they stand: at most six of them.
 */
export function parseSpeed(text: string): Rate | null {
  const clean = text.trim().replace(',', '.');
  const fraction = /^(\d{1,6})\s*\/\s*(\d{1,6})$/.exec(clean);
  const decimal = /^(\d{0,5})(?:\.(\d{1,6}))?\s*(%?)$/.exec(clean);
  let [num, den] = [0, 0];
  if (fraction) [num, den] = [Number(fraction[1]), Number(fraction[2])];
  else if (decimal) {
    const [, whole = '', part = '', percent] = decimal;
    num = Number(whole + part);
    den = 10 ** part.length * (percent ? 100 : 1);
  }
  if (num === 0 || den === 0 || num / den < SPEED_MIN || num / den > SPEED_MAX) return null;
  return rate(num, den);
}
