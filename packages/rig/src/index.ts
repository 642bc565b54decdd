export { Sensor } from './canvas.js';
export type { ClipPlan, Truth } from './clips.js';
export { demoClips, SOUND_RATE } from './clips.js';
export { writeDemoClips } from './demo.js';
export { normal, random } from './random.js';
export type { Scene } from './scenes.js';
export { icicles, interview, jetty, lake, ridge } from './scenes.js';
export { picturesOf, stereo, writeClip } from './write.js';
