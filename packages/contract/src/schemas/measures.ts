import { z } from 'zod';

/** What else was measured of sources. Shapes of what travels between browser and server. */

/** How the whole picture moves from the one before, in shares of its width and height; right and down are positive. */
export const panSchema = z.object({ shifts: z.array(z.object({ x: z.number(), y: z.number() })) });
export type PanReply = z.infer<typeof panSchema>;

/** How near made pictures came to those that were hidden: luma, PSNR in dB (100: the very same). */
export const heldOutSchema = z.object({
  psnr: z.number(),
  ssim: z.number(),
  perPicture: z.array(
    z.object({ picture: z.int(), psnr: z.number(), ssim: z.number(), certainty: z.number(), moved: z.boolean() }),
  ),
});
export type HeldOutReply = z.infer<typeof heldOutSchema>;

const strikeSchema = z.object({ seconds: z.number(), strength: z.number() });

/** What aligning two files by their sound found; moments count from each file's first picture. */
export const alignedSchema = z.object({
  /** In microseconds. */
  ties: z.array(z.object({ a: z.int(), b: z.int(), strength: z.number(), strike: z.boolean() })),
  /** Under 0.5 the sounds do not match. */
  certainty: z.number(),
  strikesA: z.array(strikeSchema),
  strikesB: z.array(strikeSchema),
});
export type AlignedReply = z.infer<typeof alignedSchema>;

/** What was measured of sources, by the kind of job that measures it. */
export const measuresOf = { align: alignedSchema, heldout: heldOutSchema, pan: panSchema } as const;

/** EBU R 128 in LUFS, and true peak in dBTP; null for silence. */
export const loudnessSchema = z.object({ loudness: z.number().nullable(), peak: z.number().nullable() });
export type LoudnessReply = z.infer<typeof loudnessSchema>;

/** A stretch in seconds of a source, from its first picture. */
export const secondsRangeSchema = z.object({ from: z.coerce.number(), to: z.coerce.number() });

/** How a timeline's sound is saved. */
export const waveFormSchema = z.object({ form: z.enum(['s24', 'f32']).default('s24') });
