/** Which of the frames that were asked for a written file shows at each place, told by small pictures while both pass by. */

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min } = Math;

/** Frames on each side of where it is expected that a picture is looked for. */
const REACH = 4;
/** The same where it is not found there. */
const FAR_REACH = 48;
/**
 * A frame shows another one's picture where that lies close to it, and its own as far off as the two are from each other. Where neighbours
 * hardly differ a codec mixes them freely, and neither is so: such frames cannot be told apart, by eye or by measure.
 */
const CLOSE = 0.4;
const FAR = 0.6;
/** Differences below this, in 8-bit steps a sample, are coding alone. */
const CODING = 0.05;
/** A frame shows none of those asked for where it is so many steps from the nearest, and so many times as far as is usual in the file; */
const LOST_STEPS = 4;
const LOST_TIMES = 6;
/**
 * or, in a file that is another one altogether, so many steps and as far as such a share of that picture's own contrast: pictures that have
 * nothing to do with each other differ by about all of it, whatever coding did to them by far less.
 */
const STRANGE_STEPS = 8;
const STRANGE_SHARE = 0.6;

/** A frame is looked at again that lies so much of the way from its own picture to another one, */
const DOUBT_SHARE = 0.35;
/** where these two differ by so much, as root of the sum of squares in 8-bit steps: rounding moves it by a tenth of that way. */
const DOUBT_LENGTH = 3;
/**
 * Or where one sample is so many steps off, and so many times as far as is usual in the file, and in the frames before or after it,
 * whichever is least: where a motion is made anew, small, all is off by much, and would hide what is not. Beyond so many it always is.
 */
const DOUBT_STEPS = 10;
const DOUBT_TIMES = 3;
const DOUBT_MOST = 30;
/** Frames that say what is usual on each side of one. */
const DOUBT_BESIDE = 5;

/** Frames that show something else than was asked, all alike. */
export interface WrongRun {
  /** First frame of the file. */
  readonly frame: number;
  readonly frames: number;
  /** The frame asked for whose picture the first one shows; the next ones' follow it. Null: none of those near by. */
  readonly shows: number | null;
}

export interface SequenceComparison {
  /** What each written frame shows: a frame asked for, or -1. */
  readonly shows: Int32Array;
  readonly wrong: readonly WrongRun[];
  /** Frames that cannot be distinguished from a neighbour. */
  readonly alike: number;
  /** Frames, ascending, of which small pictures cannot say for certain that they are as asked: all that are wrong, and more. */
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

  /** A frame as it was asked for: luma, always of one size. Kept as it is. */
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

  /** Whether a picture lies a good part of the way from its own to another one near by; however little of the picture that is. */
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

/** Frames that are shifted alike one after the other are one finding. */
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
