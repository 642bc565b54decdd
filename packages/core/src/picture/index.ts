export type { AlphaKind, PictureKind } from './alpha.js';
export {
  ALPHA_KINDS,
  AlphaMeter,
  blackSamples,
  deepen,
  flatLayout,
  flatten,
  isStraight,
  multipliedLayout,
  multiply,
  nothingIn,
  steering,
  unmultiply,
} from './alpha.js';
export type { LookingAt } from './around.js';
export { drawView, viewOf } from './around.js';
export { Average } from './average.js';
export type { CodedAs, PictureCoder, PictureLoss } from './coded.js';
export { ALPHA_LOST, codedAs, leastLossy, lossWords, pictureLosses, takesAsIs } from './coded.js';
export type { Chromaticity, Colour, Encoding, HighRange, Light, PixelRange } from './colour.js';
export {
  bent,
  curveOf,
  differsInLight,
  HLG,
  isHighRange,
  LINEAR,
  lumaFor,
  luminanceOf,
  PIXEL_RANGES,
  PQ,
  pqOf,
  settledColour,
  settledLight,
  USUAL_PEAK,
  USUAL_SITING,
  WHITE,
} from './colour.js';
export { colourName, colourWords } from './colourWords.js';
export type { PixelFacts } from './facts.js';
export { deepFormat, isSeenThrough, opaqueFormat, pixelFacts, pixelWords, planarName, workingFormat } from './facts.js';
export type { PixelLayout, PlaneSize } from './format.js';
export { pictureBytes, pixelLayout, planeShifts, planeSizes } from './format.js';
export type { Affine, Laid, Point, Pose } from './lay.js';
export { after, areaOf, cornersOf, inverted, layPicture, meet, PLAIN_POSE, pointBy } from './lay.js';
export type { LightOfPictures, Mix } from './light.js';
export { MIXES, mixLight, mixLightRgba } from './light.js';
export { meanSquare, psnrOf, ssim } from './likeness.js';
export { givenColour, isLight, lightOfSignals, signalsOfLight } from './linear.js';
export { differenceRgba, mix8, mix16 } from './mix.js';
export { layOver, overlay } from './overlay.js';
export type { Paint } from './paint.js';
export { lumaShares, PAINTS, paintHex, paintOf, paintSamples } from './paint.js';
export type { Box, FramingWay, Shape, Size } from './place.js';
export { fillWith, placeBox, placePicture, samplesOf } from './place.js';
export type { PictureSaid, Remark } from './remarks.js';
export { REMARKS, remarksOf, remarkWords } from './remarks.js';
export { rgbaToPlanes, rgbaToYuv420, yuv420ToRgba } from './rgba.js';
export { shrinkPlane } from './shrink.js';
export { turnFreely, turnQuarters, withAlpha } from './turn.js';
