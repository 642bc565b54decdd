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
  };
}

/**
 * Measures the change from a to b into `step`.
 * @param a, b luma, row-major, grid.width * grid.height, without padding; not written to. Floats on both scales: one kind of array keeps the loop fast
 * @returns mean square difference of the whole, light included, in squared 8-bit steps
 */
export function measureStep(a: Float32Array, b: Float32Array, grid: Grid, step: BlockStep): number {
  const { width, columns, rows } = grid;
  let total = 0;
  for (let row = 0; row < rows; row++) {
    const top = grid.tops[row] as number;
    const bottom = grid.bottoms[row] as number;
    for (let column = 0; column < columns; column++) {
      const left = grid.lefts[column] as number;
      const right = grid.rights[column] as number;
      let sd = 0;
      let sx = 0;
      let sy = 0;
      let dd = 0;
      let dx = 0;
      let dy = 0;
      let xx = 0;
      let xy = 0;
      let yy = 0;
      let fine = 0;
      for (let y = top; y < bottom; y++) {
        const line = y * width;
        let b0 = b[line + left - 1] as number;
        let b1 = b[line + left] as number;
        let a0 = a[line + left - 1] as number;
        let a1 = a[line + left] as number;
        for (let i = line + left, end = line + right; i < end; i++) {
          const b2 = b[i + 1] as number;
          const a2 = a[i + 1] as number;
          const d = b1 - a1;
          const gx = b2 - b0 + a2 - a0;
          const gy = (b[i + width] as number) - (b[i - width] as number) + (a[i + width] as number) - (a[i - width] as number);
          const f = 2 * b1 - b0 - b2;
          sd += d;
          sx += gx;
          sy += gy;
          dd += d * d;
          dx += d * gx;
          dy += d * gy;
          xx += gx * gx;
          xy += gx * gy;
          yy += gy * gy;
          fine += f * f;
          b0 = b1;
          b1 = b2;
          a0 = a1;
          a1 = a2;
        }
      }
      total += dd;
      const count = max(4, (bottom - top) * (right - left));
      dd -= (sd * sd) / count;
      dx = (dx - (sd * sx) / count) / 4;
      dy = (dy - (sd * sy) / count) / 4;
      xx = (xx - (sx * sx) / count) / 16;
      xy = (xy - (sx * sy) / count) / 16;
      yy = (yy - (sy * sy) / count) / 16;
      const determinant = xx * yy - xy * xy;
      const at = row * columns + column;
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
      step.detail[at] = fine / count;
    }
  }
  return total / (grid.width * grid.height);
}
