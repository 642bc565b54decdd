/**
 * Decides whether a written frame shows what was asked for, by comparing it at full size with the picture that was composed for it. The
 * only expected difference is coding noise, so even a motion of a few samples is found, and correct frames raise no objection.
 */

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, sqrt } = Math;

/** Samples of an edge of the blocks that a picture is judged in. */
const BLOCK = 16;
/** Two pictures differ where samples are at least so many 8-bit steps apart. */
const APART_STEPS = 2;
/**
 * A frame shows another frame's picture when it is at least this share of the way from its own picture to that one. The share is the
 * error projected onto the difference of the two pictures; over many samples, coding noise of any strength hardly changes it.
 */
const ON_THE_WAY = 0.6;
/**
 * Differences that coding removes cannot be judged. The samples have to differ by ABOVE_CODING times the usual error, and either by
 * PLAIN_STEPS, or by FAINT_STEPS and by MUCH_SHARE of the picture's whole error: a coder first drops what is faint or small.
 */
const ABOVE_CODING = 3;
const PLAIN_STEPS = 16;
const MUCH_SHARE = 0.25;
const FAINT_STEPS = 5;
/** For faint differences, at most this share may remain once the other picture is assumed: otherwise a coder smeared one into the other. */
const FAINT_LEFT = 0.4;
/** Below this usual error, in 8-bit steps, coding counts as lossless. */
const LOSSLESS = 0.25;
/** A block is foreign when its error exceeds STRANGE_STEPS plus STRANGE_TIMES its own contrast, which blurring never reaches; */
const STRANGE_STEPS = 16;
const STRANGE_TIMES = 1.25;
/** or when less than CONTRAST_LEFT remains of a contrast of at least CONTRAST_STEPS and CONTRAST_TIMES the usual error. */
const CONTRAST_STEPS = 24;
const CONTRAST_TIMES = 10;
const CONTRAST_LEFT = 0.3;

/** A whole picture is foreign when its error exceeds LOST_STEPS and LOST_TIMES the usual error. */
const LOST_STEPS = 3;
const LOST_TIMES = 6;

/** A plane of 8-bit luma: row-major, data.length === width * height. */
export interface LumaPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

/** What a written frame shows. */
export type CloseLook =
  | { readonly shows: 'own' }
  /** It is nearer to that one's picture, but that and its own differ by less than coding leaves. */
  | { readonly shows: 'alike'; readonly frame: number }
  | { readonly shows: 'other'; readonly frame: number }
  /** Something that none of them shows. */
  | { readonly shows: 'strange' };

/** Mean difference between a written picture and the one composed for it, in 8-bit steps a sample. */
export function codingError(written: LumaPicture, composed: LumaPicture): number {
  let sum = 0;
  const { data } = written;
  for (let i = 0; i < data.length; i++) sum += abs((data[i] as number) - (composed.data[i] as number));
  return sum / data.length;
}

/**
 * @param own the picture that was composed for this frame
 * @param others pictures composed for frames near by, by their numbers
 * @param usual what codingError usually is in this file
 */
export function lookClosely(
  written: LumaPicture,
  own: LumaPicture,
  others: ReadonlyMap<number, LumaPicture>,
  usual: number,
): CloseLook {
  let best: Nearest | null = null;
  let faint: Nearest | null = null;
  for (const [frame, other] of others) {
    const { nearer, clear } = between(written, own, other, usual);
    if (!nearer) continue;
    // Over the whole picture: each of them differs from its own in other samples.
    const error = codingError(written, other);
    if (clear && (!best || error < best.error)) best = { frame, error };
    if (!clear && (!faint || error < faint.error)) faint = { frame, error };
  }
  if (best && !isStrange(written, others.get(best.frame) as LumaPicture, usual)) return { shows: 'other', frame: best.frame };
  if (isStrange(written, own, usual)) return { shows: 'strange' };
  return faint ? { shows: 'alike', frame: faint.frame } : { shows: 'own' };
}

