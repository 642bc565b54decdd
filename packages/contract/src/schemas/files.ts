import { parseRate } from '@thawline/core/time';
import { fieldRunsSchema, idSchema, rateSchema, sourceSchema } from '@thawline/project';
import { z } from 'zod';
import { askerSchema, changeSchema } from './projects.js';

/** Files: what is added, where it lies, how it stands. Shapes of what travels between browser and server. */

export const refusedFileSchema = z.object({ file: z.string(), code: z.string(), message: z.string() });

/** What came of files that were added. `change` brings the project along; null where nothing was added. */
export const uploadReplySchema = z.object({
  added: z.array(sourceSchema),
  refused: z.array(refusedFileSchema),
  change: changeSchema.nullable(),
});

/** Of an upload: numbered pictures sent together are one source at `sequence` pictures a second; changes with one `batch` are one step to undo. */
export const addQuerySchema = z.object({
  sequence: z
    .string()
    .transform((text, context) => {
      const rate = parseRate(text);
      if (rate) return rate;
      context.addIssue({ code: 'custom', message: 'not a rate' });
      return z.NEVER;
    })
    .optional(),
  batch: idSchema.optional(),
  client: askerSchema.shape.client,
});

/** How the fields of sources are to be read: runs of stored frames, or null for the frames as they are stored. One step to undo. */
export const readFieldsBodySchema = z.object({
  readings: z
    .array(z.object({ sourceId: idSchema, runs: fieldRunsSchema.nullable() }))
    .min(1)
    .max(1000),
  ...askerSchema.shape,
});

/** What of a stored frame is shown: its first or second field with the other's lines empty, both as they are, either rebuilt, the difference, or where rebuilding either is unsure. */
export const FIELD_VIEWS = [
  'first',
  'second',
  'both',
  'rebuilt-first',
  'rebuilt-second',
  'difference',
  'unsure-first',
  'unsure-second',
] as const;
export type FieldView = (typeof FIELD_VIEWS)[number];
export const fieldPictureQuerySchema = z.object({ order: z.enum(['top', 'bottom']) });

/** Paths in the media folders: the folder's own name first, then what lies in it, with slashes; '' is the list of folders. */
const folderPath = z.string().max(4096);

export const folderSchema = z.object({
  path: z.string(),
  folders: z.array(z.object({ name: z.string(), path: z.string() })),
  files: z.array(
    z.object({
      name: z.string(),
      path: z.string(),
      kind: z.enum(['film', 'picture', 'sound', 'other']),
      bytes: z.int(),
      modified: z.string(),
    }),
  ),
});
export type FolderReply = z.infer<typeof folderSchema>;

/** Something in a media folder that can be one source: a film, a single picture, or a numbered series named by its first file. */
export const itemSchema = z.object({ path: folderPath, kind: z.enum(['film', 'picture', 'sound', 'series']) });

export const scanBodySchema = z.object({ paths: z.array(folderPath).min(1).max(10_000) });

export const scanReplySchema = z.object({
  items: z.array(itemSchema.extend({ name: z.string(), files: z.int(), missing: z.int() })),
  /** What was passed over without being opened, by reason, most first. */
  passed: z.array(z.object({ reason: z.string(), files: z.int(), example: z.string() })),
  refused: z.array(refusedFileSchema),
});
export type ScanReply = z.infer<typeof scanReplySchema>;

export const inPlaceBodySchema = z.object({
  items: z.array(itemSchema).min(1).max(1000),
  /** Pictures a second for numbered series. */
  sequence: rateSchema.nullable().default(null),
  batch: idSchema.optional(),
  client: askerSchema.shape.client,
});

/** Finished uploads of the tus protocol that become sources. */
export const uploadsBodySchema = z.object({
  uploads: z.array(idSchema).min(1).max(20_000),
  /** Pictures a second for numbered series. */
  sequence: rateSchema.nullable().default(null),
  batch: idSchema.optional(),
  client: askerSchema.shape.client,
});

/** How the files behind a project's sources stand. */
export const fileStateSchema = z.object({
  mediaId: idSchema,
  /** here: as it was added. changed: another size, time and content. missing: not to be found where it was. */
  state: z.enum(['here', 'changed', 'missing']),
  /** Whether the proxy and its thumbnails are made. */
  proxy: z.boolean(),
  /** Where it lies when it is used in place; null for a copy of ours. */
  path: z.string().nullable(),
  sentence: z.string().nullable(),
});
export type FileState = z.infer<typeof fileStateSchema>;

export const findBodySchema = z.object({ path: folderPath.nullable() });

export const ledgerSchema = z.object({
  name: z.string(),
  mediaId: idSchema,
  pictures: z.int(),
  lines: z.array(
    z.object({
      what: z.string(),
      rate: z.number().nullable(),
      exact: z.string().nullable(),
      from: z.string(),
      ppm: z.number().nullable(),
      odd: z.boolean(),
    }),
  ),
  gap: z.object({ seconds: z.number(), impliedRate: rateSchema.nullable() }).nullable(),
  claim: z.object({ kept: z.boolean(), slow: z.number(), fits: z.number() }).nullable(),
  uses: z.array(z.object({ timelineId: idSchema, timeline: z.string(), rate: rateSchema, clips: z.int() })),
  seconds: z.number().nullable(),
  speed: z.number(),
  semitones: z.number(),
  remarks: z.array(z.object({ code: z.string(), text: z.string() })),
});
