import { z } from 'zod';
import { PROJECTIONS } from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { sourceIdsSchema } from '../schemas.js';

/** Whether sources are pictures of all around, whatever their files say; null: as they say. */
export const setProjection = defineCommand({
  schema: z.object({
    type: z.literal('setProjection'),
    sourceIds: sourceIdsSchema,
    projection: z.enum(PROJECTIONS).nullable(),
  }),
  change(draft, { sourceIds, projection }) {
    for (const id of sourceIds) {
      const source = findFileSource(draft, id);
      if (source.kind === 'sound') throw new Refused('sound-alone', { source: source.name });
      if (projection === null) delete source.projection;
      else source.projection = projection;
    }
  },
  label({ sourceIds, projection }, names) {
    const what = sourceIds.length === 1 ? names.source(sourceIds[0] ?? '') : counted(sourceIds.length, 'source');
    return projection === null ? `Took ${what} as its file says` : `Took ${what} as ${WORDS[projection]}`;
  },
});

const WORDS = { flat: 'flat', equirectangular: 'a picture of all around' } as const;
