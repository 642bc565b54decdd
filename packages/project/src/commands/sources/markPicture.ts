import { z } from 'zod';
import { idSchema } from '../../document/document.js';
import { findFileSource } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { frameSchema } from '../schemas.js';
import { checkPicture, putAtPicture } from './atPicture.js';

/** A note on a picture of a source; null takes it away. */
export const markPicture = defineCommand({
  schema: z.object({
    type: z.literal('markPicture'),
    sourceId: idSchema,
    picture: frameSchema,
    note: z.string().trim().max(500).nullable(),
  }),
  change(draft, command) {
    const source = findFileSource(draft, command.sourceId);
    const { picture, note } = command;
    checkPicture(source, picture);
    source.marks = putAtPicture(source.marks, picture, note === null ? null : { picture, note });
  },
  label(command, names) {
    const where = `picture ${command.picture} of ${names.source(command.sourceId)}`;
    return command.note === null ? `Took the mark off ${where}` : `Marked ${where}`;
  },
});
