import { type Facts, REFUSAL_SENTENCES, REFUSALS } from '@thawline/project';
import { JOB_REFUSAL_SENTENCES, JOB_REFUSALS } from '@thawline/work/definitions';
import { z } from 'zod';

type Sentence = (facts: Facts) => string;

/** The sentence for each error code that is neither a command's refusal nor a job's error. A caller may give a more specific one. */
const REQUEST_SENTENCES = {
  'unknown-project': () => 'There is no such project.',
  'unknown-media': () => 'There is no such file.',
  'unknown-job': () => 'There is no such job.',
  'unknown-route': () => 'There is nothing at this address.',
  'unknown-picture': () => 'There is no such picture.',
  'unknown-preset': () => 'There is no such form among those that are kept.',
  'unknown-revision': () => 'There is no such step in the history.',
  'unknown-folder': (f) => `${f.path} is not there.`,
  'unknown-backup': () => 'There is no such backup. It may have made room for a newer one.',
  'unknown-upload': () => 'This upload is not known here any more. Send the file again.',
  'no-file': () => 'No file came with the request.',
  'foreign-host': () => 'This host name is not served here.',
  'foreign-origin': () => 'Requests from other sites are refused.',
  'token-needed': () => 'This server asks for a token. Open the address that it printed when it started.',
  'nothing-to-undo': () => 'There is nothing to undo.',
  'nothing-to-redo': () => 'There is nothing to redo.',
  'step-touched': (f) =>
    `"${f.step}" cannot be taken back by itself: "${f.later}", done in another window, changed the same since. Undo that one there first, or go back in the history.`,
  'not-checked': () => 'This source has not been checked yet.',
  'not-finished': () => 'This job has not finished.',
  'disk-full': () => 'The disk is full. Nothing was changed; make room, then try again.',
  'not-stored': (f) => `This could not be stored (${f.reason}). Nothing was changed; try again when the disk takes changes.`,
  'project-damaged': (f) => `${f.name} cannot be read: its row in the database is damaged. Bring it back from a backup.`,
  'no-folder': () => 'That folder is not there, or takes no files.',
  'outside-folders': () => 'That lies outside the media folders. Only what THAWLINE_MEDIA names can be used in place.',
  'already-here': (f) => `${f.name} is already here. It was not added again.`,
  'rate-needed': () => 'Numbered pictures need a rate to be read at.',
  'file-changed': (f) => `${f.file} was changed after it was added.`,
  'file-unchanged': (f) => `${f.file} is as it was: there is nothing to take over.`,
  'another-file': () => 'That is another file: size or contents differ.',
  'not-found-again': () => 'No file in the media folders is this one.',
  'not-an-edit': (f) => `${f.file} is not an edit file.`,
  'not-a-project': (f) => `This is not a Thawline project file: ${f.reason}.`,
  busy: () => 'Too much is asked at once. Try again in a moment.',
  internal: () => 'Something went wrong in the server. Nothing was changed.',
} as const satisfies Record<string, Sentence>;

type RequestCode = keyof typeof REQUEST_SENTENCES;

/** Every reason a request is turned down, for both sides. The server maps each to a status; a new code does not compile without one. */
export const ERROR_CODES = [...REFUSALS, ...JOB_REFUSALS, ...(Object.keys(REQUEST_SENTENCES) as RequestCode[])] as const;
export type ErrorCode = (typeof ERROR_CODES)[number];

/** The sentence of every code, from the facts that come with it. */
export const ERROR_SENTENCES: Readonly<Record<ErrorCode, Sentence>> = {
  ...REFUSAL_SENTENCES,
  ...JOB_REFUSAL_SENTENCES,
  ...REQUEST_SENTENCES,
};

export const errorSchema = z.object({
  code: z.enum(ERROR_CODES),
  /** A sentence for a person. */
  message: z.string(),
  facts: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])).default({}),
});
export type ErrorReply = z.infer<typeof errorSchema>;
