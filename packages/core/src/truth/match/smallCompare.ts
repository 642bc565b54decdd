/** Finds which of the requested frames a written file shows at each place, from small pictures of both, in one pass. */

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min } = Math;

/** A picture is searched for within this many frames of its expected place. */
const REACH = 4;
/** The wider search when that finds nothing, in frames. */
const FAR_REACH = 48;
/**
 * A frame shows another frame's picture when it is close to that one and as far from its own as the two are from each other. When
 * neighbours hardly differ, a codec mixes them and neither holds: such frames cannot be distinguished, by eye or by measure.
 */
const CLOSE = 0.4;
const FAR = 0.6;
/** Differences below this, in 8-bit steps a sample, are coding alone. */
const CODING = 0.05;
/** A frame shows none of the requested ones when it is LOST_STEPS from the nearest and LOST_TIMES the file's usual distance; */
const LOST_STEPS = 4;
const LOST_TIMES = 6;
/**
 * or, in an unrelated file, STRANGE_STEPS and STRANGE_SHARE of that picture's own contrast: unrelated pictures differ by about all of
 * their contrast, recoded ones by far less.
 */
const STRANGE_STEPS = 8;
const STRANGE_SHARE = 0.6;

/** A frame is examined at full size when it is this share of the way from its own picture to another one, */
const DOUBT_SHARE = 0.35;
/** provided that the two differ by this much (root of the sum of squares, 8-bit steps); rounding accounts for a tenth of it; */
const DOUBT_LENGTH = 3;
/**
 * or when one sample is off by DOUBT_STEPS and by DOUBT_TIMES the usual error, which is the least of those of the file and of the frames
 * before and after: where motion is made again at the small size, errors are large all over. Beyond DOUBT_MOST it is always examined.
 */
const DOUBT_STEPS = 10;
const DOUBT_TIMES = 3;
const DOUBT_MOST = 30;
/** Frames on each side from which the usual error of a frame is taken. */
const DOUBT_BESIDE = 5;

/** Frames that show something else than was asked, all alike. */
export interface WrongRun {
  /** First frame of the file. */
  readonly frame: number;
  readonly frames: number;
  /** The requested frame that the first one shows; the others show the following ones. Null: none near by. */
  readonly shows: number | null;
}

export interface SequenceComparison {
  /** What each written frame shows: a frame asked for, or -1. */
  readonly shows: Int32Array;
  readonly wrong: readonly WrongRun[];
  /** Frames that cannot be distinguished from a neighbour. */
  readonly alike: number;
  /** Frames, ascending, that small pictures cannot confirm: all wrong ones, and more. */
  readonly doubtful: readonly number[];
}

/** Compares two sequences that are given frame by frame. Memory: three numbers a frame, and small pictures for the reach alone. */
export class SequenceComparer {
  private readonly asked: Uint8Array[] = [];
  private readonly written: Uint8Array[] = [];
  /** Number of the first picture that is still held, of each. */
  private askedFrom = 0;
  private writtenFrom = 0;
  private askedCount = 0;
  private writtenCount = 0;
  private next = 0;
  /** Where frames were found last, against their own place. */
  private offset = 0;
  private readonly shows: number[] = [];
  private readonly nearest: number[] = [];
  /** Of the picture that each was found nearest to. */
  private readonly contrasts: number[] = [];
  private alike = 0;
  /** Largest difference of any sample from the frame's own picture. */
  private readonly peaks: number[] = [];
  private readonly drawn: boolean[] = [];

  /** Adds a requested frame: luma, always of one size. Not copied. */
  ask(picture: Uint8Array): void {
    this.asked.push(picture);
    this.askedCount++;
    this.go(false);
  }

  /** A frame as it was written. */
  write(picture: Uint8Array): void {
    this.written.push(picture);
    this.writtenCount++;
    this.go(false);
  }

  finish(): SequenceComparison {
    this.go(true);
    const usual = median(this.nearest.filter((d) => d >= 0));
    for (const [n, distance] of this.nearest.entries()) {
      const lost = distance > max(LOST_STEPS, usual * LOST_TIMES);
      const strange = distance > max(STRANGE_STEPS, (this.contrasts[n] as number) * STRANGE_SHARE);
      if (distance < 0 || lost || strange) this.shows[n] = -1;
    }
    const shows = Int32Array.from(this.shows);
    const usualPeak = median(this.peaks.filter((p) => p >= 0));
    const peaked = (n: number): boolean => {
      const beside = [this.peaks.slice(max(0, n - DOUBT_BESIDE), n), this.peaks.slice(n + 1, n + 1 + DOUBT_BESIDE)];
      const usualHere = min(usualPeak, ...beside.filter((peaks) => peaks.length === DOUBT_BESIDE).map(median));
      return (this.peaks[n] as number) > max(DOUBT_STEPS, min(DOUBT_MOST, usualHere * DOUBT_TIMES));
    };
    const doubtful = this.shows.flatMap((at, n) => (at !== n || this.drawn[n] || peaked(n) ? [n] : []));
    return { shows, wrong: wrongRuns(shows), alike: this.alike, doubtful };
  }

