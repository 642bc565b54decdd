// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { cos, sin } = Math;

/**
 * Discrete Fourier transform of a power of two of complex numbers, in place (Cooley and Tukey, 1965, radix 2). Not scaled: forward and
 * back again is the size times what went in.
 */
export class Fft {
  private readonly cosines: Float64Array;
  private readonly sines: Float64Array;
  private readonly swapped: Uint32Array;

  /** @param size a power of two, 2 at least */
  constructor(readonly size: number) {
    if (size < 2 || (size & (size - 1)) !== 0) throw new RangeError(`not a power of two: ${size}`);
    this.cosines = Float64Array.from({ length: size / 2 }, (_, k) => cos((2 * Math.PI * k) / size));
    this.sines = Float64Array.from({ length: size / 2 }, (_, k) => -sin((2 * Math.PI * k) / size));
    this.swapped = new Uint32Array(size);
    for (let i = 1; i < size; i++) this.swapped[i] = ((this.swapped[i >> 1] as number) >> 1) | (i & 1 ? size >> 1 : 0);
  }

  forward(re: Float64Array, im: Float64Array): void {
    const { size, swapped, cosines, sines } = this;
    for (let i = 0; i < size; i++) {
      const j = swapped[i] as number;
      if (j <= i) continue;
      const [x, y] = [re[i] as number, im[i] as number];
      re[i] = re[j] as number;
      im[i] = im[j] as number;
      re[j] = x;
      im[j] = y;
    }
    for (let half = 1; half < size; half <<= 1) {
      const stride = size / (2 * half);
      for (let start = 0; start < size; start += 2 * half) {
        for (let k = 0, at = start; k < half; k++, at++) {
          const [c, s] = [cosines[k * stride] as number, sines[k * stride] as number];
          const [x, y] = [re[at + half] as number, im[at + half] as number];
          const [tx, ty] = [x * c - y * s, x * s + y * c];
          const [ux, uy] = [re[at] as number, im[at] as number];
          re[at] = ux + tx;
          im[at] = uy + ty;
          re[at + half] = ux - tx;
          im[at + half] = uy - ty;
        }
      }
    }
  }

  /** The same with the exponents' signs turned about: exchanging the parts does it. */
  back(re: Float64Array, im: Float64Array): void {
    this.forward(im, re);
  }
}

/** The least power of two that is not below n. */
export function powerOfTwo(n: number): number {
  let size = 2;
  while (size < n) size *= 2;
  return size;
}
