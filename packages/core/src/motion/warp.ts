import type { FieldBetween } from './fieldBetween.js';
import { PAD, type Plane } from './plane.js';

const { floor, max, min, round } = Math;

/** Taps of Keys 1981 ("Cubic convolution interpolation", a = -0.5) for 64ths of a sample, 4 a row, each row's sum 64. */
export const TAPS = tapTable();

function tapTable(): Int16Array {
  const table = new Int16Array(65 * 4);
  for (let k = 0; k <= 64; k++) {
    const f = k / 64;
    const exact = [
      ((-0.5 * f + 1) * f - 0.5) * f,
      (1.5 * f - 2.5) * f * f + 1,
      ((-1.5 * f + 2) * f + 0.5) * f,
      (0.5 * f - 0.5) * f * f,
    ];
    const row = exact.map((tap) => round(tap * 64));
    // What rounding left over goes to the largest tap.
    const largest = row.indexOf(max(...row));
    row[largest] = row[largest] + 64 - row.reduce((a, b) => a + b, 0);
    table.set(row, k * 4);
  }
  return table;
}

/** How a plane's samples lie over a field's: sample (x, y) of the plane at (x >> shiftX, y >> shiftY) of the field, whose samples are scale long. */
export interface Lie {
  readonly shiftX: number;
  readonly shiftY: number;
  readonly scaleX: number;
  readonly scaleY: number;
}

/**
 * Makes one plane of a moment: each sample is taken from both pictures along its vector, between their samples by 4x4 taps, and
 * mixed by the share.
 * @param most largest sample: 255, 1023
 * @returns packed samples
 */
export function makePlane(
  a: Plane,
  b: Plane,
  { moment, t, lie, most }: { readonly moment: FieldBetween; readonly t: number; readonly lie: Lie; readonly most: number },
): Uint8Array | Uint16Array {
  const { width, height } = a;
  const out = most > 255 ? new Uint16Array(width * height) : new Uint8Array(width * height);
  const { field, share } = moment;
  const deep = most > 255;
  for (let y = 0; y < height; y++) {
    const fy = min(field.height - 1, y >> lie.shiftY);
    for (let x = 0; x < width; x++) {
      const fx = min(field.width - 1, x >> lie.shiftX);
      const i = field.at + fy * field.stride + fx;
      const u = field.u[i] * lie.scaleX;
      const v = field.v[i] * lie.scaleY;
      const s = share[fy * field.width + fx];
      const p = s === 256 ? 0 : cubic(a, x, y, -t * u, -t * v);
      const q = s === 0 ? 0 : cubic(b, x, y, (1 - t) * u, (1 - t) * v);
      const value = deep
        ? ((p >> 6) * (256 - s) + (q >> 6) * s + 8192) >> 14
        : ((p >> 4) * (256 - s) + (q >> 4) * s + 32768) >> 16;
      out[y * width + x] = max(0, min(most, value));
    }
  }
  return out;
}

/** A sample at an offset from (x, y), times 4096. Places far outside are taken for the margin's edge. */
function cubic({ width, height, stride, at, data }: Plane, x: number, y: number, dx: number, dy: number): number {
  const px = max((2 - PAD) << 6, min((width + PAD - 12) << 6, (x << 6) + floor(dx * 64 + 0.5)));
  const py = max((2 - PAD) << 6, min((height + PAD - 4) << 6, (y << 6) + floor(dy * 64 + 0.5)));
  let sum = 0;
  for (let j = 0; j < 4; j++) {
    const row = at + ((py >> 6) - 1 + j) * stride + (px >> 6) - 1;
    let across = 0;
    for (let i = 0; i < 4; i++) across += TAPS[(px & 63) * 4 + i] * data[row + i];
    sum += across * TAPS[(py & 63) * 4 + j];
  }
  return sum;
}
