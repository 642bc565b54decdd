import type { Rate } from './rate.js';

/** SMPTE ST 12-1 timecode of a frame count. Frames a second are the rate rounded up: 30 for 29.97. */

/** Frames that a second of timecode counts. */
export function nominalRate(r: Rate): number {
  return Math.ceil(r.num / r.den);
}

/** Drop-frame exists for 29.97 and 59.94 only. */
export function allowsDropFrame(r: Rate): boolean {
  return r.den === 1001 && (r.num === 30000 || r.num === 60000);
}

/** Frame numbers left out at each minute that is not a multiple of ten. */
function dropped(r: Rate): number {
  return nominalRate(r) / 15;
}

const two = (n: number): string => String(n).padStart(2, '0');

export interface TimecodeOptions {
  readonly dropFrame?: boolean;
  /** Wrap at 24 hours, as clocks do. Off by default: hours go on. */
  readonly wrap?: boolean;
}

/**
 * Prints frame n (whole, may be negative) of the rate: "01:02:03:04", with ";" before the frames when drop-frame.
 * Rates over 100 use three digits for frames. Throws RangeError when drop-frame is asked of a rate without it.
 */
export function formatTimecode(frame: number, r: Rate, options: TimecodeOptions = {}): string {
  const dropFrame = options.dropFrame ?? false;
  if (dropFrame && !allowsDropFrame(r)) throw new RangeError('drop-frame exists for 29.97 and 59.94 only');
  const base = nominalRate(r);
  let n = Math.abs(frame);
  if (dropFrame) {
    const drop = dropped(r);
    const perMinute = base * 60 - drop;
    const perTenMinutes = base * 600 - drop * 9;
    const tens = Math.floor(n / perTenMinutes);
    const rest = n % perTenMinutes;
    const minutes = rest < base * 60 ? 0 : Math.floor((rest - base * 60) / perMinute) + 1;
    n += drop * (tens * 9 + minutes);
  }
  const frames = n % base;
  const seconds = Math.floor(n / base);
  const hours = Math.floor(seconds / 3600);
  const shown = options.wrap ? hours % 24 : hours;
  const digits = String(frames).padStart(base > 100 ? 3 : 2, '0');
  const sign = frame < 0 ? '-' : '';
  const clock = `${two(shown)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  return `${sign}${clock}${dropFrame ? ';' : ':'}${digits}`;
}

/**
 * Reads a timecode of the given rate back to its frame count. ";" before the frames (or option) makes it drop-frame.
 * Missing leading parts are zero: "3:04" is three seconds and four frames; a bare number is that many frames.
 * Null when it is not a timecode, or names a frame number that drop-frame leaves out.
 */
export function parseTimecode(text: string, r: Rate, options: TimecodeOptions = {}): number | null {
  const match = /^(-)?((?:\d{1,4}:){0,2}\d{1,2}[:;])?(\d{1,3})$/.exec(text.trim());
  if (!match) return /^-?\d{1,9}$/.test(text.trim()) ? Number(text.trim()) : null;
  const sign = match[1] ? -1 : 1;
  if (match[2] === undefined) return sign * Number(match[3]);
  const parts = match[2].slice(0, -1).split(':').map(Number);
  while (parts.length < 3) parts.unshift(0);
  const [hours = 0, minutes = 0, seconds = 0] = parts;
  const frames = Number(match[3]);
  const base = nominalRate(r);
  const dropFrame = options.dropFrame ?? match[2].endsWith(';');
  if (minutes > 59 || seconds > 59 || frames >= base) return null;
  let count = (hours * 3600 + minutes * 60 + seconds) * base + frames;
  if (dropFrame) {
    if (!allowsDropFrame(r)) return null;
    const drop = dropped(r);
    if (seconds === 0 && minutes % 10 !== 0 && frames < drop) return null;
    const allMinutes = hours * 60 + minutes;
    count -= drop * (allMinutes - Math.floor(allMinutes / 10));
  }
  return sign * count;
}
