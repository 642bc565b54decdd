// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min } = Math;

/**
 * What changes from one small luma picture to the next, block by block.
 *
 * Noise and coding error differ from picture to picture without any tie to the picture's own slopes; motion changes a
 * picture along its slopes. For each block the difference d (without its mean, so that light may change) is fitted by
 * least squares with the gradients (gx, gy), one step of Lucas and Kanade (IJCAI 1981): `explained` is the energy the fit
 * takes away, the rest is noise. With noise alone explained / 2 is on average the noise variance whatever the texture (two
 * degrees of freedom); motion makes it larger, so pictures that hardly move but are new stand out of noise, and held
 * pictures with fresh noise do not.
 */

/** A block's side in samples. */
export const BLOCK = 16;

/** Noise that rounding to 8 bits leaves at the least. */
const ROUNDING = 1 / 24;

/** Sums a block: of difference d, slopes x and y, and dd, dx, dy, xx, xy, yy, ff, with f the second difference along lines. */
export const SUMS = 10;

/** Cuts a picture into blocks that tile it: about BLOCK on a side. */
export interface Grid {
  readonly width: number;
  readonly height: number;
  readonly columns: number;
  readonly rows: number;
  readonly blocks: number;
  /** First and last column (not included) of each column of blocks; the picture's outermost samples are left out. */
  readonly lefts: Int32Array;
  readonly rights: Int32Array;
  readonly tops: Int32Array;
  readonly bottoms: Int32Array;
}

export function gridOf(width: number, height: number, side = BLOCK): Grid {
  const columns = max(1, floor(width / side));
  const rows = max(1, floor(height / side));
  const edges = (count: number, length: number, last: 0 | 1): Int32Array =>
    Int32Array.from({ length: count }, (_, i) =>
      last ? min(length - 1, floor(((i + 1) * length) / count)) : max(1, floor((i * length) / count)),
    );
  return {
    width,
    height,
    columns,
    rows,
    blocks: columns * rows,
    lefts: edges(columns, width, 0),
    rights: edges(columns, width, 1),
    tops: edges(rows, height, 0),
    bottoms: edges(rows, height, 1),
  };
}

/** One change's measures; every array has one entry a block, row by row. */
export interface BlockStep {
  /** Mean square difference, its mean taken out, in squared 8-bit steps. */
  readonly energy: Float32Array;
  /** Noise variance of the difference: what the fit leaves, a sample. */
  readonly noise: Float32Array;
  /** Energy that motion explains, halved (a noise variance where there is no motion). */
  readonly explained: Float32Array;
  /** Displacement in samples; good while it is below about 2. */
  readonly u: Float32Array;
  readonly v: Float32Array;
  /** Sums of products of the gradients (in 8-bit steps a sample). */
  readonly xx: Float32Array;
  readonly xy: Float32Array;
  readonly yy: Float32Array;
  /** Mean square second difference of the later picture along lines: how much fine detail it has. */
  readonly detail: Float32Array;
  /** The middle block's noise, that of rounding to 8 bits at least. */
  middleNoise: number;
}

export function emptyStep(blocks: number): BlockStep {
  const one = (): Float32Array => new Float32Array(blocks);
  return {
    energy: one(),
    noise: one(),
    explained: one(),
    u: one(),
    v: one(),
    xx: one(),
    xy: one(),
    yy: one(),
    detail: one(),
    middleNoise: 0,
  };
}

/**
 * Fits each block's difference with its slopes.
 * @param sums as Steps.fine gives them, of samples `scale` times as large as 8-bit steps
 * @returns mean square difference of the whole, light included, in squared 8-bit steps
 */
export function fitStep(sums: Float64Array, grid: Grid, scale: number, step: BlockStep): number {
  // The slopes are sums of four differences over two samples each in two pictures: four times a difference a sample.
  const slope = 4 * scale;
  let total = 0;
  for (let row = 0; row < grid.rows; row++) {
    const height = grid.bottoms[row] - grid.tops[row];
    for (let column = 0; column < grid.columns; column++) {
      const count = max(4, height * (grid.rights[column] - grid.lefts[column]));
      const at = row * grid.columns + column;
      const own = at * SUMS;
      const sd = sums[own] / scale;
      const sx = sums[own + 1] / slope;
      const sy = sums[own + 2] / slope;
      const square = sums[own + 3] / (scale * scale);
      const dd = square - (sd * sd) / count;
      const dx = sums[own + 4] / (scale * slope) - (sd * sx) / count;
      const dy = sums[own + 5] / (scale * slope) - (sd * sy) / count;
      const xx = sums[own + 6] / (slope * slope) - (sx * sx) / count;
      const xy = sums[own + 7] / (slope * slope) - (sx * sy) / count;
      const yy = sums[own + 8] / (slope * slope) - (sy * sy) / count;
      total += square;
      const determinant = xx * yy - xy * xy;
      let u = 0;
      let v = 0;
      if (determinant > 1e-6 * xx * yy && determinant > 0) {
        u = (dx * yy - dy * xy) / determinant;
        v = (dy * xx - dx * xy) / determinant;
      }
      const taken = min(dd, max(0, u * dx + v * dy));
      step.energy[at] = dd / count;
      step.noise[at] = (dd - taken) / (count - 3);
      step.explained[at] = taken / 2;
      step.u[at] = u;
      step.v[at] = v;
      step.xx[at] = xx;
      step.xy[at] = xy;
      step.yy[at] = yy;
      step.detail[at] = sums[own + 9] / (scale * scale * count);
    }
  }
  const sorted = step.noise.slice().sort();
  step.middleNoise = max(sorted[sorted.length >> 1], ROUNDING);
  return total / (grid.width * grid.height);
}
