import { measurePan } from '../../analyse/pan.js';

export const run = measurePan;
