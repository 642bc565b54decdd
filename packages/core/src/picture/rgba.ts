/**
 * Between a screen's RGBA and packed 8-bit 4:2:0 (BT.709, limited range), for pictures that a browser decoded and core works on.
 * Width and height even. Chroma is the mean of its four pixels; on the way back it stands for all of them.
 */

const [KR, KB] = [0.2126, 0.0722];
const KG = 1 - KR - KB;
const LUMA = 219 / 255;
const BLUE = 224 / 255 / (2 * (1 - KB));
const RED = 224 / 255 / (2 * (1 - KR));

/** @param out width * height * 3 / 2 bytes */
export function rgbaToYuv420(rgba: Uint8ClampedArray, width: number, height: number, out: Uint8Array): void {
  const half = width >> 1;
  const [u, v] = [width * height, width * height + half * (height >> 1)];
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      let [r, g, b] = [0, 0, 0];
      for (let corner = 0; corner < 4; corner++) {
        const at = (y + (corner >> 1)) * width + x + (corner & 1);
        const [cr, cg, cb] = [rgba[4 * at] as number, rgba[4 * at + 1] as number, rgba[4 * at + 2] as number];
        out[at] = 16.5 + LUMA * (KR * cr + KG * cg + KB * cb);
        r += cr / 4;
        g += cg / 4;
        b += cb / 4;
      }
      const luma = KR * r + KG * g + KB * b;
      const at = (y >> 1) * half + (x >> 1);
      out[u + at] = 128.5 + BLUE * (b - luma);
      out[v + at] = 128.5 + RED * (r - luma);
    }
  }
}

/** @param out width * height * 4 bytes, made opaque */
export function yuv420ToRgba(yuv: Uint8Array, width: number, height: number, out: Uint8ClampedArray): void {
  const half = width >> 1;
  const [u, v] = [width * height, width * height + half * (height >> 1)];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const chroma = (y >> 1) * half + (x >> 1);
      const luma = ((yuv[y * width + x] as number) - 16) / LUMA;
      const blue = ((yuv[u + chroma] as number) - 128) / BLUE;
      const red = ((yuv[v + chroma] as number) - 128) / RED;
      const at = 4 * (y * width + x);
      out[at] = luma + red;
      out[at + 1] = luma - (KB * blue + KR * red) / KG;
      out[at + 2] = luma + blue;
      out[at + 3] = 255;
    }
  }
}
