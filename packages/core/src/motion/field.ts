import { between, PAD, type Plane, weight15 } from './plane.js';
import { type Patches, patchStart, SIDE } from './search.js';

const { abs, floor, fround, max, min } = Math;

/** Margin of a field, in samples. */
export const MARGIN = 16;
const REACH = 2;
/** Price of a vector outside its own patch, in sums of 25 differences of 10 bits: a quarter of a step each. */
const OUTSIDE = 25;
/** Neighbours are averaged whose vectors differ by less than this, across and down together. */
const AGREE = 1.5;

/**
 * A vector for each sample of the finest level that was searched, from one picture to the other; (x, y) is at
 * [at + y * stride + x], with a margin of MARGIN.
 */
export interface Field {
  readonly width: number;
  readonly height: number;
  readonly stride: number;
  readonly at: number;
  readonly u: Float32Array;
  readonly v: Float32Array;
  /** Sum of 25 differences of 10 bits around the sample: a hundredth is a step of 8 bits. */
  readonly err: Uint16Array;
}

export const fieldStrideOf = (width: number): number => (width + 2 * MARGIN + 3) & ~3;

export function emptyField(width: number, height: number): Field {
  const stride = fieldStrideOf(width);
  const size = stride * (height + 2 * MARGIN);
  return {
    width,
    height,
    stride,
    at: MARGIN * stride + MARGIN,
    u: new Float32Array(size),
    v: new Float32Array(size),
    err: new Uint16Array(size).fill(0x7f7f),
  };
}

/** Patches around that differ by less than this, across and down together, have nothing to settle. */
const PEACE = 0.75;

/** Whether the eight patches around have the same vector, nearly. Patches at the frame's edge never do: theirs reach to it. */
function atPeace({ columns, rows, u, v }: Patches, c: number, r: number): boolean {
  if (c === 0 || r === 0 || c === columns - 1 || r === rows - 1) return false;
  const own = r * columns + c;
  for (let j = -1; j <= 1; j++) {
    for (let i = -1; i <= 1; i++) {
      const k = own + j * columns + i;
      const across = abs(fround(u[k] - u[own]));
      if (fround(across + abs(fround(v[k] - v[own]))) >= PEACE) return false;
    }
  }
  return true;
}

/** Each sample takes the vector of a patch around it (its own four, and their neighbours within REACH) that fits best over a window of 5x5; of patches at peace only their middle counts. */
export function chooseVectors(a: Plane, b: Plane, patches: Patches): Field {
  const out = emptyField(a.width, a.height);
  const side = SIDE + 2 * REACH;
  const wide = side + 4;
  const diff = new Int32Array(wide * wide);
  for (let r = 0; r < patches.rows; r++) {
    for (let c = 0; c < patches.columns; c++) {
      const own = r * patches.columns + c;
      const [pu, pv] = [patches.u[own], patches.v[own]];
      const x0 = patchStart(c, a.width) - REACH;
      const y0 = patchStart(r, a.height) - REACH;
      const cx = max(2 - PAD, min(b.width + PAD - 27, x0 - 2 + pu));
      const cy = max(2 - PAD, min(b.height + PAD - 19, y0 - 2 + pv));
      const [ix, iy] = [floor(cx), floor(cy)];
      const [fx, fy] = [weight15(cx - ix), weight15(cy - iy)];
      for (let j = 0; j < wide; j++) {
        const row = a.at + (y0 - 2 + j) * a.stride + x0 - 2;
        for (let i = 0; i < wide; i++) {
          diff[j * wide + i] = abs(between(b, ix + i, iy + j, fx, fy) - (a.data[row + i] << 4)) >> 2;
        }
      }
      // Its own 4x4 samples, or all that it reaches.
      const first = atPeace(patches, c, r) ? REACH + 2 : 0;
      for (let j = first; j < side - first; j++) {
        for (let i = first; i < side - first; i++) {
          const inside = i >= REACH && i < REACH + SIDE && j >= REACH && j < REACH + SIDE;
          let sum = inside ? 0 : OUTSIDE;
          for (let q = 0; q < 5; q++) for (let p = 0; p < 5; p++) sum += diff[(j + q) * wide + i + p];
          const at = out.at + (y0 + j) * out.stride + x0 + i;
          if (sum >= out.err[at]) continue;
          out.err[at] = sum;
          out.u[at] = pu;
          out.v[at] = pv;
        }
      }
    }
  }
  return out;
}

/** Averages each vector with those of its neighbours two samples off that agree with it: patches' borders vanish, things' stay. */
export function smoothVectors(field: Field): Field {
  const { width, height, stride, at } = field;
  const next = { ...field, u: field.u.slice(), v: field.v.slice() };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = at + y * stride + x;
      const [u, v] = [field.u[i], field.v[i]];
      let [su, sv, sw] = [4 * u, 4 * v, 4];
      for (const dy of [-2, 0, 2]) {
        for (const dx of [-2, 0, 2]) {
          if (dx === 0 && dy === 0) continue;
          const j = at + max(0, min(height - 1, y + dy)) * stride + max(0, min(width - 1, x + dx));
          const [un, vn] = [field.u[j], field.v[j]];
          if (fround(abs(un - u) + abs(vn - v)) >= AGREE) continue;
          const weight = dx === 0 || dy === 0 ? 2 : 1;
          su += weight * un;
          sv += weight * vn;
          sw += weight;
        }
      }
      next.u[i] = su / sw;
      next.v[i] = sv / sw;
    }
  }
  return next;
}

/** A slip is shorter than this, in samples. */
const SLIP = 16;
/** A slip is believed this far inside the frame, in samples: at its edge most that is seen goes out of it. */
const EDGE = 2;
/** Share of the slopes' squares that may lie along a slip. */
const ALONG = 0.1;
/** What may be left over there and back together, in hundredths of steps, for each step of the slopes' root of squares. */
const FITS = 8;

