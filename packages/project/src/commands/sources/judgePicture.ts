import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findFileSource } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';
import { checkPicture, putAtPicture } from './atPicture.js';

/** A person's word on a picture against what a check found; null takes it back. */
export const judgePicture = defineCommand({
  schema: z.object({
    type: z.literal('judgePicture'),
    sourceId: idSchema,
    picture: frameSchema,
    as: z.enum(['held', 'new']).nullable(),
  }),
  change(draft, command) {
    const source = findFileSource(draft, command.sourceId);
    const { picture, as } = command;
    checkPicture(source, picture);
    source.judged = putAtPicture(source.judged, picture, as === null ? null : { picture, as });
  },
  label(command, names) {
    const where = `picture ${command.picture} of ${names.source(command.sourceId)}`;
    return command.as === null ? `Left ${where} to the check` : `Called ${where} ${command.as}`;
  },
});
