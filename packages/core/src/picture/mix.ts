/**
 * Mixes two pictures of the same size sample by sample, as stored (no linear light):
 * out = a + (b - a) * share / 256, rounded. share is 0 (all a) to 256 (all b). a, b and out may not overlap in part.
 */
export function mix8(a: Uint8Array, b: Uint8Array, share: number, out: Uint8Array): void {
  const keep = 256 - share;
  for (let i = 0; i < out.length; i++) out[i] = (a[i] * keep + b[i] * share + 128) >> 8;
}

/** The same for 16-bit samples (10 and 12 bit pictures). */
export function mix16(a: Uint16Array, b: Uint16Array, share: number, out: Uint16Array): void {
  const keep = 256 - share;
  for (let i = 0; i < out.length; i++) out[i] = (a[i] * keep + b[i] * share + 128) >> 8;
}

/**
 * Absolute difference of two RGBA pictures with gain, as opaque grey of the larger channel difference.
 * All three are width * height * 4 bytes; out is written.
 */
export function differenceRgba(a: Uint8ClampedArray, b: Uint8ClampedArray, gain: number, out: Uint8ClampedArray): void {
  for (let i = 0; i < out.length; i += 4) {
    const r = Math.abs(a[i] - b[i]);
    const g = Math.abs(a[i + 1] - b[i + 1]);
    const l = Math.abs(a[i + 2] - b[i + 2]);
    const value = Math.max(r, g, l) * gain;
    out[i] = value;
    out[i + 1] = value;
    out[i + 2] = value;
    out[i + 3] = 255;
  }
}
