import { makeWave } from '../../audio/waveform.js';

export const run = makeWave;
