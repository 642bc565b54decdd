import { normal, random } from './random.js';

/** BT.709 limited-range colour: luma 16 to 235, chroma around 128. */
export interface Colour {
  readonly y: number;
  readonly u: number;
  readonly v: number;
}

/** Red, green, blue 0 to 255 to BT.709 limited range. */
export function colour(r: number, g: number, b: number): Colour {
  const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  return {
    y: 16 + (luma * 219) / 255,
    u: 128 + (((b - luma) / 1.8556) * 224) / 255,
    v: 128 + (((r - luma) / 1.5748) * 224) / 255,
  };
}

/** What a shader writes for one place: luma and the two chromas. Length 3. */
export type Pixel = Float64Array;

/** A camera's view before its sensor: places in pixels (whole numbers at pixel centres) to light. */
export type Shader = (x: number, y: number, out: Pixel) => void;

/** Covers what is there with a colour, made lighter by `light`, to the given share. */
export function blend(out: Pixel, c: Colour, light: number, share: number): void {
  const keep = 1 - share;
  out[0] = (out[0] as number) * keep + (c.y + light) * share;
  out[1] = (out[1] as number) * keep + c.u * share;
  out[2] = (out[2] as number) * keep + c.v * share;
}

/** Covers what is there with a colour, to the given share. */
export function cover(out: Pixel, c: Colour, share: number): void {
  blend(out, c, 0, share);
}

/** Puts a colour, made lighter by `light`. */
export function set(out: Pixel, c: Colour, light: number): void {
  out[0] = c.y + light;
  out[1] = c.u;
  out[2] = c.v;
}

/** 0 below -half, 1 above +half, even in between: an edge one pixel wide. */
export function edge(distance: number): number {
  return distance <= -0.5 ? 0 : distance >= 0.5 ? 1 : distance + 0.5;
}

const NOISE_SIZE = 1 << 18;

/** Independent sensor noise for each picture: a long table of normal numbers read from a random place. */
export class Sensor {
  private readonly table = new Float32Array(NOISE_SIZE);
  private readonly next: () => number;

  /** @param sigma standard deviation of luma noise in 8-bit steps */
  constructor(seed: number, sigma: number) {
    this.next = random(seed);
    for (let i = 0; i < NOISE_SIZE; i++) this.table[i] = normal(this.next) * sigma;
  }

  /** Renders a shader to a packed yuv420p picture. Width and height even. */
  expose(shader: Shader, width: number, height: number): Uint8Array {
    const half = width >> 1;
    const luma = width * height;
    const out = new Uint8Array(luma + 2 * half * (height >> 1));
    const pixel: Pixel = Float64Array.of(0, 128, 128);
    const { table } = this;
    let grain = Math.floor(this.next() * NOISE_SIZE);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        shader(x, y, pixel);
        grain = (grain + 1) & (NOISE_SIZE - 1);
        const value = (pixel[0] as number) + (table[grain] as number) + 0.5;
        out[y * width + x] = value < 16 ? 16 : value > 235 ? 235 : value | 0;
        if ((x & 1) === 0 && (y & 1) === 0) {
          const at = luma + (y >> 1) * half + (x >> 1);
          out[at] = (pixel[1] as number) + 0.5;
          out[at + half * (height >> 1)] = (pixel[2] as number) + 0.5;
        }
      }
    }
    return out;
  }
}
