// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor } = Math;

/**
 * Averages an 8-bit plane down to a small one by whole boxes (area average, rounded). Boxes tile the plane: column i of
 * the small plane covers source columns floor(i * width / outWidth) to floor((i + 1) * width / outWidth), not included.
 * @param data width * height bytes, row-major, no padding; not written to
 * @param out outWidth * outHeight bytes, written; outWidth <= width, outHeight <= height
 */
export function shrinkPlane({
  data,
  width,
  height,
  out,
  outWidth,
  outHeight,
}: {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
  readonly out: Uint8Array;
  readonly outWidth: number;
  readonly outHeight: number;
}): void {
  const sums = new Uint32Array(outWidth);
  for (let j = 0; j < outHeight; j++) {
    const top = floor((j * height) / outHeight);
    const bottom = floor(((j + 1) * height) / outHeight);
    sums.fill(0);
    for (let y = top; y < bottom; y++) {
      const row = y * width;
      for (let i = 0; i < outWidth; i++) {
        const left = floor((i * width) / outWidth);
        const right = floor(((i + 1) * width) / outWidth);
        let sum = 0;
        for (let x = left; x < right; x++) sum += data[row + x];
        sums[i] = sums[i] + sum;
      }
    }
    for (let i = 0; i < outWidth; i++) {
      const left = floor((i * width) / outWidth);
      const right = floor(((i + 1) * width) / outWidth);
      const area = (right - left) * (bottom - top);
      out[j * outWidth + i] = floor((sums[i] + (area >> 1)) / area);
    }
  }
}
