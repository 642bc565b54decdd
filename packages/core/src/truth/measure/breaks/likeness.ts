import { DETAIL_STEP, HALF, HALF_BLOCK, type HalfBlock, type Halves, KEPT_HALVES, MARGIN, PRODUCTS } from '../samples/halves.js';
import { KernelHalves } from '../samples/halves.wasm.js';
import { COARSE } from '../samples/steps.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min, round, sqrt } = Math;

/**
 * How much of what is in one picture is in another, whatever the light: the correlation of fine detail, block by block. A cut leaves none of it
 * where it was going; a lamp that goes on, a picture that jumped in the gate, or one whose neighbours hide behind a flash, leave most.
 * Slower than tiles and asked of few pairs only.
 */

/** Blocks with less detail than this in both pictures, in squared 8-bit steps a sample, are plain; so much of it is noise and coding. */
const PLAIN_BLOCK = 0.4;
const CODING = 0.1;
const SQUARE = HALF_BLOCK * HALF_BLOCK * DETAIL_STEP * DETAIL_STEP;
const [LEAST_PRODUCT, CODING_PRODUCT] = [PLAIN_BLOCK * SQUARE, CODING * SQUARE];
/** Around each place that is proposed so many samples are tried, if nothing else is asked for. */
const REACH = 2;
/** The light of a block changed by this, in 8-bit steps. */
const LIT = 12;

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

/** Compares any two of the newest pictures. */
export class Likenesses {
  /** What was found of a picture with others, by these and the places. */
  private readonly found = new Map<number, Map<string, Likeness>>();
  private readonly halves: Halves;

  /** @param width, height of the pictures that are pushed */
  constructor(width: number, height: number, halves: Halves = new KernelHalves(width, height)) {
    this.halves = halves;
  }

  /** @param bytes 8-bit luma, row-major without padding; not kept */
  push(bytes: Uint8Array): void {
    this.halves.push(bytes);
    this.found.delete(this.halves.pushed - 1 - KEPT_HALVES);
  }

  /**
   * What of picture a is in picture b.
   * @param places displacements from a to b, around which is looked; at least one
   * @returns null where one of them is not kept any more
   */
  compare(a: number, b: number, places: readonly Shift[], reach: number = REACH): Likeness | null {
    const { pushed } = this.halves;
    if (min(a, b) < max(0, pushed - KEPT_HALVES) || max(a, b) >= pushed) return null;
    const tried = placesAround(places, reach);
    const known = this.found.get(a) ?? new Map<string, Likeness>();
    this.found.set(a, known);
    const key = [b, ...tried.map(({ x, y }) => `${x},${y}`)].join(' ');
    const likeness = known.get(key) ?? this.compareAt(a, b, tried);
    known.set(key, likeness);
    return likeness;
  }

  private compareAt(a: number, b: number, tried: readonly Place[]): Likeness {
    const all = tried.map((place) => this.sumsAt(a, b, place));
    const means = all.map(meanOf);
    const best = all[means.indexOf(max(...means))] as Sums;
    const rows = Array.from(best.counts, (count, i) =>
      count === 0 ? null : max(...all.map((sums) => sums.rows[i] / max(1, sums.counts[i]))),
    );
    return { ...this.told(a, b, best), rows };
  }

  /** Correlations of all blocks, summed by rows, at one displacement. */
  private sumsAt(a: number, b: number, { x, y }: Place): Sums {
    const { grid } = this.halves;
    const products = this.halves.products(a, b, x, y);
    const [rows, counts] = [new Float64Array(grid.rows), new Uint8Array(grid.rows)];
    const correlations = new Float64Array(grid.blocks.length).fill(PLAIN);
    for (let n = 0; n < grid.blocks.length; n++) {
      const one = correlationOf(products, n);
      if (one <= PLAIN) continue;
      const { row } = grid.blocks[n] as HalfBlock;
      correlations[n] = one;
      rows[row] = rows[row] + one;
      counts[row] = counts[row] + 1;
    }
    return { dx: x, dy: y, rows, counts, correlations };
  }

  private told(a: number, b: number, best: Sums): Omit<Likeness, 'rows'> {
    const { halves } = this;
    const { dx, dy, correlations } = best;
    let [count, lit, litSum, lighter] = [0, 0, 0, 0];
    halves.grid.blocks.forEach(({ x, y }, n) => {
      const one = correlations[n];
      if (one <= PLAIN) return;
      const change = halves.levelAt(b, x, y) - halves.levelAt(a, x + dx, y + dy);
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
}

/** Told of a block that is plain in both pictures: below any correlation. */
const PLAIN = -2;

/** Of block n; PLAIN where it is plain in both pictures. */
function correlationOf(products: Int32Array, n: number): number {
  const at = n * PRODUCTS;
  const [aa, bb, ab] = [products[at], products[at + 1], products[at + 2]];
  return max(aa, bb) < LEAST_PRODUCT ? PLAIN : ab / sqrt(aa * bb + CODING_PRODUCT ** 2);
}

/** A displacement in halved samples. */
interface Place {
  readonly x: number;
  readonly y: number;
}

/** Correlations at one displacement, in halved samples: sums of each row of blocks, and how many are not plain. */
interface Sums {
  readonly dx: number;
  readonly dy: number;
  readonly rows: Float64Array;
  readonly counts: Uint8Array;
  /** Of each block; PLAIN where it is. */
  readonly correlations: Float64Array;
}

function meanOf({ rows, counts }: Sums): number {
  const [sum, count] = [rows.reduce((all, r) => all + r, 0), counts.reduce((all, n) => all + n, 0)];
  return count > 0 ? sum / count : 0;
}

/** Whole displacements around those proposed, each once, in halved samples. */
function placesAround(places: readonly Shift[], reach: number): Place[] {
  const found = new Map<string, Place>();
  const scale = COARSE / HALF;
  for (const { u, v } of places)
    for (let dy = -reach; dy <= reach; dy++)
      for (let dx = -reach; dx <= reach; dx++) {
        const x = within(round(-u * scale) + dx, MARGIN.across);
        const y = within(round(-v * scale) + dy, MARGIN.down);
        found.set(`${x} ${y}`, { x, y });
      }
  return [...found.values()];
}

const within = (value: number, most: number): number => max(-most, min(most, value));
