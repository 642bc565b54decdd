import { between, PAD, type Plane, weight15 } from './plane.js';

const { abs, floor, max, min } = Math;

/** Patches are squares of this side, every STEP samples, in samples of their level. */
export const SIDE = 8;
export const STEP = 4;
const ITERATIONS = 6;
/** Added to the slopes' squares: where there is no detail, vectors stay where they began. */
const DAMPING = 2.56;
/** What a common vector costs more than one of the neighbourhood, as a sum of squared differences. */
const STRANGER = 64;
/** A candidate with less than this sum of squared differences (4 a sample) is good enough to go down from. */
const GOOD = 256;
/** A sum of squared differences (16 a sample) that wants to be explained, where it is a quarter of the slopes' squares, too. */
const UNEXPLAINED = 1024;

/** How far a level's patches that nothing explains are looked for, in its samples: at one level, 64 pixels. */
export const farAt = (level: number): number => (level === 2 ? 16 : 0);
/** How many common vectors of a level are tried at the next one. */
export const COMMONS = 5;

/** Vectors of the patches of one level, row by row; u across, v down, in samples of that level, from the first picture to the second. */
export interface Patches {
  readonly columns: number;
  readonly rows: number;
  readonly u: Float32Array;
  readonly v: Float32Array;
  /** Mean squared difference that is left, without the difference of the means. */
  readonly err: Float32Array;
  /** Mean squared slope: what there is to hold on to. */
  readonly detail: Float32Array;
}

export type Vector = readonly [number, number];

export const patchesAlong = (length: number): number => max(1, Math.ceil((length - SIDE) / STEP) + 1);

/** Where the patch of a column or row begins: the last one ends with the picture. */
export const patchStart = (k: number, length: number): number => max(0, min(length - SIDE, k * STEP));

interface Laid {
  errors: number;
  alongX: number;
  alongY: number;
}

/**
 * Vectors of patches by inverse search (Kroeger, Timofte, Dai and Van Gool 2016, "Fast optical flow using dense inverse
 * search"): each patch begins at the best of several candidates (the coarser level's vectors around it, those of
 * neighbours that stand already, and vectors that many patches of the coarser level have, so that small things find the
 * motion of large ones they belong to), then goes down the slope of the squared difference without its mean, so that light may change.
 */
export function searchPatches(a: Plane, b: Plane, before: Patches | null, commons: readonly Vector[], far = 0): Patches {
  const columns = patchesAlong(a.width);
  const rows = patchesAlong(a.height);
  const n = columns * rows;
  const out = {
    columns,
    rows,
    u: new Float32Array(n),
    v: new Float32Array(n),
    err: new Float32Array(n),
    detail: new Float32Array(n),
  };
  const template = new Int32Array(SIDE * SIDE);
  const gx = new Int32Array(SIDE * SIDE);
  const gy = new Int32Array(SIDE * SIDE);
  // A picture in which much is unexplained is none of small things.
  let searches = far > 0 ? n >> 4 : 0;
  const laid: Laid = { errors: 0, alongX: 0, alongY: 0 };
  const sums = { x: 0, y: 0 };

  function lay(x: number, y: number): void {
    const cx = max(1 - PAD, min(b.width + PAD - SIDE - 9, x));
    const cy = max(1 - PAD, min(b.height + PAD - SIDE - 2, y));
    const [ix, iy] = [floor(cx), floor(cy)];
    const [fx, fy] = [weight15(cx - ix), weight15(cy - iy)];
    let [d, dd, dx, dy] = [0, 0, 0, 0];
    for (let k = 0; k < SIDE * SIDE; k++) {
      const diff = between(b, ix + (k & 7), iy + (k >> 3), fx, fy) - (template[k] as number);
      d += diff;
      dd += diff * diff;
      dx += diff * (gx[k] as number);
      dy += diff * (gy[k] as number);
    }
    laid.errors = (dd - (d * d) / 64) / 256;
    laid.alongX = (dx - (d * sums.x) / 64) / 32;
    laid.alongY = (dy - (d * sums.y) / 64) / 32;
  }

  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const x0 = patchStart(c, a.width);
      const y0 = patchStart(r, a.height);
      let [xx, xy, yy] = [0, 0, 0];
      sums.x = 0;
      sums.y = 0;
      for (let k = 0; k < SIDE * SIDE; k++) {
        const i = a.at + (y0 + (k >> 3)) * a.stride + x0 + (k & 7);
        const [sx, sy] = [
          (a.data[i + 1] as number) - (a.data[i - 1] as number),
          (a.data[i + a.stride] as number) - (a.data[i - a.stride] as number),
        ];
        template[k] = (a.data[i] as number) << 4;
        gx[k] = sx;
        gy[k] = sy;
        sums.x += sx;
        sums.y += sy;
        xx += sx * sx;
        xy += sx * sy;
        yy += sy * sy;
      }
      xx = (xx - (sums.x * sums.x) / 64) / 4;
      xy = (xy - (sums.x * sums.y) / 64) / 4;
      yy = (yy - (sums.y * sums.y) / 64) / 4;
      let [best, bestU, bestV] = [Number.POSITIVE_INFINITY, 0, 0];
      let down = laid;
      const tried: Vector[] = [];
      for (const [cu, cv, price] of candidates(out, before, commons, c, r, x0, y0)) {
        if (tried.some(([tu, tv]) => abs(tu - cu) < 0.5 && abs(tv - cv) < 0.5)) continue;
        tried.push([cu, cv]);
        lay(x0 + cu, y0 + cv);
        if (laid.errors + price >= best) continue;
        [best, bestU, bestV] = [laid.errors + price, cu, cv];
        down = { ...laid };
        if (best < GOOD) break;
      }
      const det = (xx + DAMPING) * (yy + DAMPING) - xy * xy;
      let [fromU, fromV] = [bestU, bestV];
      for (const round of [0, 1]) {
        let [cu, cv] = [bestU, bestV];
        best = down.errors;
        for (let i = 0; i < ITERATIONS; i++) {
          const du = ((yy + DAMPING) * down.alongX - xy * down.alongY) / det;
          const dv = ((xx + DAMPING) * down.alongY - xy * down.alongX) / det;
          cu -= du;
          cv -= dv;
          if (abs(cu - fromU) > SIDE || abs(cv - fromV) > SIDE) break;
          lay(x0 + cu, y0 + cv);
          if (laid.errors >= best) break;
          [best, bestU, bestV] = [laid.errors, cu, cv];
          down = { ...laid };
          if (abs(du) + abs(dv) < 0.02) break;
        }
        // What nothing explains is looked for all around, once: small things that go their own way.
        if (round === 1 || searches === 0 || best < UNEXPLAINED || best < 0.25 * (xx + yy)) break;
        searches--;
        let least = 0.25 * best;
        let found = false;
        for (let fv = -far; fv <= far; fv += 2) {
          if (y0 + fv < 0 || y0 + fv > a.height - SIDE) continue;
          for (let fu = -far; fu <= far; fu += 2) {
            if (x0 + fu < 0 || x0 + fu > a.width - SIDE) continue;
            lay(x0 + fu, y0 + fv);
            if (laid.errors >= least) continue;
            least = laid.errors;
            found = true;
            [fromU, fromV] = [fu, fv];
            down = { ...laid };
          }
        }
        if (!found) break;
        [bestU, bestV] = [fromU, fromV];
      }
      const own = r * columns + c;
      out.u[own] = bestU;
      out.v[own] = bestV;
      out.err[own] = best / 64;
      out.detail[own] = (xx + yy) / 64;
    }
  }
  return out;
}

