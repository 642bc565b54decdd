export { Average } from './average.js';
export type { PixelLayout } from './format.js';
export { pictureBytes, pixelLayout, planeSizes } from './format.js';
export { meanSquare, psnrOf, ssim } from './likeness.js';
export { differenceRgba, mix8, mix16 } from './mix.js';
export type { Box, Framed, FramingWay, Shape } from './place.js';
export { fillBlack, frameBox, placeBox, placePicture } from './place.js';
export { rgbaToYuv420, yuv420ToRgba } from './rgba.js';
export { shrinkPlane } from './shrink.js';
