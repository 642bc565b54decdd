import { encode } from './encode.js';
import { openJpegs, openPictures } from './pictures.js';
import type { Media } from './port.js';
import { probe } from './probe.js';
import { openSound } from './sound.js';

export { startSeconds } from './pictures.js';
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
export const ffmpeg: Media = { probe, openPictures, openSound, openJpegs, encode };
export { sentence } from './sentences.js';
