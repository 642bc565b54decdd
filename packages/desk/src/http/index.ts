export { httpDesk, type Patience } from './client.js';
