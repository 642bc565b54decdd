import { RECEIPT_WHAT } from '@thawline/project';
import { z } from 'zod';

const namedPictureSchema = z.object({ source: z.string(), picture: z.int() });

/** What was measured on a rendered file. Never changed: measuring again gives another one. */
export const receiptFactsSchema = z.object({
  /** What of a file is as asked, a line each. */
  lines: z.array(z.object({ what: z.enum(RECEIPT_WHAT), asked: z.string(), measured: z.string(), same: z.boolean() })),
  /** Where frames show another picture than they should. */
  wrong: z.array(
    z.object({
      /** First frame of the file; the timeline's is `range.from` more. The next `frames` are wrong in the same way. */
      frame: z.int(),
      frames: z.int(),
      /** The frame that the first one shows; null: none near by. */
      shows: z.int().nullable(),
      /** Null: black. */
      asked: namedPictureSchema.nullable(),
      shown: namedPictureSchema.nullable(),
    }),
  ),
  /** Things that differ: lines, and stretches of wrong pictures. */
  differs: z.int(),
  /** Frames that hardly differ from a neighbour and cannot be distinguished from it. */
  alike: z.int(),
  frames: z.int(),
  bytes: z.int(),
  /** Of all that was written, to see later whether it still is the same. */
  fingerprint: z.string(),
  /** Size and time of each file: while these are the same, so is what was measured. */
  stamp: z.string(),
  /** Names of what was written: the pictures, then sound beside them. */
  files: z.array(z.string()),
  /** Of the sound as it was written, in LUFS and dBTP. */
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
});
