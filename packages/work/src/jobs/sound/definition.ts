import { idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { nothingSchema } from '../shared.js';

/** EBU R 128 in LUFS, and true peak in dBTP; null for silence. */
export const loudnessSchema = z.object({ loudness: z.number().nullable(), peak: z.number().nullable() });

/** Waveform and loudness of a source. */
export const sound = defineJob({
  kind: 'sound',
  title: 'Sound of',
  requests: [z.object({ kind: z.literal('sound'), sourceId: idSchema })],
  params: nothingSchema,
  result: loudnessSchema,
  subject: 'media',
  stale: [
    { query: 'wave', of: 'subject' },
    { query: 'loudness', of: 'subject' },
  ],
  background: true,
});