interface Nearest {
  readonly frame: number;
  readonly error: number;
}

/** Where two composed pictures differ: whether a written one is nearer to the other, and whether they differ by more than coding leaves. */
function between(
  written: LumaPicture,
  own: LumaPicture,
  other: LumaPicture,
  usual: number,
): { readonly nearer: boolean; readonly clear: boolean } {
  let [fromOther, apart, count, along, square] = [0, 0, 0, 0, 0];
  const [w, a, b] = [written.data, own.data, other.data];
  for (let i = 0; i < w.length; i++) {
    const step = (b[i] as number) - (a[i] as number);
    const way = abs(step);
    if (way < APART_STEPS) continue;
    along += step * ((w[i] as number) - (a[i] as number));
    square += step * step;
    fromOther += abs((w[i] as number) - (b[i] as number));
    apart += way;
    count++;
  }
  if (count === 0) return { nearer: false, clear: false };
  const mean = apart / count;
  const left = fromOther / count;
  const much = mean >= FAINT_STEPS && apart >= MUCH_SHARE * usual * w.length && left <= FAINT_LEFT * mean;
  const clear = mean >= ABOVE_CODING * usual && (mean >= PLAIN_STEPS || much || usual < LOSSLESS);
  return { nearer: along > ON_THE_WAY * square, clear };
}

/**
 * How far a written picture is on the way from its own picture (0) to another one (1), and the distance of these two in 8-bit steps, as
 * the mean over the samples that differ. Coding noise hardly changes the share over many samples.
 */
export function onTheWay(
  written: LumaPicture,
  own: LumaPicture,
  other: LumaPicture,
): { readonly share: number; readonly apart: number } {
  let [apart, count, along, square] = [0, 0, 0, 0];
  for (let i = 0; i < written.data.length; i++) {
    const step = (other.data[i] as number) - (own.data[i] as number);
    if (abs(step) < APART_STEPS) continue;
    along += step * ((written.data[i] as number) - (own.data[i] as number));
    square += step * step;
    apart += abs(step);
    count++;
  }
  return { share: square > 0 ? along / square : 0, apart: count > 0 ? apart / count : 0 };
}

/** Whether a written picture, or any block of it, shows something else than was composed. */
function isStrange(written: LumaPicture, composed: LumaPicture, usual: number): boolean {
  const { width, height } = written;
  if (codingError(written, composed) > max(LOST_STEPS, LOST_TIMES * usual)) return true;
  for (let y = 0; y < height; y += BLOCK)
    for (let x = 0; x < width; x += BLOCK) if (isStrangeBlock(written, composed, { left: x, top: y }, usual)) return true;
  return false;
}

function isStrangeBlock(
  written: LumaPicture,
  composed: LumaPicture,
  { left, top }: { readonly left: number; readonly top: number },
  usual: number,
): boolean {
  const { width, height } = written;
  const [right, bottom] = [Math.min(width, left + BLOCK), Math.min(height, top + BLOCK)];
  let [n, sumA, sumW, error] = [0, 0, 0, 0];
  let [squareA, product] = [0, 0];
  for (let y = top; y < bottom; y++) {
    for (let i = y * width + left; i < y * width + right; i++) {
      const [a, w] = [composed.data[i] as number, written.data[i] as number];
      n++;
      sumA += a;
      sumW += w;
      squareA += a * a;
      product += a * w;
      error += abs(a - w);
    }
  }
  const mean = sumA / n;
  const deviation = sqrt(max(0, squareA / n - mean * mean));
  if (error / n > STRANGE_STEPS + STRANGE_TIMES * deviation) return true;
  if (deviation < max(CONTRAST_STEPS, CONTRAST_TIMES * usual)) return false;
  const kept = (product / n - mean * (sumW / n)) / (deviation * deviation);
  return kept < CONTRAST_LEFT && error / n > STRANGE_STEPS;
}
