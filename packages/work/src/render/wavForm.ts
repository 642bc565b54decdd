import type { WavForm } from '@thawline/core/sound';
import type { SettledForm, SoundCodec } from '@thawline/project';

const WAVS: Partial<Record<SoundCodec, WavForm>> = { pcm16: 's16', pcm24: 's24', pcm32f: 'f32' };

/** The samples of a WAV by the sound that a form asks for. */
export function wavFormOf({ soundCodec }: Pick<SettledForm, 'soundCodec'>): WavForm {
  return WAVS[soundCodec] ?? 's24';
}
