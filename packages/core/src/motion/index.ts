export type { MadePicture, MotionEngine } from './engine.js';
export { ReferenceMotion } from './engine.js';
export { KernelMotion } from './engine.wasm.js';
