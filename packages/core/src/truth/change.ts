// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, hypot, max, min, round, sqrt } = Math;

/**
 * What changes from one small luma picture to the next, block by block.
 *
 * Noise and coding error differ from picture to picture without any tie to the picture's own slopes; motion changes a
 * picture along its slopes. For each block the difference d is fitted by least squares with the gradients (gx, gy), one
 * step of Lucas and Kanade (IJCAI 1981): `explained` is the energy the fit takes away, the rest is noise. With noise
 * alone explained / 2 is on average the noise variance whatever the texture (two degrees of freedom); motion makes it larger, so
 * pictures that hardly move but are new stand out of noise, and held pictures with fresh noise do not.
 */

/** Pictures are measured at about this width; heights follow the shape. */
export const CHECK_WIDTH = 256;
const BLOCK = 16;
/** Share of the blocks that counts: motion in a small part of the frame is motion. */
const TOP_SHARE = 0.1;
const COARSE = 4;
/** Least displacement (as Change.displacement) on both sides of a picture that is looked at as a mix. */
export const MIX_FROM = 0.5;

/** Change of one picture against the one before. */
export interface Change {
  /** Mean square difference over the most changed tenth of the blocks, in squared 8-bit steps. */
  readonly energy: number;
  /** Root mean square difference of the whole picture, in 8-bit steps: the trace a person sees. */
  readonly rms: number;
  /** Energy explained by motion against noise in the most explained tenth of the blocks; about 3 with noise alone. */
  readonly motionRatio: number;
  /**
   * This step's motion as a share of the motion around it in the same places, along the same direction: about 1 where
   * motion goes on, 0 in a held picture whatever its noise, 2 where a picture is missing. 1 where nothing can be told.
   */
  readonly coherence: number;
  /** Weighted mean displacement, in pixels of a picture CHECK_WIDTH / 4 wide; good to about 1.5. */
  readonly displacement: number;
  /** Share of a in the best mix a * before + (1 - a) * after, with what it leaves over (0 exact, 1 nothing explained or not looked at). */
  readonly mix: { readonly share: number; readonly left: number };
}

