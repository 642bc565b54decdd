import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { integratedLoudness, LoudnessMeter, peakLevel, wavSamples } from '@thawline/core/sound';
import { FORMS, type SettledForm } from '@thawline/project';
import { mixChannels, mixedSound } from '../audio/mix.js';
import { SOUND_RATE } from '../audio/stretch.js';
import type { Loudness } from '../audio/waveform.js';
import type { RenderInput } from '../compose/input.js';
import type { MediaContext } from '../jobs/context.js';
import { joinedForm } from './joinedForm.js';
import { wavFormOf } from './wavForm.js';

/** How loud a render's sound comes out, found by coding it: codecs overshoot, by more than 1 dB where the mix is near full scale. */
export interface CodedSound {
  /** What the mix is brought up or down by, in dB; 0 where no peak is asked for. */
  readonly gainDb: number;
  /** The mix with that gain, and what the file's sound decodes to. */
  readonly mix: Loudness;
  readonly coded: Loudness;
  readonly bytes: number;
  /** Seconds that mixing, and coding with decoding took, of the last time. */
  readonly mixSeconds: number;
  readonly codeSeconds: number;
}

/** Times that sound is coded at most to bring its peak where it was asked for; two are usual. */
const TRIES = 5;
/** A coded peak this far below the one asked for is taken; one above it never is, as long as there are tries. */
const NEAR_DB = 0.1;
/** What is added to a step down, so that the next try does not end a hair above again. */
const HAIR_DB = 0.02;
/** Gains that are looked at, in dB: what needs more is silence. */
const GAIN_MOST_DB = 60;

/**
 * Codes a render's sound as its file will hold it and listens to that; where the form asks for a peak, again with another gain until
 * the coded sound has it.
 * @param folder where coded sound is put meanwhile
 */
export async function codeSound(
  context: MediaContext,
  input: RenderInput,
  form: Pick<SettledForm, 'kind' | 'peak' | 'soundCodec'>,
  folder: string,
): Promise<CodedSound> {
  const { peak } = form;
  let gainDb = 0;
  if (peak !== null) {
    const plain = await loudnessOf(mixedSound(context, { ...input, gainDb: 0, unlimited: true }), mixChannels(input));
    if (plain.peak !== null) gainDb = within(peak - plain.peak);
  }
  let best: CodedSound | null = null;
  for (let tries = 0; tries < TRIES; tries++) {
    const found = await coded(context, { ...input, gainDb }, form, folder);
    if (peak === null || found.coded.peak === null) return found;
    const over = found.coded.peak - peak;
    if (!best || better(over, (best.coded.peak ?? 0) - peak)) best = found;
    if (over <= 0 && over >= -NEAR_DB) return found;
    gainDb = within(gainDb - over - HAIR_DB);
  }
  return best as CodedSound;
}

/** Whether one distance above the peak that was asked for is to be had rather than another: below it, as near as can be. */
function better(one: number, other: number): boolean {
  if (one <= 0 !== other <= 0) return one <= 0;
  return Math.abs(one) < Math.abs(other);
}

function within(gainDb: number): number {
  return Math.max(-GAIN_MOST_DB, Math.min(GAIN_MOST_DB, gainDb));
}

async function coded(
  context: MediaContext,
  input: RenderInput,
  { kind, soundCodec }: Pick<SettledForm, 'kind' | 'soundCodec'>,
  folder: string,
): Promise<CodedSound> {
  const { media, signal } = context;
  const channels = mixChannels(input);
  const meter = new LoudnessMeter(channels);
  const written = new LoudnessMeter(channels);
  const begun = performance.now();
  let mixing = 0;
  let bytes = 0;
  const mix = async function* (): AsyncGenerator<Float32Array> {
    const stream = mixedSound(context, input);
    try {
      for (;;) {
        const asked = performance.now();
        const next = await stream.next();
        mixing += performance.now() - asked;
        if (next.done) return;
        meter.push(next.value);
        yield next.value;
      }
    } finally {
      await stream.return(undefined);
    }
  };
  if (FORMS[kind].sound !== 'within') {
    // What rounding to whole numbers does is far below anything that is measured.
    for await (const block of mix()) {
      written.push(block);
      bytes += wavSamples(block, wavFormOf({ soundCodec })).length;
    }
  } else {
    const path = join(folder, `sound.${FORMS[kind].ending}`);
    const request = { form: joinedForm(kind), sampleRate: SOUND_RATE, channels, codec: soundCodec };
    await media.encodeSound(path, { ...request, signal }, mix());
    bytes = (await stat(path)).size;
    const decoded = media.openSound(path, { ...request, asStored: true, signal });
    for await (const block of decoded) written.push(block);
    await rm(path, { force: true });
  }
  const seconds = (performance.now() - begun) / 1000;
  return {
    gainDb: input.gainDb ?? 0,
    mix: levelOf(meter),
    coded: levelOf(written),
    bytes,
    mixSeconds: mixing / 1000,
    codeSeconds: seconds - mixing / 1000,
  };
}

async function loudnessOf(sound: AsyncIterable<Float32Array>, channels: number): Promise<Loudness> {
  const meter = new LoudnessMeter(channels);
  for await (const block of sound) meter.push(block);
  return levelOf(meter);
}

function levelOf(meter: LoudnessMeter): Loudness {
  const { energy, peak } = meter.finish();
  return { loudness: integratedLoudness(energy), peak: peakLevel(peak) };
}
