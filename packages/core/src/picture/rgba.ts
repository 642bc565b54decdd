/**
 * Between a screen's RGBA and packed 8-bit 4:2:0 (BT.709, limited range), for pictures that a browser decoded and core works on.
 * Width and height even. Chroma is the mean of its four pixels; on the way back it stands for all of them.
 */

const [KR, KB] = [0.2126, 0.0722];
const KG = 1 - KR - KB;
const BLUE = 2 * (1 - KB);
const RED = 2 * (1 - KR);

/** Whole numbers with 16 bits behind the point: a browser makes a picture several times as fast with them. */
const fixed = (value: number): number => Math.round(value * 65536);
const [YR, YG, YB] = [fixed((KR * 219) / 255), fixed((KG * 219) / 255), fixed((KB * 219) / 255)];
const [UR, UG, UB] = [fixed((-KR / BLUE) * (224 / 255)), fixed((-KG / BLUE) * (224 / 255)), fixed(0.5 * (224 / 255))];
const [VR, VG, VB] = [fixed(0.5 * (224 / 255)), fixed((-KG / RED) * (224 / 255)), fixed((-KB / RED) * (224 / 255))];
const LUMA = fixed(255 / 219);
const [RV, GV, GU, BU] = [
  fixed((RED * 255) / 224),
  fixed(((-KR * RED) / KG) * (255 / 224)),
  fixed(((-KB * BLUE) / KG) * (255 / 224)),
  fixed((BLUE * 255) / 224),
];
const HALF = 32768;

/** @param out width * height * 3 / 2 bytes */
export function rgbaToYuv420(rgba: Uint8ClampedArray, width: number, height: number, out: Uint8Array): void {
  const half = width >> 1;
  const u = width * height;
  const v = u + half * (height >> 1);
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const top = y * width + x;
      let r = 0;
      let g = 0;
      let b = 0;
      for (let corner = 0; corner < 4; corner++) {
        const at = top + (corner & 1) + (corner >> 1) * width;
        const cr = rgba[4 * at];
        const cg = rgba[4 * at + 1];
        const cb = rgba[4 * at + 2];
        out[at] = 16 + ((YR * cr + YG * cg + YB * cb + HALF) >> 16);
        r += cr;
        g += cg;
        b += cb;
      }
      const at = (y >> 1) * half + (x >> 1);
      out[u + at] = 128 + ((UR * r + UG * g + UB * b + 4 * HALF) >> 18);
      out[v + at] = 128 + ((VR * r + VG * g + VB * b + 4 * HALF) >> 18);
    }
  }
}

/** @param out width * height * 4 bytes, made opaque */
export function yuv420ToRgba(yuv: Uint8Array, width: number, height: number, out: Uint8ClampedArray): void {
  const half = width >> 1;
  const u = width * height;
  const v = u + half * (height >> 1);
  // Four bytes at once, lowest first: red, green, blue, opaque.
  const pixels = new Uint32Array(out.buffer, out.byteOffset, width * height);
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const chroma = (y >> 1) * half + (x >> 1);
      const blue = yuv[u + chroma] - 128;
      const red = yuv[v + chroma] - 128;
      const addR = RV * red + HALF;
      const addG = GV * red + GU * blue + HALF;
      const addB = BU * blue + HALF;
      for (let corner = 0; corner < 4; corner++) {
        const at = y * width + x + (corner & 1) + (corner >> 1) * width;
        const luma = (yuv[at] - 16) * LUMA;
        const r = (luma + addR) >> 16;
        const g = (luma + addG) >> 16;
        const b = (luma + addB) >> 16;
        pixels[at] = 0xff000000 | (byte(b) << 16) | (byte(g) << 8) | byte(r);
      }
    }
  }
}

function byte(value: number): number {
  return Math.max(0, Math.min(255, value));
}

/** Packed red, green, blue and alpha as planes of green, blue, red and alpha: the same samples. Both of width * height * 4 bytes. */
export function rgbaToPlanes(rgba: Uint8Array, out: Uint8Array): void {
  const n = rgba.length >> 2;
  for (let i = 0; i < n; i++) {
    out[i] = rgba[4 * i + 1];
    out[n + i] = rgba[4 * i + 2];
    out[2 * n + i] = rgba[4 * i];
    out[3 * n + i] = rgba[4 * i + 3];
  }
}