/** Size at which a picture is measured: CHECK_WIDTH wide at most, even, at least one block. */
export function checkSize(width: number, height: number): { width: number; height: number } {
  const scale = min(1, CHECK_WIDTH / width);
  const even = (n: number): number => max(BLOCK, round((n * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

/** Steps on each side that a step's motion is compared with. */
const AROUND = 8;

/** One step's displacement of each block (x, y in pixels) and the gradients it was found with, per block: u, v, xx, xy, yy. */
type Field = Float32Array;
const FIELD = 5;

/** Takes pictures in order and gives the change of each, the first excepted. Holds three pictures, whatever the length. */
export class ChangeMeter {
  private readonly fields: Field[] = [];
  private before: Uint8Array | null = null;
  private current: Uint8Array | null = null;
  private coarseBefore: Float32Array | null = null;
  private readonly explained: Float64Array;
  private readonly noise: Float64Array;
  private readonly energy: Float64Array;
  private readonly columns: number;
  private readonly rows: number;
  readonly changes: Change[] = [];

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.columns = max(1, floor(width / BLOCK));
    this.rows = max(1, floor(height / BLOCK));
    this.explained = new Float64Array(this.columns * this.rows);
    this.noise = new Float64Array(this.columns * this.rows);
    this.energy = new Float64Array(this.columns * this.rows);
  }

  /** @param picture 8-bit luma, width * height bytes without padding; kept, so not to be written to afterwards */
  push(picture: Uint8Array): void {
    const coarse = shrinkBy(picture, this.width, this.height, COARSE);
    if (this.current && this.coarseBefore) {
      const change = this.measure(this.current, picture);
      const displacement = coarseMotion(this.coarseBefore, coarse, floor(this.width / COARSE), floor(this.height / COARSE));
      this.changes.push({ ...change, coherence: 1, displacement, mix: { share: 0, left: 1 } });
      if (this.fields.length > 2 * AROUND) this.compare(this.changes.length - 1 - AROUND, AROUND);
      const last = this.changes[this.changes.length - 2];
      // Slower motion makes every picture nearly a mix of its neighbours: nothing could be told from it.
      if (this.before && last && min(last.displacement, displacement) > MIX_FROM) {
        this.changes[this.changes.length - 2] = { ...last, mix: bestMix(this.before, this.current, picture) };
      }
    }
    this.before = this.current;
    this.current = picture;
    this.coarseBefore = coarse;
  }

  /** To be called after the last picture: the last steps have fewer around them. */
  finish(): readonly Change[] {
    const last = this.changes.length - 1;
    // A clip shorter than one window was never compared on the way.
    const first = this.fields.length <= 2 * AROUND ? 0 : last - AROUND + 1;
    for (let k = first; k <= last; k++) this.compareOne(k, this.fields.length - 1 - (last - k));
    return this.changes;
  }

  /** Sets the coherence of change k, whose field stands at `at` of the fields kept. The first few are set with the first whole window. */
  private compare(k: number, at: number): void {
    if (at === AROUND && k === AROUND) for (let early = 0; early < AROUND; early++) this.compareOne(early, early);
    this.compareOne(k, at);
  }

  private compareOne(k: number, at: number): void {
    if (at < 0) return;
    this.changes[k] = { ...(this.changes[k] as Change), coherence: coherenceOf(this.fields, at) };
  }

  private measure(a: Uint8Array, b: Uint8Array): Pick<Change, 'energy' | 'rms' | 'motionRatio'> {
    const { width, height, columns, rows } = this;
    const spanX = width / columns;
    const spanY = height / rows;
    const field: Field = new Float32Array(columns * rows * FIELD);
    let total = 0;
    for (let row = 0; row < rows; row++) {
      const top = max(1, floor(row * spanY));
      const bottom = min(height - 1, floor((row + 1) * spanY));
      for (let column = 0; column < columns; column++) {
        const left = max(1, floor(column * spanX));
        const right = min(width - 1, floor((column + 1) * spanX));
        let dd = 0;
        let dx = 0;
        let dy = 0;
        let xx = 0;
        let xy = 0;
        let yy = 0;
        for (let y = top; y < bottom; y++) {
          const line = y * width;
          for (let x = left; x < right; x++) {
            const i = line + x;
            const d = (b[i] as number) - (a[i] as number);
            const gx = (b[i + 1] as number) - (b[i - 1] as number) + (a[i + 1] as number) - (a[i - 1] as number);
            const gy = (b[i + width] as number) - (b[i - width] as number) + (a[i + width] as number) - (a[i - width] as number);
            dd += d * d;
            dx += d * gx;
            dy += d * gy;
            xx += gx * gx;
            xy += gx * gy;
            yy += gy * gy;
          }
        }
        const count = max(3, (bottom - top) * (right - left));
        const determinant = xx * yy - xy * xy;
        const taken =
          determinant > 1e-6 * xx * yy && determinant > 0 ? (dx * dx * yy - 2 * dx * dy * xy + dy * dy * xx) / determinant : 0;
        const at = row * columns + column;
        const step = field.subarray(at * FIELD, at * FIELD + FIELD);
        if (taken > 0) {
          step[0] = ((dx * yy - dy * xy) / determinant) * 4;
          step[1] = ((dy * xx - dx * xy) / determinant) * 4;
        }
        step[2] = xx;
        step[3] = xy;
        step[4] = yy;
        this.explained[at] = min(dd, taken) / 2;
        this.noise[at] = max(0, dd - taken) / (count - 2);
        this.energy[at] = dd / count;
        total += dd;
      }
    }
    this.fields.push(field);
    if (this.fields.length > 2 * AROUND + 1) this.fields.shift();
    const typicalNoise = quantile(this.noise, 0.5);
    // Rounding to 8 bits in both pictures: never call less than that noise.
    const leastNoise = max(typicalNoise, 1 / 24);
    return {
      energy: topMean(this.energy),
      rms: sqrt(total / (width * height)),
      motionRatio: topMean(this.explained) / leastNoise,
    };
  }
}

/** The larger of what the steps before and after say: a burst of motion on one side does not hide what goes on on the other. */
function coherenceOf(fields: readonly Field[], at: number): number {
  const sides = [fields.slice(0, at), fields.slice(at + 1)].filter((side) => side.length >= 2);
  if (sides.length === 0) return 1;
  return max(...sides.map((side) => shareOfMotion(fields[at] as Field, side)));
}

/** Blocks that move in the steps beside, weighed by how much their motion explains; the 70th percentile of their shares. */
function shareOfMotion(own: Field, beside: readonly Field[]): number {
  const blocks = own.length / FIELD;
  const shares: { share: number; weight: number }[] = [];
  let weights = 0;
  for (let b = 0; b < blocks; b++) {
    const i = b * FIELD;
    let u = 0;
    let v = 0;
    for (const other of beside) {
      u += (other[i] as number) / beside.length;
      v += (other[i + 1] as number) / beside.length;
    }
    const pull = u * u * (own[i + 2] as number) + 2 * u * v * (own[i + 3] as number) + v * v * (own[i + 4] as number);
    if (!(pull > 0)) continue;
    // Least squares along the common direction, in the metric of the block's own slopes: flat directions do not vote.
    const mine = (own[i] as number) * (u * (own[i + 2] as number) + v * (own[i + 3] as number));
    const share = (mine + (own[i + 1] as number) * (u * (own[i + 3] as number) + v * (own[i + 4] as number))) / pull;
    const weight = sqrt(pull);
    shares.push({ share, weight });
    weights += weight;
  }
  if (weights === 0) return 1;
  shares.sort((a, b) => a.share - b.share);
  let sum = 0;
  for (const { share, weight } of shares) {
    sum += weight;
    if (sum >= weights * 0.7) return share;
  }
  return 1;
}

function topMean(values: Float64Array): number {
  const sorted = Float64Array.from(values).sort();
  const count = max(1, round(sorted.length * TOP_SHARE));
  let sum = 0;
  for (let i = sorted.length - count; i < sorted.length; i++) sum += sorted[i] as number;
  return sum / count;
}

function quantile(values: Float64Array, q: number): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[min(sorted.length - 1, floor(sorted.length * q))] as number;
}

/** Area average by a whole factor; the rest at the right and bottom is left out. */
function shrinkBy(picture: Uint8Array, width: number, height: number, factor: number): Float32Array {
  const w = floor(width / factor);
  const h = floor(height / factor);
  const out = new Float32Array(w * h);
  const share = 1 / (factor * factor);
  for (let j = 0; j < h; j++) {
    for (let i = 0; i < w; i++) {
      let sum = 0;
      for (let y = j * factor; y < (j + 1) * factor; y++) {
        const line = y * width + i * factor;
        for (let x = line; x < line + factor; x++) sum += picture[x] as number;
      }
      out[j * w + i] = sum * share;
    }
  }
  return out;
}

/** One least-squares displacement a block of 8x8, averaged with the weight of what it explains. */
function coarseMotion(a: Float32Array, b: Float32Array, width: number, height: number): number {
  const size = 8;
  let weighted = 0;
  let weights = 0;
  for (let top = 1; top + size < height; top += size) {
    for (let left = 1; left + size < width; left += size) {
      let dx = 0;
      let dy = 0;
      let xx = 1e-3;
      let xy = 0;
      let yy = 1e-3;
      for (let y = top; y < top + size; y++) {
        for (let x = left; x < left + size; x++) {
          const i = y * width + x;
          const d = (b[i] as number) - (a[i] as number);
          const gx = ((b[i + 1] as number) - (b[i - 1] as number) + (a[i + 1] as number) - (a[i - 1] as number)) / 4;
          const gy =
            ((b[i + width] as number) - (b[i - width] as number) + (a[i + width] as number) - (a[i - width] as number)) / 4;
          dx += d * gx;
          dy += d * gy;
          xx += gx * gx;
          xy += gx * gy;
          yy += gy * gy;
        }
      }
      const determinant = xx * yy - xy * xy;
      if (determinant <= 1e-6 * xx * yy) continue;
      const u = (dx * yy - dy * xy) / determinant;
      const v = (dy * xx - dx * xy) / determinant;
      const weight = max(0, u * dx + v * dy);
      weighted += weight * hypot(u, v);
      weights += weight;
    }
  }
  return weights > 0 ? weighted / weights : 0;
}

/** How well the middle picture is a weighted mean of its neighbours; left over is relative to their difference. */
function bestMix(before: Uint8Array, middle: Uint8Array, after: Uint8Array): { share: number; left: number } {
  let cross = 0;
  let span = 0;
  let own = 0;
  for (let i = 0; i < middle.length; i++) {
    const e = (before[i] as number) - (after[i] as number);
    const d = (middle[i] as number) - (after[i] as number);
    cross += d * e;
    span += e * e;
    own += d * d;
  }
  if (span === 0) return { share: 0, left: 1 };
  const share = min(1, max(0, cross / span));
  return { share, left: max(0, own - 2 * share * cross + share * share * span) / span };
}
