/** Small luma pictures of a render's frames, kept to see afterwards which frame of the file shows which. */
export const SIGNATURE_WIDTH = 64;
export const SIGNATURE_HEIGHT = 36;
export const SIGNATURE_BYTES = SIGNATURE_WIDTH * SIGNATURE_HEIGHT;

export interface Signatures {
  readonly frames: number;
  /** SIGNATURE_BYTES a frame, one after the other. */
  readonly data: Uint8Array;
}

/** Sum of absolute differences of two signatures, in 8-bit steps a sample. */
export function signatureDistance(a: Uint8Array, aFrame: number, b: Uint8Array, bFrame: number): number {
  let sum = 0;
  const i = aFrame * SIGNATURE_BYTES;
  const j = bFrame * SIGNATURE_BYTES;
  for (let k = 0; k < SIGNATURE_BYTES; k++) sum += Math.abs((a[i + k] as number) - (b[j + k] as number));
  return sum / SIGNATURE_BYTES;
}
