import { idSchema } from '@thawline/project';
import { z } from 'zod';

/** Pieces that the definitions of several jobs are made of. */

/** Sources, each of which becomes a job of its own. */
export const sourceIdsSchema = z.array(idSchema).min(1).max(10_000);

/** Frames or pictures, `to` not included. */
export const rangeSchema = z.object({ from: z.int(), to: z.int() });

/** A row that keeps nothing: the subject says it all. */
export const nothingSchema = z.object({});

/** A part of a picture, in shares of its width and height. */
export const regionSchema = z
  .object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })
  .refine((r) => r.x >= 0 && r.y >= 0 && r.width > 0 && r.height > 0 && r.x + r.width <= 1.0001 && r.y + r.height <= 1.0001);
export type Region = z.output<typeof regionSchema>;
