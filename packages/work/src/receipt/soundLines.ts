import { OUTLINE_RATE } from '@thawline/core/align';
import type { Probe } from '@thawline/media';
import { channelsFor, peakWords, plural, type SettledForm, SOUND_CODECS, SOUND_WORDS, type SoundCodec } from '@thawline/project';
import { mixedSound } from '../audio/mix.js';
import { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame } from '../audio/stretch.js';
import { type RenderInput, rangeOf } from '../compose/input.js';
import type { MediaContext } from '../jobs/context.js';
import type { ReceiptLine } from './types.js';
import { type Listened, lagBetween, listen } from './writtenSound.js';

/** How far written sound may be from where it was asked for: 1 ms. */
const SYNC = 0.001;
/** And how much longer or shorter: codecs fill up their last block. */
const SOUND_LENGTH = 0.03;

/** How far a peak may be above and below the requested one, in dB. Above is strict; below allows for the few coding attempts. */
const PEAK_OVER = 0.05;
const PEAK_UNDER = 0.5;

/** Codings of sound as a probe names them. */
const PROBED: Record<SoundCodec, string> = {
  aac: 'aac',
  opus: 'opus',
  flac: 'flac',
  pcm16: 'pcm_s16le',
  pcm24: 'pcm_s24le',
  pcm32f: 'pcm_f32le',
};

/** What a receipt says of sound, and how loud it is. */
export interface SoundLines {
  readonly lines: ReceiptLine[];
  readonly level: { readonly loudness: number | null; readonly peak: number | null };
}

/**
 * Lines on the sound of a file, against the mix of the edit.
 * @param file that the sound is in, and its probe; null where there should be one and is none
 */
export async function soundLines(
  context: MediaContext,
  input: RenderInput,
  {
    form,
    path,
    probe,
    heard,
  }: {
    readonly form: Pick<SettledForm, 'kind' | 'peak' | 'sound' | 'soundCodec'>;
    readonly path: string;
    readonly probe: Probe | null;
    readonly heard: boolean;
  },
): Promise<SoundLines> {
  const { media, signal } = context;
  const { from, to } = rangeOf(input);
  const { rate } = input.timeline;
  const length = (sampleOfFrame(to, rate) - sampleOfFrame(from, rate)) / SOUND_RATE;
  const sound = probe?.sound ?? null;
  const none = { loudness: null, peak: null };
  if (!sound || !heard) {
    const measured = sound ? `${sound.seconds.toFixed(3)} s` : 'none';
    const asked = heard ? `${length.toFixed(3)} s` : 'none';
    return { lines: [{ what: 'sound', asked, measured, same: !heard === !sound }], level: none };
  }
  const channels = channelsFor(input.project, input.timeline, input.range ?? null, form);
  const mix = await listen(mixedSound(context, { ...input, channels }), channels);
  const at = mix.first && mix.last;
  const late = Math.round(sound.startSeconds * OUTLINE_RATE);
  const places = mix.first && at ? { first: mix.first.from - late, last: at.from - late } : { first: 0, last: 0 };
  const request = { sampleRate: SOUND_RATE, channels: sound.channels, asStored: true, signal };
  const written = await listen(media.openSound(path, request), sound.channels, places);
  const seconds = written.samples / SOUND_RATE;
  const codec = SOUND_CODECS.find((one) => PROBED[one] === sound.codec);
  const coding = codec ? SOUND_WORDS[codec] : sound.codec;
  const lines: ReceiptLine[] = [
    {
      what: 'sound',
      asked: `${SOUND_WORDS[form.soundCodec]}, ${channelWords(channels)}${length.toFixed(3)} s`,
      measured: `${coding}, ${channelWords(sound.channels)}${seconds.toFixed(3)} s${written.peak === null ? ', silent' : `, peak ${peakWords(written.peak)}`}`,
      same:
        Math.abs(seconds + sound.startSeconds - length) < SOUND_LENGTH &&
        coding === SOUND_WORDS[form.soundCodec] &&
        sound.channels === channels,
    },
    ...(form.peak === null ? [] : [peakLine(form.peak, written.peak)]),
    syncLine(mix, written),
  ];
  return { lines, level: { loudness: written.loudness, peak: written.peak } };
}

/** Stereo is not named. */
function channelWords(channels: number): string {
  return channels === SOUND_CHANNELS ? '' : `${plural(channels, 'channel')}, `;
}

/** Silence has no peak to bring anywhere. */
function peakLine(asked: number, measured: number | null): ReceiptLine {
  const near = measured === null || (measured <= asked + PEAK_OVER && measured >= asked - PEAK_UNDER);
  return { what: 'peak', asked: peakWords(asked), measured: measured === null ? 'silence' : peakWords(measured), same: near };
}

function syncLine(mix: Listened, written: Listened): ReceiptLine {
  const asked = '0 ms';
  if (!mix.first || !mix.last) {
    const silent = written.loudness === null;
    return { what: 'sync', asked: 'silence', measured: silent ? 'silence' : 'sound', same: silent };
  }
  const lags = [
    written.first && lagBetween(mix.first, written.first),
    written.last && lagBetween(mix.last, written.last),
  ] as const;
  const word = (lag: number | null): string =>
    lag === null ? 'another sound' : `${signOf(lag)}${Math.abs(lag * 1000).toFixed(1)} ms`;
  return {
    what: 'sync',
    asked,
    measured: `${word(lags[0])} at start, ${word(lags[1])} at end`,
    same: lags.every((lag) => lag !== null && Math.abs(lag) <= SYNC),
  };
}

/** None for what is shown as 0.0. */
function signOf(seconds: number): string {
  if (Math.abs(seconds) < 0.00005) return '';
  return seconds > 0 ? '+' : '\u2212';
}
