// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min, trunc } = Math;

/**
 * The newest pictures halved, and without their surroundings, so that light alone changes little: what fine detail is compared in.
 */

/** Samples are sums of so many fine ones across and down. */
export const HALF = 2;
/** Samples on each side that count as surroundings. */
export const AROUND_HALF = 2;
/** Steps of detail to an 8-bit step of the picture. */
export const DETAIL_STEP = HALF * HALF;
/** A block's side in samples. */
export const HALF_BLOCK = 8;
/** What is left out along the edges, in samples: so far a displaced picture may be looked for. */
export const MARGIN = { across: 12, down: 8 } as const;
/** The newest pictures that are kept. */
export const KEPT_HALVES = 24;
/** Numbers a block: the sums of squares of the earlier picture's samples and of the later one's, and of their products. */
export const PRODUCTS = 3;

/** Where a block begins, in halved samples, and its row of blocks. */
export interface HalfBlock {
  readonly x: number;
  readonly y: number;
  readonly row: number;
}

export interface HalfGrid {
  readonly width: number;
  readonly height: number;
  readonly blocks: readonly HalfBlock[];
  /** Rows of blocks. */
  readonly rows: number;
}

/** @param width, height of the fine picture */
export function halfGridOf(width: number, height: number): HalfGrid {
  const [w, h] = [floor(width / HALF), floor(height / HALF)];
  const blocks: HalfBlock[] = [];
  let row = 0;
  for (let y = MARGIN.down; y + HALF_BLOCK <= h - MARGIN.down; y += HALF_BLOCK, row++)
    for (let x = MARGIN.across; x + HALF_BLOCK <= w - MARGIN.across; x += HALF_BLOCK) blocks.push({ x, y, row });
  return { width: w, height: h, blocks, rows: row };
}

/** Pictures are called by their numbers, from 0 in the order in which they are pushed. */
export interface Halves {
  readonly grid: HalfGrid;
  /** Pictures so far. */
  readonly pushed: number;
  /** @param bytes 8-bit luma of the fine size, row-major without padding; not kept */
  push(bytes: Uint8Array): void;
  /**
   * PRODUCTS for each block of picture b and what lies dx, dy samples from there in picture a, within MARGIN; good until the next call. Both are
   * among the newest KEPT_HALVES.
   */
  products(a: number, b: number, dx: number, dy: number): Int32Array;
  /** Mean luma of the block that begins at a sample of a picture, in 8-bit steps. */
  levelAt(picture: number, x: number, y: number): number;
}

/** Sum of a block of halved samples as a mean in 8-bit steps. */
export function levelOf(samples: Int16Array, width: number, x: number, y: number): number {
  let sum = 0;
  for (let j = y; j < y + HALF_BLOCK; j++) for (let i = x; i < x + HALF_BLOCK; i++) sum += samples[j * width + i];
  return sum / (HALF_BLOCK * HALF_BLOCK * HALF * HALF);
}

/** What the kernels do, to be read. Tests hold both together. */
export class ReferenceHalves implements Halves {
  readonly grid: HalfGrid;
  pushed = 0;
  private readonly halved: Int16Array[] = [];
  private readonly details: Int16Array[] = [];

  constructor(
    private readonly fineWidth: number,
    fineHeight: number,
  ) {
    this.grid = halfGridOf(fineWidth, fineHeight);
  }

  push(bytes: Uint8Array): void {
    const { width, height } = this.grid;
    const at = this.pushed++ % KEPT_HALVES;
    const halved = Int16Array.from({ length: width * height }, (_, i) => {
      const fine = floor(i / width) * HALF * this.fineWidth + (i % width) * HALF;
      const below = fine + this.fineWidth;
      return bytes[fine] + bytes[fine + 1] + bytes[below] + bytes[below + 1];
    });
    this.halved[at] = halved;
    this.details[at] = halved.map((value, i) => {
      const [x, y] = [i % width, floor(i / width)];
      let [sum, count] = [0, 0];
      for (let j = max(0, y - AROUND_HALF); j <= min(height - 1, y + AROUND_HALF); j++)
        for (let k = max(0, x - AROUND_HALF); k <= min(width - 1, x + AROUND_HALF); k++) {
          sum += halved[j * width + k];
          count++;
        }
      return trunc((value * count - sum) / count);
    });
  }

  products(a: number, b: number, dx: number, dy: number): Int32Array {
    const { width, blocks } = this.grid;
    const [before, after] = [this.details[a % KEPT_HALVES] as Int16Array, this.details[b % KEPT_HALVES] as Int16Array];
    const out = new Int32Array(blocks.length * PRODUCTS);
    blocks.forEach(({ x, y }, n) => {
      let [aa, bb, ab] = [0, 0, 0];
      for (let j = y; j < y + HALF_BLOCK; j++)
        for (let i = x; i < x + HALF_BLOCK; i++) {
          const [p, q] = [before[(j + dy) * width + i + dx], after[j * width + i]];
          aa += p * p;
          bb += q * q;
          ab += p * q;
        }
      out.set([aa, bb, ab], n * PRODUCTS);
    });
    return out;
  }

  levelAt(picture: number, x: number, y: number): number {
    return levelOf(this.halved[picture % KEPT_HALVES] as Int16Array, this.grid.width, x, y);
  }
}