/** Vectors to begin with and what each costs more. */
function* candidates(
  out: Patches,
  before: Patches | null,
  commons: readonly Vector[],
  c: number,
  r: number,
  x0: number,
  y0: number,
): Generator<readonly [number, number, number]> {
  if (before) {
    for (const [dx, dy] of [
      [0, 0],
      [-1, 0],
      [1, 0],
      [0, -1],
      [0, 1],
    ] as const) {
      const x = min(before.columns - 1, (x0 + 4) >> 3) + dx;
      const y = min(before.rows - 1, (y0 + 4) >> 3) + dy;
      if (x < 0 || y < 0 || x >= before.columns || y >= before.rows) continue;
      const i = y * before.columns + x;
      yield [2 * (before.u[i] as number), 2 * (before.v[i] as number), 0];
    }
  } else yield [0, 0, 0];
  for (const [dx, dy] of [
    [-1, 0],
    [0, -1],
    [1, -1],
    [-1, -1],
  ] as const) {
    const [x, y] = [c + dx, r + dy];
    if (x < 0 || y < 0 || x >= out.columns) continue;
    const i = y * out.columns + x;
    yield [out.u[i] as number, out.v[i] as number, 0];
  }
  for (const [u, v] of commons) yield [u, v, STRANGER];
}

/** The vectors most patches with detail and a good match have, a pixel and a half apart at least, in samples of the next finer level. */
export function commonVectors({ u, v, err, detail }: Pick<Patches, 'u' | 'v' | 'err' | 'detail'>): Vector[] {
  const bins = new Map<number, { count: number; u: number; v: number }>();
  for (let i = 0; i < u.length; i++) {
    const [cu, cv] = [u[i] as number, v[i] as number];
    if ((detail[i] as number) < 4 || (err[i] as number) > 0.3 * (detail[i] as number) + 4) continue;
    const key = Math.round(cu) * 65536 + Math.round(cv);
    const bin = bins.get(key) ?? { count: 0, u: 0, v: 0 };
    bin.count++;
    bin.u += cu;
    bin.v += cv;
    bins.set(key, bin);
  }
  const found: Vector[] = [];
  for (const bin of [...bins.values()].sort((a, b) => b.count - a.count)) {
    if (found.length === COMMONS || bin.count < u.length * 0.003) break;
    const [cu, cv] = [(2 * bin.u) / bin.count, (2 * bin.v) / bin.count];
    if (found.every(([fu, fv]) => abs(fu - cu) + abs(fv - cv) >= 3)) found.push([cu, cv]);
  }
  return found;
}
