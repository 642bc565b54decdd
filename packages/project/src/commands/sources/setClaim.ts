import { formatRate } from '@thawline/core/time';
import { z } from 'zod';
import { rateSchema } from '../../document/document.js';
import { findFileSource } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { sourceIdsSchema } from '../schemas.js';

/** What a camera is said to have taken, pictures a second; null takes the claim away. */
export const setClaim = defineCommand({
  schema: z.object({ type: z.literal('setClaim'), sourceIds: sourceIdsSchema, claimed: rateSchema.nullable() }),
  change(draft, command) {
    for (const id of command.sourceIds) findFileSource(draft, id).claimed = command.claimed;
  },
  label(command, names) {
    const what =
      command.sourceIds.length === 1 ? names.source(command.sourceIds[0] ?? '') : counted(command.sourceIds.length, 'source');
    return command.claimed ? `Noted a claim of ${formatRate(command.claimed)} for ${what}` : `Took the claim of ${what} away`;
  },
});
