/** How the whole picture moves from one picture to the next, in shares of its width and height: right and down are positive. */
export interface Shift {
  readonly x: number;
  readonly y: number;
}

/**
 * What moves by more than this share of the frame from one shown frame to the next strobes, however even its steps: a width in 7 s at 24, in
 * 5.6 s at 30, in 2.8 s at 60.
 */
export const CALM_SHARE = 1 / (7 * 24);

/** Seconds in which a point may cross the frame at the least, at so many shown frames a second. */
export function calmSeconds(framesPerSecond: number): number {
  return 1 / (CALM_SHARE * framesPerSecond);
}

/** Differences count up to here: what moves by itself, or comes in at an edge, does not steer the whole. */
const CAP = 24;
/** Furthest shift that is looked for, in shares of the short side of the coarsest level. */
const REACH = 0.45;
/** Coarsest level: as small as that, so that all shifts can be tried. */
const COARSEST = 40;
/** Most refinements of a shift, and the step in samples below which it has converged. */
const REFINED = 12;
const FINE = 0.0005;
/** Differences are weighed by Tukey's biweight: none beyond so many medians, which are seven standard deviations of noise; at least so many steps. */
const BEYOND = 4.7 * 1.4826;
const LEAST_OFF = 2;
/** Bins that differences are counted in, for a step. */
const BINS = 8;

interface Level {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/**
 * The shift of a camera between two pictures: the one that leaves least between them, capped differences over the overlap; all shifts on the
 * smallest level, then two steps either way on each finer one, and from there to a fraction of a sample by gradients (see refined).
 * @param a luma, width * height; a few hundred samples wide are enough
 */
export function panBetween(a: Uint8Array, b: Uint8Array, width: number, height: number): Shift {
  const [first, second] = [levelsFrom(a, width, height), levelsFrom(b, width, height)];
  let [x, y] = [0, 0];
  for (let level = first.length - 1; level >= 0; level--) {
    const [p, q] = [first[level] as Level, second[level] as Level];
    const coarsest = level === first.length - 1;
    const reachX = coarsest ? Math.floor(p.width * REACH) : 2;
    const reachY = coarsest ? Math.floor(p.height * REACH) : 2;
    const [fromX, fromY] = coarsest ? [0, 0] : [x * 2, y * 2];
    let least = Number.POSITIVE_INFINITY;
    for (let dy = fromY - reachY; dy <= fromY + reachY; dy++) {
      for (let dx = fromX - reachX; dx <= fromX + reachX; dx++) {
        // Of equally good shifts the smaller, so that an empty picture does not move.
        const cost = differenceAt(p, q, dx, dy) + 1e-6 * (Math.abs(dx) + Math.abs(dy));
        if (cost < least) [least, x, y] = [cost, dx, dy];
      }
    }
  }
  const [p, q] = [first[0] as Level, second[0] as Level];
  const fine = refined(p, q, x, y);
  return { x: fine.x / width, y: fine.y / height };
}

/**
 * A whole shift to a fraction of a sample, by steps along the gradients of both pictures' mean (Lucas and Kanade 1981, "An iterative image
 * registration technique"), weighed by how far off each sample is (Tukey). Where the steps end, noise of either picture weighs alike on both sides: the shift is pulled nowhere, not even to
 * whole samples as costs of whole shifts are.
 */
function refined(a: Level, b: Level, x: number, y: number): { readonly x: number; readonly y: number } {
  const [p, q] = [smoothed(a), smoothed(b)];
  const { width, height } = a;
  let [u, v] = [x, y];
  // Differences above it are no part of the whole; it falls to what noise leaves.
  let most = CAP;
  const counts = new Uint32Array(CAP * BINS + 1);
  for (let step = 0; step < REFINED; step++) {
    const [wholeX, wholeY] = [Math.floor(u), Math.floor(v)];
    const [partX, partY] = [u - wholeX, v - wholeY];
    const moved = (i: number): number => {
      const top = q[i] + (q[i + 1] - q[i]) * partX;
      const under = q[i + width] + (q[i + width + 1] - q[i + width]) * partX;
      return top + (under - top) * partY;
    };
    const [left, right] = [Math.max(1, 1 - wholeX), Math.min(width - 1, width - wholeX - 2)];
    const [up, down] = [Math.max(1, 1 - wholeY), Math.min(height - 1, height - wholeY - 2)];
    let [xx, xy, yy, bx, by, n] = [0, 0, 0, 0, 0, 0];
    counts.fill(0);
    for (let row = up; row < down; row++) {
      for (let column = left; column < right; column++) {
        const i = row * width + column;
        const j = (row + wholeY) * width + column + wholeX;
        const off = p[i] - moved(j);
        const size = Math.abs(off);
        const bin = Math.min(counts.length - 1, Math.floor(size * BINS));
        counts[bin] = counts[bin] + 1;
        // What moves by itself does not steer the whole.
        if (size >= most) continue;
        const weight = (1 - (off / most) ** 2) ** 2;
        const gx = (p[i + 1] - p[i - 1] + moved(j + 1) - moved(j - 1)) / 4;
        const gy = (p[i + width] - p[i - width] + moved(j + width) - moved(j - width)) / 4;
        xx += weight * gx * gx;
        xy += weight * gx * gy;
        yy += weight * gy * gy;
        bx += weight * gx * off;
        by += weight * gy * off;
        n++;
      }
    }
    const area = xx * yy - xy * xy;
    // With nothing in it, or lines one way alone, a picture does not say how far it moved.
    if (n === 0 || area <= 1e-6 * (xx + yy) * (xx + yy)) break;
    const [dx, dy] = [(yy * bx - xy * by) / area, (xx * by - xy * bx) / area];
    if (!(Math.abs(dx) < 2 && Math.abs(dy) < 2)) break;
    u += dx;
    v += dy;
    if (Math.abs(u - x) > 2 || Math.abs(v - y) > 2) return { x, y };
    if (step > 2 && Math.abs(dx) < FINE && Math.abs(dy) < FINE) break;
    most = Math.max(LEAST_OFF, Math.min(CAP, BEYOND * medianOf(counts)));
  }
  return { x: u, y: v };
}

/** The median of differences counted in BINS a step. */
function medianOf(counts: Uint32Array): number {
  let left = counts.reduce((sum, n) => sum + n, 0) / 2;
  for (let bin = 0; bin < counts.length; bin++) {
    left -= counts[bin];
    if (left <= 0) return (bin + 0.5) / BINS;
  }
  return CAP;
}

/** A level with its finest noise taken off: weights 1 2 1 both ways. Its border stays as it is. */
function smoothed({ data, width, height }: Level): Float32Array {
  const out = Float32Array.from(data);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const row = (k: number): number => data[k - 1] + 2 * data[k] + data[k + 1];
      out[i] = (row(i - width) + 2 * row(i) + row(i + width)) / 16;
    }
  return out;
}

