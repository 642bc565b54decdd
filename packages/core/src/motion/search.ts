import { between, PAD, type Plane, weight15 } from './plane.js';

const { abs, ceil, floor, max, min } = Math;

/** Patches are squares of this side, every STEP samples, in samples of their level. */
export const SIDE = 8;
export const STEP = 4;
const ITERATIONS = 4;
/** Added to the slopes' squares: where there is no detail, vectors stay where they began. */
const DAMPING = 2.56;
/** And this share of them: along a line or an edge, where next to nothing holds a vector, it stays where it began, too, there and back alike. */
const STIFF = 0.02;
/** A step shorter than this, across and down together, is taken on trust. */
const TRUSTED = 0.08;
/** What a common vector costs more than one of the neighbourhood, as a sum of squared differences. */
const STRANGER = 64;
/** A candidate with less than this sum of squared differences (4 a sample) is good enough to go down from. */
const GOOD = 256;
/** A sum of squared differences (16 a sample) that wants to be explained, where it is a quarter of the slopes' squares, too. */
const UNEXPLAINED = 1024;
/** What is found far away is taken where it leaves less than this share. */
const FOUND = 0.25;

/**
 * How far a level's patches that nothing explains are looked for, in its samples: at the coarsest as good as everywhere, since what
 * is not found there by going down from where it stood is found at no finer one; and 64 pixels at one finer level. Small pictures
 * have no level so coarse that what moved is told from what merely looks like it.
 */
export const farAt = (level: number, coarsest: number): number => (level === coarsest && level > 2 ? 32 : level === 2 ? 16 : 0);
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
  /** Mean squared slope: how well a patch can be located. */
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
export function searchPatches(
  a: Plane,
  b: Plane,
  { before, commons, far = 0 }: { readonly before: Patches | null; readonly commons: readonly Vector[]; readonly far?: number },
): Patches {
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
  // A picture in which much is unexplained is none of small things; at the coarsest level it may have moved far.
  let searches = far === 0 ? 0 : before ? n >> 4 : n;
  const laid: Laid = { errors: 0, alongX: 0, alongY: 0 };
  const sums = { x: 0, y: 0 };

  function lay(x: number, y: number): void {
    const cx = max(1 - PAD, min(b.width + PAD - SIDE - 9, x));
    const cy = max(1 - PAD, min(b.height + PAD - SIDE - 2, y));
    const [ix, iy] = [floor(cx), floor(cy)];
    const [fx, fy] = [weight15(cx - ix), weight15(cy - iy)];
    let [d, dd, dx, dy] = [0, 0, 0, 0];
    for (let k = 0; k < SIDE * SIDE; k++) {
      const diff = between(b, ix + (k & 7), iy + (k >> 3), fx, fy) - template[k];
      d += diff;
      dd += diff * diff;
      dx += diff * gx[k];
      dy += diff * gy[k];
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
        const [sx, sy] = [a.data[i + 1] - a.data[i - 1], a.data[i + a.stride] - a.data[i - a.stride]];
        template[k] = a.data[i] << 4;
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
      const damping = DAMPING + STIFF * (xx + yy);
      const det = (xx + damping) * (yy + damping) - xy * xy;
      const descend = (): void => {
        const [fromU, fromV] = [bestU, bestV];
        for (let i = 0; i < ITERATIONS; i++) {
          const du = ((yy + damping) * down.alongX - xy * down.alongY) / det;
          const dv = ((xx + damping) * down.alongY - xy * down.alongX) / det;
          const [cu, cv] = [bestU - du, bestV - dv];
          if (abs(du) + abs(dv) < TRUSTED) {
            [bestU, bestV] = [cu, cv];
            return;
          }
          if (abs(cu - fromU) > SIDE || abs(cv - fromV) > SIDE) return;
          lay(x0 + cu, y0 + cv);
          if (laid.errors >= best) return;
          [best, bestU, bestV] = [laid.errors, cu, cv];
          down = { ...laid };
        }
      };
      best = down.errors;
      descend();
      // What nothing explains is looked for all around, once: small things that go their own way.
      if (searches > 0 && best >= UNEXPLAINED && best >= 0.25 * (xx + yy)) {
        searches--;
        const was = [best, bestU, bestV] as const;
        let nearest = Number.POSITIVE_INFINITY;
        const look = (fromU: number, toU: number, fromV: number, toV: number, by: number): void => {
          for (let fv = max(fromV, -y0); fv <= min(toV, a.height - SIDE - y0); fv += by) {
            for (let fu = max(fromU, -x0); fu <= min(toU, a.width - SIDE - x0); fu += by) {
              lay(x0 + fu, y0 + fv);
              if (ceil(laid.errors) >= nearest) continue;
              nearest = ceil(laid.errors);
              best = laid.errors;
              [bestU, bestV] = [fu, fv];
              down = { ...laid };
            }
          }
        };
        look(-far, far, -far, far, 2);
        look(bestU - 1, bestU + 1, bestV - 1, bestV + 1, 1);
        descend();
        if (best > FOUND * was[0]) [best, bestU, bestV] = was;
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
      yield [2 * before.u[i], 2 * before.v[i], 0];
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
    yield [out.u[i], out.v[i], 0];
  }
  for (const [u, v] of commons) yield [u, v, STRANGER];
}

/** The vectors most patches with detail and a good match have, a pixel and a half apart at least, in samples of the next finer level. */
export function commonVectors({ u, v, err, detail }: Pick<Patches, 'u' | 'v' | 'err' | 'detail'>): Vector[] {
  const bins = new Map<number, { count: number; u: number; v: number }>();
  for (let i = 0; i < u.length; i++) {
    const [cu, cv] = [u[i], v[i]];
    if (detail[i] < 4 || err[i] > 0.3 * detail[i] + 4) continue;
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