type Place = readonly [number, number];

/**
 * Whether a way that does not close slipped along a line or an edge, where nothing holds a vector (the aperture problem): both
 * ways fit well, and there is hardly a slope along the slip in 5x5 samples of luma.
 * @param left what is left over of both ways, in hundredths
 */
function slipped(luma: Plane, [x, y]: Place, [ex, ey]: Place, left: number): boolean {
  const long = ex * ex + ey * ey;
  if (!(long < SLIP * SLIP)) return false;
  let [along, all] = [0, 0];
  for (let j = y - 2; j <= y + 2; j++) {
    for (let i = x - 2; i <= x + 2; i++) {
      const at = luma.at + j * luma.stride + i;
      const gx = luma.data[at + 1] - luma.data[at - 1];
      const gy = luma.data[at + luma.stride] - luma.data[at - luma.stride];
      along += (gx * ex + gy * ey) ** 2;
      all += gx * gx + gy * gy;
    }
  }
  return along < ALONG * all * long && left * left < FITS * FITS * all;
}

/**
 * @param luma the picture the field begins in
 * @returns for each sample, without margins: 0 confirmed, 1 the way there and back does not close (covered there, or changed), 2 the way leads out of the frame
 */
export function unconfirmed(field: Field, back: Field, luma: Plane): Uint8Array {
  const { width, height, stride, at } = field;
  const marks = new Uint8Array(width * height);
  const isInside = (x: number, y: number, by: number): boolean =>
    x >= by && y >= by && x <= width - 1 - by && y <= height - 1 - by;
  const bilinear = (data: Float32Array, x: number, y: number): number => {
    const [ix, iy] = [floor(x), floor(y)];
    const i = at + iy * stride;
    const below = at + min(height - 1, iy + 1) * stride;
    const [l, r] = [ix, min(width - 1, ix + 1)];
    const top = data[i + l] + (data[i + r] - data[i + l]) * (x - ix);
    const bottom = data[below + l] + (data[below + r] - data[below + l]) * (x - ix);
    return top + (bottom - top) * (y - iy);
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = at + y * stride + x;
      const [u, v] = [field.u[i], field.v[i]];
      const [px, py] = [x + u, y + v];
      if (!isInside(px, py, -0.5)) {
        marks[y * width + x] = 2;
        continue;
      }
      const [qx, qy] = [max(0, min(width - 1, px)), max(0, min(height - 1, py))];
      const bu = bilinear(back.u, qx, qy);
      const bv = bilinear(back.v, qx, qy);
      const [ex, ey] = [u + bu, v + bv];
      // Sundaram, Brox and Keutzer 2010, "Dense point trajectories by GPU-accelerated large displacement optical flow".
      if (ex * ex + ey * ey <= 0.25 + 0.01 * (u * u + v * v + bu * bu + bv * bv)) continue;
      const left = field.err[i] + back.err[at + floor(qy + 0.5) * stride + floor(qx + 0.5)];
      // Where the way back from there would lead out of the frame from here, what is there says nothing of here.
      if (isInside(x - bu, y - bv, EDGE) && slipped(luma, [x, y], [ex, ey], left)) continue;
      marks[y * width + x] = 1;
    }
  }
  return marks;
}

/**
 * Gives each marked sample the vector of the unmarked one to which it is joined by the least change of light: what is covered in
 * the other picture moves with the ground it belongs to, not with what covers it. Distances by one sweep down and one up. Without luma
 * the nearest one counts. The field is changed.
 */
export function fillMarked(field: Field, marks: Uint8Array, luma: Plane | null): void {
  const { width, height, stride, at, u, v } = field;
  const cost = Int32Array.from(marks, (mark) => (mark === 0 ? 0 : 1 << 29));
  const light = (x: number, y: number): number => (luma ? luma.data[luma.at + y * luma.stride + x] : 0);
  const join = (x: number, y: number, dx: number, dy: number): void => {
    const [nx, ny] = [x + dx, y + dy];
    if (nx < 0 || ny < 0 || nx >= width || ny >= height) return;
    const price = cost[ny * width + nx] + 1 + abs(light(x, y) - light(nx, ny));
    if (price >= cost[y * width + x]) return;
    cost[y * width + x] = price;
    u[at + y * stride + x] = u[at + ny * stride + nx];
    v[at + y * stride + x] = v[at + ny * stride + nx];
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (!marks[y * width + x]) continue;
      join(x, y, -1, 0);
      join(x, y, 0, -1);
      join(x, y, -1, -1);
      join(x, y, 1, -1);
    }
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1; x >= 0; x--) {
      if (!marks[y * width + x]) continue;
      join(x, y, 1, 0);
      join(x, y, 0, 1);
      join(x, y, 1, 1);
      join(x, y, -1, 1);
    }
  }
}

/**
 * Looks at the marks again once both fields are filled: a sample that would be covered in the other picture, where the filled
 * fields lead there and back, is not covered but changed (a light, a splash, something too small and fast to follow). Its mark
 * becomes 3. The marks are changed.
 */
export function settleMarks(field: Field, marks: Uint8Array, back: Field): void {
  const { width, height, stride, at } = field;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (marks[y * width + x] !== 1) continue;
      const i = at + y * stride + x;
      const [u, v] = [field.u[i], field.v[i]];
      const [tx, ty] = [floor(fround(x + u + 0.5)), floor(fround(y + v + 0.5))];
      if (tx < 0 || ty < 0 || tx >= width || ty >= height) continue;
      const j = at + ty * stride + tx;
      if ((u + back.u[j]) ** 2 + (v + back.v[j]) ** 2 < 1) marks[y * width + x] = 3;
    }
  }
}
