import { frameAtOrBefore, type Rate, rate } from './rate.js';
import { formatTimecode, nominalRate, parseTimecode } from './timecode.js';

/** What a timecode field is asked in: the timeline's rate, and what its first frame is called. */
export interface Clock {
  readonly rate: Rate;
  readonly dropFrame: boolean;
  /** Frames since midnight that the timeline's first frame is called. */
  readonly startFrame: number;
}

/** How a typed place was understood. `by` is a move from where one stands. */
export type PlaceKind = 'timecode' | 'frame' | 'seconds' | 'by-frames' | 'by-seconds' | 'by-timecode';

export type TypedPlace =
  | {
      readonly ok: true;
      readonly kind: PlaceKind /** Frames from the timeline's first; may be negative. */;
      readonly frame: number;
    }
  | { readonly ok: false; readonly why: 'empty' | 'not-a-place' | 'no-such-frame' | 'dropped' };

/** Prints a frame of a timeline as its timecode. */
export function clockTimecode(frame: number, clock: Clock): string {
  return formatTimecode(frame + clock.startFrame, clock.rate, { dropFrame: clock.dropFrame });
}

/**
 * Reads what a person types as a place: a timecode ("1:2:3:4", "1:02;04", or eight digits "01020304"), a frame number ("120"),
 * seconds ("2.5s"), or a move from `now`: "+12" frames, "-1s", "+1:00". Timecodes are the timeline's, so its start counts;
 * frame numbers count from its first frame, 0. Seconds go to the nearest frame, halves up.
 */
export function readPlace(text: string, clock: Clock, now: number): TypedPlace {
  const clean = text.trim().replace(/\s+/g, '').replace(',', '.');
  if (clean === '') return { ok: false, why: 'empty' };
  const sign = clean.startsWith('-') ? -1 : clean.startsWith('+') ? 1 : 0;
  const bare = sign === 0 ? clean : clean.slice(1);
  const seconds = /^(\d{1,7}(?:\.\d{1,6})?)s$/i.exec(bare);
  if (seconds) {
    const frames = framesOf(seconds[1] as string, clock.rate);
    return sign === 0
      ? { ok: true, kind: 'seconds', frame: frames }
      : { ok: true, kind: 'by-seconds', frame: now + sign * frames };
  }
  if (/^\d{7,8}$/.test(bare) && sign === 0) {
    const digits = bare.padStart(8, '0');
    const parts = [0, 2, 4, 6].map((at) => digits.slice(at, at + 2));
    return absolute(`${parts.slice(0, 3).join(':')}${clock.dropFrame ? ';' : ':'}${parts[3]}`, clock);
  }
  if (/^\d{1,9}$/.test(bare)) {
    const frames = Number(bare);
    return sign === 0 ? { ok: true, kind: 'frame', frame: frames } : { ok: true, kind: 'by-frames', frame: now + sign * frames };
  }
  if (!/[:;]/.test(bare)) return { ok: false, why: 'not-a-place' };
  if (sign === 0) return absolute(bare, clock);
  const by = parseTimecode(bare, clock.rate, { dropFrame: false });
  return by === null ? trouble(bare, { ...clock, dropFrame: false }) : { ok: true, kind: 'by-timecode', frame: now + sign * by };
}

function absolute(text: string, clock: Clock): TypedPlace {
  // Who types ":" on a drop-frame clock means that clock.
  const frame = parseTimecode(text, clock.rate, { dropFrame: clock.dropFrame });
  return frame === null ? trouble(text, clock) : { ok: true, kind: 'timecode', frame: frame - clock.startFrame };
}

/** A timecode in form that names no frame (frame 25 of 25, a dropped number) is told apart from what is no timecode at all. */
function trouble(text: string, { rate: r, dropFrame }: Clock): TypedPlace {
  // All it lacks is that drop-frame leaves its number out.
  if (dropFrame && parseTimecode(text, r, { dropFrame: false }) !== null) return { ok: false, why: 'dropped' };
  return { ok: false, why: /^(\d{1,4}[:;]){1,3}\d{1,3}$/.test(text) ? 'no-such-frame' : 'not-a-place' };
}

/** The nearest frame to so many seconds, exactly from the typed decimals. */
function framesOf(seconds: string, r: Rate): number {
  const [whole = '0', part = ''] = seconds.split('.');
  const micros = Number(whole) * 1_000_000 + Number(part.padEnd(6, '0'));
  return Math.floor((frameAtOrBefore(micros, rate(1_000_000), { num: r.num * 2, den: r.den }) + 1) / 2);
}

/** What was understood, in words: "frame 120", "00:00:04:20, 12 frames on". */
export function placeWords(place: TypedPlace, clock: Clock, now: number): string {
  if (place.ok) {
    const shown =
      place.frame < -clock.startFrame ? `frame ${place.frame}` : `${clockTimecode(place.frame, clock)}, frame ${place.frame}`;
    const by = place.frame - now;
    return place.kind.startsWith('by-') ? `${shown}: ${Math.abs(by)} ${by < 0 ? 'back' : 'on'}` : shown;
  }
  if (place.why === 'dropped')
    return `drop-frame has no such number: at each minute but every tenth it goes on with ;${String(nominalRate(clock.rate) / 15).padStart(2, '0')}`;
  if (place.why === 'empty') return 'a timecode, a frame, +12 or -1s';
  return place.why === 'no-such-frame'
    ? `no such frame: seconds and minutes go to 59, frames to ${nominalRate(clock.rate) - 1}`
    : 'not understood: try 1:02:03:04, 120, 2.5s, +12 or -1s';
}

/**
 * Reads a length as a person types it, in frames: "120", "8s", "2.5s", a timecode ("0:10" is ten frames, "8:00" eight seconds, "1:00:00" a
 * minute). Null where it is none, or less than a frame.
 */
export function readLength(text: string, clock: Pick<Clock, 'rate' | 'dropFrame'>): number | null {
  const place = readPlace(text, { ...clock, startFrame: 0 }, 0);
  if (!place.ok || place.kind.startsWith('by-') || place.frame < 1) return null;
  return place.frame;
}
