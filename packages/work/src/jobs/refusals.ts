import { type Facts, REFUSAL_SENTENCES, type RefusalCode } from '@thawline/project';

type Sentence = (facts: Facts) => string;

/** Why a job was not started, beyond the reasons of commands: each reason's code and its sentence. */
const SENTENCES = {
  'timeline-empty': (f) => `${f.timeline} has no clips yet: there is nothing to render.`,
  'same-source': () => 'Choose two different sources to compare.',
  'no-sound': (f) => `${f.source} has no sound.`,
  'file-missing': (f) => `${f.file} is no longer where it was. Find it again, or put it back.`,
  'frames-unheld': () => 'The form cannot hold frames of this kind.',
  'bad-name': () => 'A file of that name is not taken.',
  'bad-request': () => 'The request is not as expected.',
  'no-desk': () => 'No intake desk is known here. Start one (npm run desk) and name it: THAWLINE_DESK=http://127.0.0.1:4750',
} as const satisfies Record<string, Sentence>;

export type JobRefusalCode = keyof typeof SENTENCES;
export const JOB_REFUSALS = Object.keys(SENTENCES) as JobRefusalCode[];
export const JOB_REFUSAL_SENTENCES: Readonly<Record<JobRefusalCode, Sentence>> = SENTENCES;

/** A job that cannot be started as it was asked for. */
export class JobRefused extends Error {
  /** @param sentence says more than the code's own sentence does */
  constructor(
    readonly code: RefusalCode | JobRefusalCode,
    readonly facts: Facts = {},
    sentence?: string,
  ) {
    super(sentence ?? { ...REFUSAL_SENTENCES, ...SENTENCES }[code](facts));
  }
}
