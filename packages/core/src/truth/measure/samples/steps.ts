import { type Grid, SUMS } from './blocks.js';

/** A coarse sample is the sum of COARSE x COARSE fine ones. */
export const COARSE = 4;

/**
 * The loops over samples of a check: takes small luma pictures in order and keeps the newest three. All sums are of whole
 * numbers and exact; what is returned is good until the next call of the same method.
 *
 * With a the picture before and b the newest, at every sample: d = b − a, x and y the sum of both pictures' differences of
 * right and left (lower and upper) neighbours, f = 2 b − left − right of b.
 */
export interface Steps {
  /** @param bytes 8-bit luma, row-major, width * height of the fine grid, without padding; not kept */
  push(bytes: Uint8Array): void;
  /** SUMS for each block of the fine grid, row by row, between the newest two pictures. */
  fine(): Float64Array;
  /** The same on the coarse grid, of samples COARSE * COARSE times as large. */
  coarse(): Float64Array;
  /** With b, m, n the newest three in order: the sums of (m − n)(b − n), (b − n)² and (m − n)² over all samples. */
  mix(): Float64Array;
}

/** What the kernels do, to be read. Tests hold both together. */
export class ReferenceSteps implements Steps {
  private readonly pictures: Int16Array[];
  private readonly coarsePictures: Int16Array[];

  constructor(
    private readonly grid: Grid,
    private readonly coarseGrid: Grid,
  ) {
    this.pictures = [0, 1, 2].map(() => new Int16Array(grid.width * grid.height));
    this.coarsePictures = [0, 1].map(() => new Int16Array(coarseGrid.width * coarseGrid.height));
  }

  push(bytes: Uint8Array): void {
    const fine = this.pictures.shift() as Int16Array;
    const coarse = this.coarsePictures.shift() as Int16Array;
    fine.set(bytes);
    shrink(fine, this.grid.width, coarse, this.coarseGrid);
    this.pictures.push(fine);
    this.coarsePictures.push(coarse);
  }

  fine(): Float64Array {
    return stepSums(this.pictures[1] as Int16Array, this.pictures[2] as Int16Array, this.grid);
  }

  coarse(): Float64Array {
    return stepSums(this.coarsePictures[0] as Int16Array, this.coarsePictures[1] as Int16Array, this.coarseGrid);
  }

  mix(): Float64Array {
    const [before, middle, next] = this.pictures as [Int16Array, Int16Array, Int16Array];
    let [cross, span, own] = [0, 0, 0];
    for (let i = 0; i < middle.length; i++) {
      const e = before[i] - next[i];
      const d = middle[i] - next[i];
      cross += d * e;
      span += e * e;
      own += d * d;
    }
    return Float64Array.of(cross, span, own);
  }
}

/** The rest at the right and bottom is left out. */
function shrink(picture: Int16Array, width: number, out: Int16Array, { width: w, height: h }: Grid): void {
  for (let j = 0; j < h; j++) {
    for (let i = 0; i < w; i++) {
      let sum = 0;
      for (let y = j * COARSE; y < (j + 1) * COARSE; y++) {
        for (let x = i * COARSE; x < (i + 1) * COARSE; x++) sum += picture[y * width + x];
      }
      out[j * w + i] = sum;
    }
  }
}

function stepSums(a: Int16Array, b: Int16Array, grid: Grid): Float64Array {
  const { width, columns, rows } = grid;
  const sums = new Float64Array(grid.blocks * SUMS);
  const at = (picture: Int16Array, i: number): number => picture[i];
  for (let block = 0; block < columns * rows; block++) {
    const column = block % columns;
    const row = (block - column) / columns;
    const own = sums.subarray(block * SUMS, (block + 1) * SUMS);
    for (let j = grid.tops[row]; j < grid.bottoms[row]; j++) {
      for (let i = j * width + grid.lefts[column]; i < j * width + grid.rights[column]; i++) {
        const d = at(b, i) - at(a, i);
        const x = at(b, i + 1) - at(b, i - 1) + at(a, i + 1) - at(a, i - 1);
        const y = at(b, i + width) - at(b, i - width) + at(a, i + width) - at(a, i - width);
        const f = 2 * at(b, i) - at(b, i - 1) - at(b, i + 1);
        for (const [k, value] of [d, x, y, d * d, d * x, d * y, x * x, x * y, y * y, f * f].entries()) {
          own[k] = own[k] + value;
        }
      }
    }
  }
  return sums;
}
