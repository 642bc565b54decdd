export {
  integratedLoudness,
  LOUDNESS_RATE,
  LOUDNESS_STEP,
  LoudnessMeter,
  type LoudnessSteps,
  peakLevel,
} from './loudness.js';
export { bentMap, evenMap, type SoundMap, shiftedMap } from './map.js';
export { Resampler } from './resample.js';
export { Stretcher } from './stretch.js';
export { Varispeed } from './varispeed.js';
export { WAV_FORMS, type WavForm, type WavLook, wavHead, wavSampleBytes, wavSamples } from './wav.js';
export { WAVE_CHUNK, WAVE_LEVELS, WaveMaker } from './wave.js';
