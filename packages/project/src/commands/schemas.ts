import { z } from 'zod';
import { idSchema } from '../document/document.js';

/** Pieces that the schemas of several commands are made of. */

export const nameSchema = z.string().trim().min(1).max(120);
export const frameSchema = z.int().min(0).max(100_000_000);
export const clipIdsSchema = z.array(idSchema).min(1).max(10_000);
export const sourceIdsSchema = z.array(idSchema).min(1).max(10_000);
/** Start of the ids that a command makes: `-` and a number follow. */
export const seedSchema = z.string().regex(/^[A-Za-z0-9_-]{1,24}$/);
