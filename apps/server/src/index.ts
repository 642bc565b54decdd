export { createApp } from './app.js';
export { DEMO_NAME, seedDemo } from './demo.js';
export type { Settings } from './settings.js';
export { readSettings } from './settings.js';