function levelsFrom(data: Uint8Array, width: number, height: number): Level[] {
  const levels: Level[] = [{ data, width, height }];
  for (let last = levels[0] as Level; last.width > COARSEST; last = levels.at(-1) as Level) {
    const [w, h] = [last.width >> 1, Math.max(1, last.height >> 1)];
    const half = new Uint8Array(w * h);
    const down = last.height > 1 ? last.width : 0;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const at = 2 * y * down + 2 * x;
        const { data: d } = last;
        half[y * w + x] = (d[at] + d[at + 1] + d[at + down] + d[at + down + 1] + 2) >> 2;
      }
    levels.push({ data: half, width: w, height: h });
  }
  return levels;
}

/** Mean capped difference between a's samples and b's that lie dx, dy further. */
function differenceAt(a: Level, b: Level, dx: number, dy: number): number {
  const { width, height } = a;
  const [left, right] = [Math.max(0, -dx), Math.min(width, width - dx)];
  const [top, bottom] = [Math.max(0, -dy), Math.min(height, height - dy)];
  if (right <= left || bottom <= top) return Number.POSITIVE_INFINITY;
  let sum = 0;
  for (let y = top; y < bottom; y++) {
    const row = y * width;
    const other = (y + dy) * width + dx;
    for (let x = left; x < right; x++) {
      const off = Math.abs(a.data[row + x] - b.data[other + x]);
      sum += Math.min(off, CAP);
    }
  }
  return sum / ((right - left) * (bottom - top));
}

/** Seconds in which a point crosses the frame when it goes on moving so; infinite when it stands. */
export function crossingSeconds({ x, y }: Shift, picturesPerSecond: number): number {
  return 1 / (Math.max(Math.abs(x), Math.abs(y)) * picturesPerSecond);
}

/** A pan that is quicker than calm: pictures `from` to `to` (not included), and the crossing time where it is quickest. */
export interface QuickPan {
  readonly from: number;
  readonly to: number;
  readonly seconds: number;
}

/**
 * Stretches of at least a quarter of a second in which a point moves by more than CALM_SHARE a step. Shifts are averaged over a
 * quarter of a second first: a shaking hand goes back and forth, a pan does not.
 * @param shifts of each shown frame from the one before, the first one 0
 * @param perSecond shown frames a second
 */
export function quickPans(shifts: readonly Shift[], perSecond: number): QuickPan[] {
  const span = Math.max(1, Math.round(perSecond / 4));
  const calm = calmSeconds(perSecond);
  const found: QuickPan[] = [];
  let [sumX, sumY] = [0, 0];
  for (let k = 0; k < shifts.length + (span >> 1); k++) {
    const [coming, going] = [shifts[k], shifts[k - span]];
    sumX += (coming?.x ?? 0) - (going?.x ?? 0);
    sumY += (coming?.y ?? 0) - (going?.y ?? 0);
    const at = k - (span >> 1);
    if (at < 0) continue;
    // Before the first picture there is none to have moved from: its shift is none.
    const count = Math.max(1, Math.min(k, shifts.length - 1) - Math.max(1, k - span + 1) + 1);
    const seconds = crossingSeconds({ x: sumX / count, y: sumY / count }, perSecond);
    if (seconds >= calm) continue;
    const last = found.at(-1);
    if (last?.to === at) found[found.length - 1] = { from: last.from, to: at + 1, seconds: Math.min(last.seconds, seconds) };
    else found.push({ from: at, to: at + 1, seconds });
  }
  return found.filter((pan) => pan.to - pan.from >= span);
}
