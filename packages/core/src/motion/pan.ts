/** How the whole picture moves from one picture to the next, in shares of its width and height: right and down are positive. */
export interface Shift {
  readonly x: number;
  readonly y: number;
}

/** The rule of thumb: what crosses the frame in less than this strobes at 24 to 30 pictures a second, however even its steps. */
export const CALM_SECONDS = 7;

/** Differences count up to here: what moves by itself, or comes in at an edge, does not steer the whole. */
const CAP = 24;
/** Furthest shift that is looked for, in shares of the short side of the coarsest level. */
const REACH = 0.45;
/** Coarsest level: as small as that, so that all shifts can be tried. */
const COARSEST = 40;

interface Level {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/**
 * The shift of a camera between two pictures: the one that leaves least between them, capped differences over the overlap; all shifts on the
 * smallest level, then two steps either way on each finer one, and the lowest point of a parabola.
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
        // Of equal shifts the smaller: a picture with nothing in it stands.
        const cost = differenceAt(p, q, dx, dy) + 1e-6 * (Math.abs(dx) + Math.abs(dy));
        if (cost < least) [least, x, y] = [cost, dx, dy];
      }
    }
  }
  const [p, q] = [first[0] as Level, second[0] as Level];
  const at = (dx: number, dy: number): number => differenceAt(p, q, dx, dy);
  const middle = at(x, y);
  return {
    x: (x + lowest(at(x - 1, y), middle, at(x + 1, y))) / width,
    y: (y + lowest(at(x, y - 1), middle, at(x, y + 1))) / height,
  };
}

/** Where a parabola through three costs at -1, 0 and 1 is lowest. */
function lowest(before: number, middle: number, after: number): number {
  const bend = before - 2 * middle + after;
  return bend > 1e-9 && Number.isFinite(bend) ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend))) : 0;
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
        half[y * w + x] =
          ((d[at] as number) + (d[at + 1] as number) + (d[at + down] as number) + (d[at + down + 1] as number) + 2) >> 2;
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
      const off = Math.abs((a.data[row + x] as number) - (b.data[other + x] as number));
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
 * Stretches of at least a quarter of a second in which a point would cross the frame in under CALM_SECONDS. Shifts are averaged over a
 * quarter of a second first: a shaking hand goes back and forth, a pan does not.
 * @param shifts of each step, the first one 0
 * @param perSecond steps a second as they are shown
 */
export function quickPans(shifts: readonly Shift[], perSecond: number): QuickPan[] {
  const span = Math.max(1, Math.round(perSecond / 4));
  const found: QuickPan[] = [];
  let [sumX, sumY] = [0, 0];
  for (let k = 0; k < shifts.length + (span >> 1); k++) {
    const [coming, going] = [shifts[k], shifts[k - span]];
    sumX += (coming?.x ?? 0) - (going?.x ?? 0);
    sumY += (coming?.y ?? 0) - (going?.y ?? 0);
    const at = k - (span >> 1);
    if (at < 0) continue;
    const count = Math.min(k, shifts.length - 1) - Math.max(0, k - span + 1) + 1;
    const seconds = crossingSeconds({ x: sumX / count, y: sumY / count }, perSecond);
    if (seconds >= CALM_SECONDS) continue;
    const last = found.at(-1);
    if (last?.to === at) found[found.length - 1] = { from: last.from, to: at + 1, seconds: Math.min(last.seconds, seconds) };
    else found.push({ from: at, to: at + 1, seconds });
  }
  return found.filter((pan) => pan.to - pan.from >= span);
}
