import type { alignedSchema, heldOutSchema, loudnessSchema, panSchema } from '@thawline/work/definitions';
import { z } from 'zod';

/** What else was measured of sources: the jobs' own shapes. */

export type PanReply = z.infer<typeof panSchema>;
export type HeldOutReply = z.infer<typeof heldOutSchema>;
export type AlignedReply = z.infer<typeof alignedSchema>;
export type LoudnessReply = z.infer<typeof loudnessSchema>;

/** A stretch in seconds of a source, from its first picture. */
export const secondsRangeSchema = z.object({ from: z.coerce.number(), to: z.coerce.number() });

/** How a timeline's sound is saved. */
export const waveFormSchema = z.object({ form: z.enum(['s24', 'f32']).default('s24') });
