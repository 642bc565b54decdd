export type { PixelLayout } from './format.js';
export { pictureBytes, pixelLayout, planeSizes } from './format.js';
export { differenceRgba, mix8, mix16 } from './mix.js';
export type { Box } from './place.js';
export { fillBlack, fitInside, placePicture } from './place.js';
export { shrinkPlane } from './shrink.js';
