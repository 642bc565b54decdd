import { compare } from '../../analyse/compare.js';

export const run = compare;
