// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { cos, sin } = Math;

/** Spans of butterflies below this are short. */
const SHORT = 16;

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
    const { size, swapped } = this;
    for (let i = 0; i < size; i++) {
      const j = swapped[i] as number;
      if (j <= i) continue;
      const x = re[i] as number;
      const y = im[i] as number;
      re[i] = re[j] as number;
      im[i] = im[j] as number;
      re[j] = x;
      im[j] = y;
    }
    for (let half = 1; half < size; half <<= 1) this.stage(re, im, half, half < SHORT);
  }

  /** One round of butterflies: of a short span all blocks for each turn, else all turns for each block, so that memory is read in long runs. */
  private stage(re: Float64Array, im: Float64Array, half: number, short: boolean): void {
    const { size, cosines, sines } = this;
    const stride = size / (2 * half);
    const [outer, inner] = short ? [half, stride] : [stride, half];
    const [outerStep, innerStep] = short ? [1, 2 * half] : [2 * half, 1];
    const [outerTurn, innerTurn] = short ? [stride, 0] : [0, stride];
    for (let i = 0; i < outer; i++) {
      let at = i * outerStep;
      let turn = i * outerTurn;
      for (let j = 0; j < inner; j++) {
        const other = at + half;
        const c = cosines[turn] as number;
        const s = sines[turn] as number;
        const x = re[other] as number;
        const y = im[other] as number;
        const tx = x * c - y * s;
        const ty = x * s + y * c;
        const ux = re[at] as number;
        const uy = im[at] as number;
        re[at] = ux + tx;
        im[at] = uy + ty;
        re[other] = ux - tx;
        im[other] = uy - ty;
        at += innerStep;
        turn += innerTurn;
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
