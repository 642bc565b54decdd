import { align } from '../../analyse/align.js';

export const run = align;
