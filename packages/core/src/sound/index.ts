export { Resampler } from './resample.js';
