export type { MadePicture, MotionEngine } from './engine.js';
export { ReferenceMotion } from './engine.js';
export { KernelMotion } from './engine.wasm.js';
export { openMotion } from './open.js';
export type { QuickPan, Shift } from './pan.js';
export { CALM_SHARE, calmSeconds, crossingSeconds, panBetween, quickPans } from './pan.js';
