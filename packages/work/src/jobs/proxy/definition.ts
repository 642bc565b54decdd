import { z } from 'zod';
import { defineJob } from '../define.js';
import { nothingSchema, sourceIdsSchema } from '../shared.js';

/** Small pictures to play and look at: made by themselves when sources are added, and anew after they were freed. */
export const proxy = defineJob({
  kind: 'proxy',
  title: 'Proxy of',
  requests: [z.object({ kind: z.literal('proxy'), sourceIds: sourceIdsSchema })],
  params: nothingSchema,
  result: z.object({ pictures: z.int() }),
  subject: 'media',
  // The list of files is large: the browser notes there by itself that the proxy is made.
  stale: [],
  background: true,
});
