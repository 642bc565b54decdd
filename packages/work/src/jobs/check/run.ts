import { check } from '../../analyse/check.js';

export const run = check;
