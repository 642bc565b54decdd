/**
 * Tiles of a small picture looked for in the one before; core/truth/measure/tiles.ts says what for. Samples are i16 of at most 1023 either
 * way, so that squares of differences of a whole tile fit 32 bits.
 */

const TILE = 8;
/** 32-bit numbers a tile: dx, dy, best, still, own, other, xx, xy, yy, xd, yd, nextX, nextY. */
const NUMBERS = 13;

/**
 * Takes the mean of the samples up to `around` away from each.
 * @param parts what is left is divided by this, towards zero
 * @param work i32, (w + 1) * (h + 1)
 */
export function takeSurroundings(from: usize, w: i32, h: i32, around: i32, parts: i32, work: usize, to: usize): void {
  const line = (<usize>(w + 1)) << 2;
  memory.fill(work, 0, line);
  for (let y = 0; y < h; y++) {
    let sum: i32 = 0;
    let at = work + <usize>(y + 1) * line;
    store<i32>(at, 0);
    for (let x = 0; x < w; x++) {
      sum += <i32>load<i16>(from + ((<usize>(y * w + x)) << 1));
      at += 4;
      store<i32>(at, sum + load<i32>(at - line));
    }
  }
  for (let y = 0; y < h; y++) {
    const top = work + <usize>max(0, y - around) * line;
    const bottom = work + <usize>min(h, y + around + 1) * line;
    for (let x = 0; x < w; x++) {
      const left = (<usize>max(0, x - around)) << 2;
      const right = (<usize>min(w, x + around + 1)) << 2;
      const count = (min(h, y + around + 1) - max(0, y - around)) * (min(w, x + around + 1) - max(0, x - around));
      const sum = load<i32>(bottom + right) - load<i32>(top + right) - load<i32>(bottom + left) + load<i32>(top + left);
      const at = (<usize>(y * w + x)) << 1;
      store<i16>(to + at, <i16>((<i32>load<i16>(from + at) * count - sum) / (count * parts)));
    }
  }
}

export function sumOf(lanes: v128): i32 {
  return (
    i32x4.extract_lane(lanes, 0) + i32x4.extract_lane(lanes, 1) + i32x4.extract_lane(lanes, 2) + i32x4.extract_lane(lanes, 3)
  );
}

/** Sum of the squared differences of two tiles. */
function apart(a: usize, b: usize, line: usize): i32 {
  let sum = i32x4.splat(0);
  for (let y = 0; y < TILE; y++, a += line, b += line) {
    const d = i16x8.sub(v128.load(a), v128.load(b));
    sum = i32x4.add(sum, i32x4.dot_i16x8_s(d, d));
  }
  return sumOf(sum);
}

function square(a: usize, line: usize): i32 {
  let sum = i32x4.splat(0);
  for (let y = 0; y < TILE; y++, a += line) {
    const d = v128.load(a);
    sum = i32x4.add(sum, i32x4.dot_i16x8_s(d, d));
  }
  return sumOf(sum);
}

/**
 * Looks for each tile of b in a, up to `across` and `down` samples away.
 * @param left, top of the first tile, at least 1
 * @param out i32, NUMBERS a tile, written
 */
export function searchTiles(
  a: usize,
  b: usize,
  w: i32,
  h: i32,
  left: i32,
  top: i32,
  columns: i32,
  rows: i32,
  across: i32,
  down: i32,
  out: usize,
): void {
  const line = (<usize>w) << 1;
  for (let t = 0; t < columns * rows; t++) {
    const x0 = left + (t % columns) * TILE;
    const y0 = top + (t / columns) * TILE;
    const own = b + ((<usize>(y0 * w + x0)) << 1);
    const there = a + ((<usize>(y0 * w + x0)) << 1);
    const still = apart(own, there, line);
    let best = still;
    let least = still;
    let bestX = 0;
    let bestY = 0;
    const firstX = max(-across, -x0);
    const lastX = min(across, w - TILE - x0);
    const firstY = max(-down, -y0);
    const lastY = min(down, h - TILE - y0);
    for (let dy = firstY; dy <= lastY; dy++) {
      for (let dx = firstX; dx <= lastX; dx++) {
        const sum = apart(own, there + ((<isize>(dy * w + dx)) << 1), line);
        // Of places that fit alike the nearer one.
        const cost = sum + (sum >> 8) * (abs(dx) + abs(dy));
        if (cost < least) {
          least = cost;
          best = sum;
          bestX = dx;
          bestY = dy;
        }
      }
    }
    const found = there + ((<isize>(bestY * w + bestX)) << 1);
    const to = out + <usize>t * NUMBERS * 4;
    store<i32>(to, bestX);
    store<i32>(to, bestY, 4);
    store<i32>(to, best, 8);
    store<i32>(to, still, 12);
    store<i32>(to, square(own, line), 16);
    store<i32>(to, square(found, line), 20);
    let xx = i32x4.splat(0);
    let xy = i32x4.splat(0);
    let yy = i32x4.splat(0);
    let xd = i32x4.splat(0);
    let yd = i32x4.splat(0);
    let nextX = i32x4.splat(0);
    let nextY = i32x4.splat(0);
    for (let y = 0; y < TILE; y++) {
      const at = own + <usize>y * line;
      const gx = i16x8.sub(v128.load(at + 2), v128.load(at - 2));
      const gy = i16x8.sub(v128.load(at + line), v128.load(at - line));
      const here = v128.load(at);
      const d = i16x8.sub(here, v128.load(found + <usize>y * line));
      const right = i16x8.sub(v128.load(at + 2), here);
      const below = i16x8.sub(v128.load(at + line), here);
      nextX = i32x4.add(nextX, i32x4.dot_i16x8_s(right, right));
      nextY = i32x4.add(nextY, i32x4.dot_i16x8_s(below, below));
      xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
      xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
      yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
      xd = i32x4.add(xd, i32x4.dot_i16x8_s(gx, d));
      yd = i32x4.add(yd, i32x4.dot_i16x8_s(gy, d));
    }
    store<i32>(to, sumOf(xx), 24);
    store<i32>(to, sumOf(xy), 28);
    store<i32>(to, sumOf(yy), 32);
    store<i32>(to, sumOf(xd), 36);
    store<i32>(to, sumOf(yd), 40);
    store<i32>(to, sumOf(nextX), 44);
    store<i32>(to, sumOf(nextY), 48);
  }
}

/** Sum of the squared differences of so many samples. */
export function squaresApart(a: usize, b: usize, length: i32): f64 {
  const lanes = i16x8(0, 1, 2, 3, 4, 5, 6, 7);
  let sum: f64 = 0;
  let i = 0;
  while (i < length) {
    const stop = min(length, i + 512);
    let part = i32x4.splat(0);
    for (; i < stop; i += 8) {
      const at = (<usize>i) << 1;
      const inside = i16x8.gt_s(i16x8.splat(<i16>min(8, length - i)), lanes);
      const d = v128.and(inside, i16x8.sub(v128.load(a + at), v128.load(b + at)));
      part = i32x4.add(part, i32x4.dot_i16x8_s(d, d));
    }
    sum += <f64>sumOf(part);
  }
  return sum;
}
