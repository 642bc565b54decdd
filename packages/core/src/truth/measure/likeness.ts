import { COARSE } from './steps.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min, sqrt } = Math;

/**
 * How much of what is in one picture is in another, whatever the light: the correlation of fine detail, block by block. A cut leaves none of it
 * where it was going; a lamp that goes on, a picture that jumped in the gate, or one whose neighbours hide behind a flash, leave most.
 * Slower than tiles and asked of few pairs only.
 */

/** Samples are means of so many fine ones across and down. */
const HALF = 2;
/** Samples on each side that count as surroundings. */
const SURROUNDINGS = 2;
/** A block's side, and what is left out along the edges, where a displaced picture has nothing. */
const BLOCK = 8;
const MARGIN = { across: 12, down: 8 } as const;
/** Blocks with less detail than this in both pictures, in squared 8-bit steps a sample, are plain; so much of it is noise and coding. */
const PLAIN_BLOCK = 0.4;
const CODING = 0.1;
/** Around each place that is proposed so many samples are tried. */
const TRIED = 2;
/** The light of a block changed by this, in 8-bit steps. */
const LIT = 12;
/** The newest pictures that are kept. */
const KEPT = 24;

/** A displacement in coarse samples, as tiles tell it. */
export interface Shift {
  readonly u: number;
  readonly v: number;
}

export interface Likeness {
  /** Mean correlation over the blocks with detail, -1 to 1; 0 where there is none. */
  readonly all: number;
  /** Displacement at which it is that much. */
  readonly shift: Shift;
  /** Of the blocks with detail: the share whose light changed, and their mean correlation; and the share that became lighter. */
  readonly lit: { readonly share: number; readonly all: number; readonly lighter: number };
  /** Mean correlation of each row of blocks, from the top, each where it is largest; null where a row is plain. */
  readonly rows: readonly (number | null)[];
}

/** Keeps the newest pictures and compares any two of them. */
export class Likenesses {
  private readonly width: number;
  private readonly height: number;
  private readonly ring: Uint8Array[];
  private readonly details = new Map<number, Float32Array>();
  /** What was found of a picture with others, by these and the places. */
  private readonly found = new Map<number, Map<string, Likeness>>();
  private pushed = 0;

  /** @param fineWidth, fineHeight of the pictures that are pushed */
  constructor(
    private readonly fineWidth: number,
    fineHeight: number,
  ) {
    [this.width, this.height] = [floor(fineWidth / HALF), floor(fineHeight / HALF)];
    this.ring = Array.from({ length: KEPT }, () => new Uint8Array(fineWidth * fineHeight));
  }

  /** @param bytes 8-bit luma, row-major without padding; not kept */
  push(bytes: Uint8Array): void {
    const picture = this.pushed++;
    (this.ring[picture % KEPT] as Uint8Array).set(bytes);
    this.details.delete(picture - KEPT);
    this.found.delete(picture - KEPT);
  }

  /**
   * What of picture a is in picture b.
   * @param places displacements from a to b, around which is looked
   * @returns null where one of them is not kept any more
   */
  compare(a: number, b: number, places: readonly Shift[]): Likeness | null {
    if (min(a, b) <= this.pushed - 1 - KEPT || min(a, b) < 0 || max(a, b) >= this.pushed) return null;
    const tried = placesAround(places);
    const known = this.found.get(a) ?? new Map<string, Likeness>();
    this.found.set(a, known);
    const key = [b, ...tried.map(({ x, y }) => `${x},${y}`)].join(' ');
    const likeness = known.get(key) ?? this.compareAt(a, b, tried);
    known.set(key, likeness);
    return likeness;
  }

  /** @param tried at least one place, in halved samples */
  private compareAt(a: number, b: number, tried: readonly Place[]): Likeness {
    const [before, after] = [this.detailOf(a), this.detailOf(b)];
    const all = tried.map(({ x, y }) => this.sumsAt(before, after, x, y));
    const means = all.map(meanOf);
    const best = all[means.indexOf(max(...means))] as Sums;
    const rows = best.rows.map((row, i) =>
      row.count === 0 ? null : max(...all.map((sums) => (sums.rows[i] as Sum).sum / (sums.rows[i] as Sum).count)),
    );
    return { ...this.told(a, b, best), rows };
  }

  /** Correlations of all blocks, summed by rows, where the earlier picture lies dx, dy away. */
  private sumsAt(before: Float32Array, after: Float32Array, dx: number, dy: number): Sums {
    const rows: Sum[] = [];
    this.forBlocks((x, y, row) => {
      rows[row] ??= { sum: 0, count: 0 };
      const one = this.correlation(before, after, { x, y, dx, dy });
      if (one === null) return;
      const own = rows[row] as Sum;
      own.sum += one;
      own.count++;
    });
    return { dx, dy, rows };
  }

  private told(a: number, b: number, best: Sums): Omit<Likeness, 'rows'> {
    const { dx, dy } = best;
    const [before, after] = [this.detailOf(a), this.detailOf(b)];
    let [count, lit, litSum, lighter] = [0, 0, 0, 0];
    this.forBlocks((x, y) => {
      const one = this.correlation(before, after, { x, y, dx, dy });
      if (one === null) return;
      const change = this.levelOf(b, x, y) - this.levelOf(a, x + dx, y + dy);
      count++;
      if (abs(change) > LIT) {
        lit++;
        litSum += one;
      }
      if (change > LIT) lighter++;
    });
    const share = (part: number, of: number): number => (of > 0 ? part / of : 0);
    return {
      all: meanOf(best),
      shift: { u: (-dx * HALF) / COARSE, v: (-dy * HALF) / COARSE },
      lit: { share: share(lit, count), all: share(litSum, lit), lighter: share(lighter, count) },
    };
  }

