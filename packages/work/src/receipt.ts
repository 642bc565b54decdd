import { shrinkPlane } from '@thawline/core/picture';
import { formatExact, ppmBetween, type Rate, rateToNumber, sameRate, secondsOf } from '@thawline/core/time';
import { type Media, MediaError } from '@thawline/media';
import type { Progress } from './check.js';
import { SIGNATURE_BYTES, SIGNATURE_HEIGHT, SIGNATURE_WIDTH, type Signatures, signatureDistance } from './signatures.js';

/** What was asked of a render. */
export interface Asked {
  readonly rate: Rate;
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  /** Sound was asked for. */
  readonly sound: boolean;
}

export interface ReceiptLine {
  readonly what: 'rate' | 'frames' | 'length' | 'timing' | 'size' | 'sound' | 'pictures';
  readonly asked: string;
  readonly measured: string;
  readonly same: boolean;
}

/** A frame of the file that shows another picture than asked. */
export interface WrongFrame {
  readonly frame: number;
  /** The composed frame it looks like. */
  readonly shows: number;
}

export interface Receipt {
  readonly lines: readonly ReceiptLine[];
  readonly wrong: readonly WrongFrame[];
  readonly bytes: number;
  readonly differs: number;
}

/** Frames on each side that a written frame is compared with. */
const REACH = 4;
/**
 * A wrong frame lies as far from its own picture as that picture lies from the one it shows, and close to the latter.
 * Where neighbours hardly differ a codec mixes them freely, and neither is so: such frames cannot be told apart, by
 * eye or by measure, and are not called wrong.
 */
const CLOSE = 0.4;
const FAR = 0.6;
/** Distances below this, in 8-bit steps, are coding alone. */
const CODING = 0.05;

/**
 * Measures a written file by decoding all of it: rate and every timestamp, count, length, size, sound, and for each frame
 * which composed frame it shows, by comparing small luma pictures.
 * @param composed what the render handed to the encoder, frame by frame
 */
export async function measureReceipt(
  media: Media,
  path: string,
  bytes: number,
  asked: Asked,
  composed: Signatures,
  progress: Progress,
  signal?: AbortSignal,
): Promise<Receipt> {
  const probe = await media.probe(path, signal);
  const written = await signaturesOf(media, path, probe, composed.frames, progress, signal);
  const wrong = wrongFrames(written, composed);
  const { measured, seconds } = probe;
  if (!measured || seconds === null) throw new MediaError('no-picture');
  const length = secondsOf(asked.frames, asked.rate);
  const soundGap = probe.sound ? probe.sound.seconds - length : null;
  const ppm = ppmBetween(rateToNumber(measured.rate), asked.rate) + measured.ppm;
  const lines: ReceiptLine[] = [
    {
      what: 'rate',
      asked: formatExact(asked.rate),
      measured: `${rateToNumber(measured.rate).toFixed(3)} (${ppm.toFixed(0)} ppm)`,
      same: sameRate(measured.rate, asked.rate),
    },
    { what: 'frames', asked: String(asked.frames), measured: String(written.frames), same: written.frames === asked.frames },
    {
      what: 'length',
      asked: `${length.toFixed(3)} s`,
      measured: `${seconds.toFixed(3)} s`,
      same: Math.abs(seconds - length) < 0.5 / rateToNumber(asked.rate),
    },
    {
      what: 'timing',
      asked: `every ${(1000 / rateToNumber(asked.rate)).toFixed(2)} ms`,
      measured: probe.variable ? 'uneven' : 'even, every timestamp',
      same: !probe.variable,
    },
    {
      what: 'size',
      asked: `${asked.width}x${asked.height}`,
      measured: `${probe.width}x${probe.height}${probe.sampleAspect === 1 ? '' : ', samples not square'}`,
      same: probe.width === asked.width && probe.height === asked.height && probe.sampleAspect === 1,
    },
    {
      what: 'sound',
      asked: asked.sound ? `${length.toFixed(3)} s` : 'none',
      measured:
        soundGap === null
          ? 'none'
          : `${(soundGap + length).toFixed(3)} s, starts ${((probe.sound?.startSeconds ?? 0) * 1000).toFixed(1)} ms`,
      same: asked.sound
        ? soundGap !== null && Math.abs(soundGap) < 0.03 && Math.abs(probe.sound?.startSeconds ?? 1) < 0.001
        : soundGap === null,
    },
    {
      what: 'pictures',
      asked: 'each frame its own',
      measured: wrong.length === 0 ? 'each frame its own' : `${wrong.length} show another frame's picture`,
      same: wrong.length === 0 && written.frames === composed.frames,
    },
  ];
  return { lines, wrong, bytes, differs: lines.filter((l) => !l.same).length };
}

/** Decodes a file to the small luma pictures that the receipt compares. */
async function signaturesOf(
  media: Media,
  path: string,
  probe: Parameters<Media['openPictures']>[1],
  expected: number,
  progress: Progress,
  signal?: AbortSignal,
): Promise<Signatures> {
  const data = new Uint8Array(Math.max(1, expected + 64) * SIGNATURE_BYTES);
  let frames = 0;
  for await (const picture of media.openPictures(path, probe, { pixelFormat: 'gray', ...(signal ? { signal } : {}) })) {
    const at = frames * SIGNATURE_BYTES;
    if (at < data.length) {
      const small = data.subarray(at, at + SIGNATURE_BYTES);
      shrinkPlane(picture, probe.width, probe.height, small, SIGNATURE_WIDTH, SIGNATURE_HEIGHT);
    }
    frames++;
    if (frames % 10 === 0) progress(frames, expected, 'measuring the file');
  }
  return { frames, data };
}

/** Frames whose own composed picture fits clearly worse than a neighbour's. */
export function wrongFrames(written: Signatures, composed: Signatures): WrongFrame[] {
  const wrong: WrongFrame[] = [];
  const frames = Math.min(written.frames, composed.frames);
  for (let n = 0; n < frames; n++) {
    const own = signatureDistance(written.data, n, composed.data, n);
    let best = own;
    let shows = n;
    for (let other = Math.max(0, n - REACH); other <= Math.min(composed.frames - 1, n + REACH); other++) {
      const distance = signatureDistance(written.data, n, composed.data, other);
      if (distance < best) {
        best = distance;
        shows = other;
      }
    }
    if (shows === n || own - best < CODING) continue;
    const apart = signatureDistance(composed.data, n, composed.data, shows);
    if (best < own * CLOSE && own > apart * FAR) wrong.push({ frame: n, shows });
  }
  return wrong;
}
