import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { nothingSchema } from '../shared.js';

/** How near made pictures came to those that were hidden: luma, PSNR in dB (100: the very same). */
export const heldOutSchema = z.object({
  psnr: z.number(),
  ssim: z.number(),
  perPicture: z.array(
    z.object({ picture: z.int(), psnr: z.number(), ssim: z.number(), certainty: z.number(), moved: z.boolean() }),
  ),
});

/** Hides every second picture of a source and makes it again from its neighbours. */
export const heldOut = defineJob({
  kind: 'heldout',
  title: 'Held-out test of',
  requests: [z.object({ kind: z.literal('heldout'), sourceId: idSchema })],
  params: nothingSchema,
  result: heldOutSchema,
  subject: 'media',
  stale: [{ query: 'heldout', of: 'subject' }],
});
