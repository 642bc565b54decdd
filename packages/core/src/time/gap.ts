import { type Rate, rate, rateToNumber, SNAP_TOLERANCE_PPM, snapRate } from './rate.js';

/** Sound may be this much longer or shorter than the picture before it is worth a word: an AAC file's padding and more. */
const GAP_SECONDS = 0.1;
/** However short the sound: 29.97 and 30 are 1000 ppm apart, and either may be meant. */
const LARGEST_PPM = 450;

export interface SoundGap {
  /** Sound minus picture, in seconds. */
  readonly seconds: number;
  /** The rate at which the pictures would last as long as the sound, snapped where a standard one is near; null for no sound at all. */
  readonly impliedRate: Rate | null;
  /** Whether that is a standard rate: else it is shown only where somebody asks for it. */
  readonly standard: boolean;
}

/**
 * The gap between sound and picture, null when there is none worth a word: 3000 pictures at 30 with 120 s of sound were shot at 25.
 * @param pictures count
 * @param measured their measured rate
 * @param pictureSeconds first picture's start to last picture's end
 * @param soundSeconds length of the sound
 */
export function soundGap(pictures: number, measured: Rate, pictureSeconds: number, soundSeconds: number): SoundGap | null {
  const seconds = soundSeconds - pictureSeconds;
  if (Math.abs(seconds) <= Math.max(GAP_SECONDS, 1 / rateToNumber(measured))) return null;
  if (soundSeconds <= 0) return { seconds, impliedRate: null, standard: false };
  const millis = Math.max(1, Math.round(soundSeconds * 1000));
  // Codecs pad their last block, so that short sound determines a rate less well.
  const tolerance = Math.min(LARGEST_PPM, Math.max(SNAP_TOLERANCE_PPM, (GAP_SECONDS / soundSeconds) * 1e6));
  const near = snapRate(pictures / soundSeconds, tolerance)?.rate ?? null;
  return { seconds, impliedRate: near ?? rate(pictures * 1000, millis), standard: near !== null };
}
