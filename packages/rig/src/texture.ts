import { random } from './random.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min } = Math;

/** A square, tileable field of fractal value noise. data[y * size + x] is about -1 to 1; size is a power of two. */
export interface Texture {
  readonly size: number;
  readonly data: Float32Array;
  /** Its largest value without regard to sign: no sample is beyond it. */
  readonly peak: number;
}

/** Sums octaves of smoothed lattice noise; `roughness` is the share that each finer octave keeps. */
export function texture(
  seed: number,
  {
    size = 512,
    coarsest = 8,
    octaves = 6,
    roughness = 0.55,
  }: { readonly size?: number; readonly coarsest?: number; readonly octaves?: number; readonly roughness?: number },
): Texture {
  const data = new Float32Array(size * size);
  let share = 1;
  let total = 0;
  for (let octave = 0; octave < octaves; octave++) {
    const cells = min(size, coarsest << octave);
    addLattice(data, { size, cells, share, seed: seed + octave * 7919 });
    total += share;
    share *= roughness;
  }
  let peak = 0;
  for (let i = 0; i < data.length; i++) {
    const value = (data[i] as number) / (total * 0.6);
    data[i] = value;
    peak = max(peak, value, -value);
  }
  return { size, data, peak: peak * PEAK_ROUNDED };
}

/** Samples are stored in single precision. */
const PEAK_ROUNDED = 1 + 1e-6;

function addLattice(
  data: Float32Array,
  { size, cells, share, seed }: { readonly size: number; readonly cells: number; readonly share: number; readonly seed: number },
): void {
  const next = random(seed);
  const lattice = Float32Array.from({ length: cells * cells }, () => next() * 2 - 1);
  const scale = cells / size;
  for (let y = 0; y < size; y++) {
    const v = y * scale;
    const j = floor(v);
    const fv = smooth(v - j);
    const row = j * cells;
    const below = ((j + 1) % cells) * cells;
    for (let x = 0; x < size; x++) {
      const u = x * scale;
      const i = floor(u);
      const fu = smooth(u - i);
      const k = (i + 1) % cells;
      const top = (lattice[row + i] as number) * (1 - fu) + (lattice[row + k] as number) * fu;
      const bottom = (lattice[below + i] as number) * (1 - fu) + (lattice[below + k] as number) * fu;
      const at = y * size + x;
      data[at] = (data[at] as number) + share * (top * (1 - fv) + bottom * fv);
    }
  }
}

function smooth(t: number): number {
  return t * t * (3 - 2 * t);
}

/** Bilinear sample at any position, wrapping. */
export function sample(t: Texture, x: number, y: number): number {
  const mask = t.size - 1;
  const i = floor(x);
  const j = floor(y);
  const fx = x - i;
  const fy = y - j;
  const x0 = i & mask;
  const x1 = (i + 1) & mask;
  const row0 = (j & mask) * t.size;
  const row1 = ((j + 1) & mask) * t.size;
  const { data } = t;
  const top = (data[row0 + x0] as number) * (1 - fx) + (data[row0 + x1] as number) * fx;
  const bottom = (data[row1 + x0] as number) * (1 - fx) + (data[row1 + x1] as number) * fx;
  return top * (1 - fy) + bottom * fy;
}

/**
 * The same as `sample`, quicker where many positions of one line are asked for one after the other: the two lines of the texture are
 * mixed once, and each position then mixes two numbers. Keeps one line: make one for each use.
 */
export function lineSampler(t: Texture): (x: number, y: number) => number {
  const mask = t.size - 1;
  const { data, size } = t;
  const line = new Float64Array(size);
  let at = Number.NaN;
  return (x, y) => {
    if (y !== at) {
      at = y;
      const j = floor(y);
      const fy = y - j;
      const row0 = (j & mask) * size;
      const row1 = ((j + 1) & mask) * size;
      for (let i = 0; i < size; i++) line[i] = (data[row0 + i] as number) * (1 - fy) + (data[row1 + i] as number) * fy;
    }
    const i = floor(x);
    const fx = x - i;
    return (line[i & mask] as number) * (1 - fx) + (line[(i + 1) & mask] as number) * fx;
  };
}
