export { createApp } from './app.js';
export { beginDemo, DEMO_NAME } from './demo.js';
export type { Settings } from './settings.js';
export { readSettings } from './settings.js';
