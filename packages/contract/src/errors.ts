import { REFUSALS } from '@thawline/project';
import { z } from 'zod';

/** Every reason a request is turned down, for both sides. The server maps each to a status; a new code does not compile without one. */
export const ERROR_CODES = [
  ...REFUSALS,
  'unknown-project',
  'unknown-media',
  'unknown-job',
  'unknown-route',
  'unknown-picture',
  'bad-request',
  'bad-name',
  'no-file',
  'foreign-host',
  'foreign-origin',
  'nothing-to-undo',
  'nothing-to-redo',
  'timeline-empty',
  'not-checked',
  'same-source',
  'no-sound',
  'not-finished',
  'disk-full',
  'no-folder',
  'no-desk',
  'unknown-preset',
  'unknown-revision',
  'unknown-folder',
  'outside-folders',
  'already-here',
  'rate-needed',
  'file-missing',
  'file-changed',
  'file-unchanged',
  'another-file',
  'not-found-again',
  'not-an-edit',
  'internal',
] as const;
export type ErrorCode = (typeof ERROR_CODES)[number];

export const errorSchema = z.object({
  code: z.enum(ERROR_CODES),
  /** A sentence for a person. */
  message: z.string(),
  facts: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])).default({}),
});
export type ErrorReply = z.infer<typeof errorSchema>;
