import { heldOut } from '../../analyse/heldOut.js';

export const run = heldOut;