  private go(end: boolean): void {
    while (this.next < this.writtenCount && (end || this.askedCount > this.next + FAR_REACH)) {
      this.judge(this.next++);
      this.drop();
    }
  }

  private drop(): void {
    const keep = this.next - FAR_REACH;
    while (this.askedFrom < keep && this.asked.length > 0) {
      this.asked.shift();
      this.askedFrom++;
    }
    while (this.writtenFrom < this.next && this.written.length > 0) {
      this.written.shift();
      this.writtenFrom++;
    }
  }

  private judge(n: number): void {
    const picture = this.written[n - this.writtenFrom] as Uint8Array;
    const own = this.distance(picture, n);
    this.peaks.push(this.peak(picture, n));
    this.drawn.push(this.isDrawn(picture, n));
    let { at, distance } = this.best(picture, n + this.offset, REACH);
    // Far from all that is near: it may come from further away.
    if (distance > LOST_STEPS) {
      const further = this.best(picture, n, FAR_REACH);
      if (further.distance < distance * CLOSE) ({ at, distance } = further);
    }
    if (own === Number.POSITIVE_INFINITY) {
      this.shows.push(at);
      this.nearest.push(distance === Number.POSITIVE_INFINITY ? -1 : distance);
      this.contrasts.push(this.contrast(at));
      return;
    }
    const apart = at === n ? 0 : this.apart(n, at);
    const clear = distance < own * CLOSE && own > apart * FAR && own - distance >= CODING;
    if (!clear && at !== n) this.alike++;
    this.shows.push(clear ? at : n);
    this.nearest.push(clear ? distance : own);
    this.contrasts.push(this.contrast(clear ? at : n));
    this.offset = clear ? at - n : own - distance < CODING ? this.offset : 0;
  }

  private best(picture: Uint8Array, middle: number, reach: number): { at: number; distance: number } {
    let at = middle;
    let distance = Number.POSITIVE_INFINITY;
    for (let step = 0; step <= 2 * reach; step++) {
      // From the middle outward, so that of equals the nearest is taken.
      const other = middle + (step % 2 === 0 ? -1 : 1) * floor((step + 1) / 2);
      const found = this.distance(picture, other);
      if (found < distance) {
        distance = found;
        at = other;
      }
    }
    return { at, distance };
  }

  private peak(picture: Uint8Array, asked: number): number {
    const other = this.asked[asked - this.askedFrom];
    if (!other) return -1;
    let most = 0;
    for (let i = 0; i < picture.length; i++) most = max(most, abs((picture[i] as number) - (other[i] as number)));
    return most;
  }

  /** Whether a picture is DOUBT_SHARE of the way from its own to a neighbour's, in however small a part of it. */
  private isDrawn(picture: Uint8Array, n: number): boolean {
    const own = this.asked[n - this.askedFrom];
    if (!own) return false;
    for (let m = n - REACH; m <= n + REACH; m++) {
      const other = m === n ? undefined : this.asked[m - this.askedFrom];
      if (!other) continue;
      let [square, along] = [0, 0];
      for (let i = 0; i < own.length; i++) {
        const way = (other[i] as number) - (own[i] as number);
        square += way * way;
        along += way * ((picture[i] as number) - (own[i] as number));
      }
      if (square >= DOUBT_LENGTH * DOUBT_LENGTH && along > DOUBT_SHARE * square) return true;
    }
    return false;
  }

  private distance(picture: Uint8Array, asked: number): number {
    const other = this.asked[asked - this.askedFrom];
    return other ? meanDifference(picture, other) : Number.POSITIVE_INFINITY;
  }

  /** Mean difference of a picture from its own mean. */
  private contrast(asked: number): number {
    const picture = this.asked[asked - this.askedFrom];
    if (!picture) return 0;
    let sum = 0;
    for (const value of picture) sum += value;
    const mean = sum / picture.length;
    let away = 0;
    for (const value of picture) away += abs(value - mean);
    return away / picture.length;
  }

  private apart(a: number, b: number): number {
    const first = this.asked[a - this.askedFrom];
    return first ? this.distance(first, b) : 0;
  }
}

/** Mean of absolute differences, in 8-bit steps. */
export function meanDifference(a: Uint8Array, b: Uint8Array): number {
  const { length } = a;
  let sum = 0;
  for (let i = 0; i < length; i++) sum += abs((a[i] as number) - (b[i] as number));
  return sum / length;
}

function median(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1] ?? 0;
}

/** Merges consecutive frames that are shifted by the same amount into one finding. */
export function wrongRuns(shows: Int32Array): WrongRun[] {
  const runs: { frame: number; frames: number; shows: number | null }[] = [];
  for (const [n, at] of shows.entries()) {
    if (at === n) continue;
    const last = runs.at(-1);
    const goesOn =
      last &&
      last.frame + last.frames === n &&
      (at < 0 ? last.shows === null : last.shows !== null && last.shows + last.frames === at);
    if (goesOn) last.frames++;
    else runs.push({ frame: n, frames: 1, shows: at < 0 ? null : at });
  }
  return runs;
}
