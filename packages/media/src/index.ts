import { encode } from './encode.js';
import { openJpegs, openPictures, tileJpegs } from './pictures.js';
import type { Media } from './port.js';
import { probe, probeSeries } from './probe.js';
import { openSound } from './sound.js';

export type {
  AnyIterable,
  EncodeRequest,
  Known,
  Media,
  MediaCode,
  PictureRequest,
  Pictures,
  Probe,
  SoundFacts,
  SoundRequest,
} from './port.js';
export { MEDIA_CODES, MediaError } from './port.js';

/** The port's one adapter: FFmpeg as a process. */
export const ffmpeg: Media = { probe, probeSeries, openPictures, openSound, openJpegs, tileJpegs, encode };
export { seriesName, seriesPattern } from './process.js';
export { sentence } from './sentences.js';
