import { encode } from './encode.js';
import { encodeSound, join } from './join.js';
import { packetBytes } from './packets.js';
import { openPictures } from './pictures.js';
import type { Media } from './port.js';
import { probe, probeSeries } from './probe.js';
import { openSound } from './sound.js';
import { jpegOf, openStills, tileStills } from './stills.js';
import { version } from './version.js';

export { codedOf } from './encode.js';
export type {
  AnyIterable,
  EncodeRequest,
  FieldsRead,
  JoinRequest,
  Known,
  Media,
  MediaCode,
  PictureRequest,
  Pictures,
  Probe,
  SoundEncodeRequest,
  SoundFacts,
  SoundRequest,
  VideoCodec,
} from './port.js';
export { MEDIA_CODES, MediaError } from './port.js';

/** The port's one adapter: FFmpeg as a process. */
export const ffmpeg: Media = {
  probe,
  probeSeries,
  openPictures,
  openSound,
  openStills,
  jpegOf,
  tileStills,
  encode,
  encodeSound,
  packetBytes,
  join,
  version,
};
export { namesIfThere, readIfThere, statIfThere } from './ifThere.js';
export { type Numbering, PLAIN_NUMBERING, seriesName, seriesPattern } from './process.js';
export { asStored, probeWithFields } from './readFields.js';
export { saidOf } from './said.js';
export { sentence } from './sentences.js';
export { stillType } from './stills.js';
