type Samples = Uint8Array | Uint16Array;

const WINDOW = 8;
const EVERY = 4;

/** Mean squared difference of two packed planes of the same size. */
export function meanSquare(a: Samples, b: Samples): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) {
    const d = a[i] - b[i];
    sum += d * d;
  }
  return sum / a.length;
}

/** Peak signal-to-noise ratio in dB for a mean squared difference; at most 100, which stands for the very same picture. @param most largest sample: 255, 1023 */
export function psnrOf(mse: number, most: number): number {
  return mse === 0 ? 100 : Math.min(100, 10 * Math.log10((most * most) / mse));
}

/**
 * Structural similarity (Wang, Bovik, Sheikh and Simoncelli 2004, "Image quality assessment: from error visibility to structural
 * similarity") of two packed planes: mean over windows of 8x8 at every fourth sample, or over the whole of a smaller plane. 1 is the same.
 * @param most largest sample: 255, 1023
 */
export function ssim(
  a: Samples,
  b: Samples,
  { width, height, most }: { readonly width: number; readonly height: number; readonly most: number },
): number {
  const c1 = (0.01 * most) ** 2;
  const c2 = (0.03 * most) ** 2;
  const wide = Math.min(WINDOW, width);
  const high = Math.min(WINDOW, height);
  const area = wide * high;
  let total = 0;
  let count = 0;
  for (let y = 0; y + high <= height; y += EVERY) {
    for (let x = 0; x + wide <= width; x += EVERY) {
      let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
      for (let j = 0; j < high; j++) {
        for (let i = 0, at = (y + j) * width + x; i < wide; i++, at++) {
          const p = a[at];
          const q = b[at];
          sa += p;
          sb += q;
          saa += p * p;
          sbb += q * q;
          sab += p * q;
        }
      }
      const [ma, mb] = [sa / area, sb / area];
      const [va, vb, together] = [saa / area - ma * ma, sbb / area - mb * mb, sab / area - ma * mb];
      total += ((2 * ma * mb + c1) * (2 * together + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2));
      count++;
    }
  }
  return total / count;
}