  private forBlocks(visit: (x: number, y: number, row: number) => void): void {
    let row = 0;
    for (let y = MARGIN.down; y + BLOCK <= this.height - MARGIN.down; y += BLOCK, row++)
      for (let x = MARGIN.across; x + BLOCK <= this.width - MARGIN.across; x += BLOCK) visit(x, y, row);
  }

  /** Of one block of the later picture with what lies dx, dy from there in the earlier one; null where both are plain. */
  private correlation(
    before: Float32Array,
    after: Float32Array,
    { x, y, dx, dy }: { x: number; y: number; dx: number; dy: number },
  ): number | null {
    const { width } = this;
    let [aa, bb, ab] = [0, 0, 0];
    for (let j = y; j < y + BLOCK; j++) {
      const [from, to] = [(j + dy) * width + dx, j * width];
      for (let i = x; i < x + BLOCK; i++) {
        const [p, q] = [before[from + i] as number, after[to + i] as number];
        aa += p * p;
        bb += q * q;
        ab += p * q;
      }
    }
    const samples = BLOCK * BLOCK;
    return max(aa, bb) < PLAIN_BLOCK * samples ? null : ab / sqrt(aa * bb + (CODING * samples) ** 2);
  }

  /** Mean luma of a block, of every other fine sample. */
  private levelOf(picture: number, x: number, y: number): number {
    const bytes = this.ring[picture % KEPT] as Uint8Array;
    let sum = 0;
    for (let j = y; j < y + BLOCK; j++)
      for (let i = x; i < x + BLOCK; i++) sum += bytes[j * HALF * this.fineWidth + i * HALF] as number;
    return sum / (BLOCK * BLOCK);
  }

  /** A picture halved, without its surroundings; kept while the picture is. */
  private detailOf(picture: number): Float32Array {
    const known = this.details.get(picture);
    if (known) return known;
    const detail = withoutSurroundings(this.halved(this.ring[picture % KEPT] as Uint8Array), this.width, this.height);
    this.details.set(picture, detail);
    return detail;
  }

  private halved(bytes: Uint8Array): Float32Array {
    const { width, height, fineWidth } = this;
    const out = new Float32Array(width * height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const at = y * HALF * fineWidth + x * HALF;
        const [upper, lower] = [at, at + fineWidth];
        out[y * width + x] =
          ((bytes[upper] as number) + (bytes[upper + 1] as number) + (bytes[lower] as number) + (bytes[lower + 1] as number)) /
          (HALF * HALF);
      }
    return out;
  }
}

interface Sum {
  sum: number;
  count: number;
}

/** A displacement in halved samples. */
interface Place {
  readonly x: number;
  readonly y: number;
}

/** Correlations at one displacement, in halved samples. */
interface Sums {
  readonly dx: number;
  readonly dy: number;
  readonly rows: readonly Sum[];
}

function meanOf({ rows }: Sums): number {
  const [sum, count] = [rows.reduce((all, r) => all + r.sum, 0), rows.reduce((all, r) => all + r.count, 0)];
  return count > 0 ? sum / count : 0;
}

/** Whole displacements around those proposed, each once, in halved samples. */
function placesAround(places: readonly Shift[]): Place[] {
  const found = new Map<string, Place>();
  const scale = COARSE / HALF;
  for (const { u, v } of places)
    for (let dy = -TRIED; dy <= TRIED; dy++)
      for (let dx = -TRIED; dx <= TRIED; dx++) {
        const x = within(Math.round(-u * scale) + dx, MARGIN.across);
        const y = within(Math.round(-v * scale) + dy, MARGIN.down);
        found.set(`${x} ${y}`, { x, y });
      }
  return [...found.values()];
}

const within = (value: number, most: number): number => max(-most, min(most, value));

/** A picture less the mean of the square around each sample, of what of it is inside. */
function withoutSurroundings(samples: Float32Array, width: number, height: number): Float32Array {
  // Sums of all above and to the left, with a row and a column of zeros.
  const sums = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++) {
    let row = 0;
    for (let x = 0; x < width; x++) {
      row += samples[y * width + x] as number;
      sums[(y + 1) * (width + 1) + x + 1] = (sums[y * (width + 1) + x + 1] as number) + row;
    }
  }
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const [top, bottom] = [max(0, y - SURROUNDINGS), min(height, y + SURROUNDINGS + 1)];
    for (let x = 0; x < width; x++) {
      const [left, right] = [max(0, x - SURROUNDINGS), min(width, x + SURROUNDINGS + 1)];
      const at = (i: number, j: number): number => sums[j * (width + 1) + i] as number;
      const sum = at(right, bottom) - at(left, bottom) - at(right, top) + at(left, top);
      out[y * width + x] = (samples[y * width + x] as number) - sum / ((bottom - top) * (right - left));
    }
  }
  return out;
}
