import { formSchema, idSchema } from '@thawline/project';
import { z } from 'zod';
import { defineJob } from '../define.js';
import { receiptFactsSchema } from '../receipt/receiptFacts.js';
import { rangeSchema } from '../shared.js';
import { storedProjectSchema } from './storedProject.js';

/** What of a timeline is rendered, and as what. */
export const wantedSchema = {
  timelineId: idSchema,
  /** In to out only. */
  range: z.boolean().default(false),
  /** The frames of this clip only. */
  clipId: idSchema.nullable().default(null),
  form: formSchema.prefault({}),
  /** One of the folders for renders, by its name; the first where there is none. */
  folder: z.string().max(200).nullable().default(null),
};

/** Frames whose parts are written again even if they are cached. */
const anewSchema = z.array(z.int().min(0)).max(10_000).default([]);

/** A render as its row keeps it: the edit as it was when it was asked for, and where the file goes. */
export const renderParamsSchema = z.object({
  project: storedProjectSchema,
  timelineId: z.string().max(40),
  /** Name that its file is wanted under, without an ending; renders of earlier versions have it. */
  file: z
    .string()
    .min(1)
    .max(255)
    .regex(/^[^/\\]+$/),
  /** Absolute. Renders of earlier versions went to the first folder, in one form. */
  folder: z.string().max(4096).optional(),
  form: formSchema.prefault({}),
  /** Of the timeline's own frames; the whole timeline when left out. */
  range: rangeSchema.nullish(),
  anew: z.array(z.int()).optional(),
});

const resultSchema = z.object({
  receipt: receiptFactsSchema,
  /** Paths of the files. Empty for renders of earlier versions, whose one file is in the folder under its name. */
  paths: z.array(z.string()),
  /** Frames that had been written before. */
  reused: z.int().default(0),
});

/** What renders of earlier versions kept: no receipt of its own, and one file. */
const oldResultSchema = z
  .object({
    lines: receiptFactsSchema.shape.lines.default([]),
    wrong: z.array(z.object({ frame: z.int(), shows: z.int() })).default([]),
    bytes: z.int().default(0),
    differs: z.int().default(0),
  })
  .transform(
    ({ lines, wrong, bytes, differs }): z.output<typeof resultSchema> => ({
      receipt: {
        lines,
        bytes,
        differs,
        alike: 0,
        fingerprint: '',
        stamp: '',
        files: [],
        loudness: null,
        peak: null,
        wrong: wrong.map(({ frame, shows }) => ({ frame, frames: 1, shows, asked: null, shown: null })),
        frames: Number(lines.find((l) => l.what === 'frames')?.measured ?? 0),
      },
      paths: [],
      reused: 0,
    }),
  );

/** A timeline as a file, measured when it is written. */
export const render = defineJob({
  kind: 'render',
  title: '',
  requests: [
    z.object({
      kind: z.literal('render'),
      ...wantedSchema,
      /** The file's name without its ending; made from the timeline's name when left out. */
      name: z.string().max(200).nullable().default(null),
      anew: anewSchema,
    }),
    /** The same render once more, as the edit was then. */
    z.object({ kind: z.literal('rerender'), jobId: idSchema, anew: anewSchema }),
  ],
  params: renderParamsSchema,
  result: z.union([resultSchema, oldResultSchema]),
  subject: 'timeline',
  stale: [{ query: 'receipts', of: 'project' }],
});
