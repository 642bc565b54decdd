import { SURENESS } from '@thawline/core/exchange';
import { commandSchema, documentSchema, idSchema, rateSchema } from '@thawline/project';
import { z } from 'zod';

/** Projects as they stand and as they change, and edit files. Shapes of what travels between browser and server. */

export const projectSummarySchema = z.object({
  id: idSchema,
  name: z.string(),
  sources: z.int(),
  timelines: z.int(),
  changedAt: z.string(),
  /** When it was put into the bin; null where it was not. */
  deletedAt: z.string().nullable(),
  /** Its row in the database cannot be read: it can be brought back from a backup. */
  damaged: z.boolean(),
});
export type ProjectSummary = z.infer<typeof projectSummarySchema>;

/** A project as it stands. `version` grows by one with every change, undo and redo included. */
export const projectStateSchema = z.object({
  id: idSchema,
  version: z.int(),
  document: documentSchema,
  undoLabel: z.string().nullable(),
  redoLabel: z.string().nullable(),
});
export type ProjectState = z.infer<typeof projectStateSchema>;

const patchSchema = z.object({
  op: z.enum(['add', 'remove', 'replace']),
  path: z.array(z.union([z.string(), z.number()])),
  value: z.unknown().optional(),
});

/** A change as it was applied: patches take version - 1 to version. */
export const changeSchema = z.object({
  projectId: idSchema,
  version: z.int(),
  patches: z.array(patchSchema),
  undoLabel: z.string().nullable(),
  redoLabel: z.string().nullable(),
});
export type ChangeReply = z.infer<typeof changeSchema>;

export const revisionSchema = z.object({ number: z.int(), label: z.string(), at: z.string(), undone: z.boolean() });

export const openEditReplySchema = z.object({
  change: changeSchema,
  timelineId: idSchema,
  clips: z.int(),
  /** What could not be taken as it stood, with its place; the rest was opened. */
  troubles: z.array(z.object({ code: z.string(), place: z.string(), sentence: z.string() })),
});
export type OpenEditReply = z.infer<typeof openEditReplySchema>;

export const lossesSchema = z.object({ losses: z.array(z.string()) });

/** Frames, `to` not included. */
export const frameRangeSchema = z.object({ from: z.coerce.number().int().min(0), to: z.coerce.number().int().min(1) });

const ownId = z.string().regex(/^[A-Za-z0-9_-]{8,64}$/);

/**
 * Who asks, and for which change. A request that is sent again under the same `requestId` is done once and answered the same. `client` is
 * the browser window: its undo takes back its own steps.
 */
export const askerSchema = z.object({ requestId: ownId.optional(), client: ownId.optional() });
export type Asker = z.infer<typeof askerSchema>;

/** An edit file as text. `rate` is what a CMX 3600 list counts in: it does not say so itself. */
export const openEditBodySchema = z.object({
  file: z.string().min(1).max(255),
  text: z.string().max(30_000_000),
  rate: rateSchema.nullable().default(null),
  ...askerSchema.shape,
});

/** What an edit file would come to, before it is opened. */
export const editPreviewSchema = z.object({
  clips: z.int(),
  timelines: z.array(z.object({ name: z.string(), rate: rateSchema, frames: z.int() })),
  /** Events of a list: which picture of its source each begins at, and how sure that is. */
  events: z.array(
    z.object({
      place: z.string(),
      label: z.string(),
      source: z.string(),
      lost: z.boolean(),
      picture: z.int(),
      sure: z.enum(SURENESS),
    }),
  ),
  troubles: openEditReplySchema.shape.troubles,
});
export type EditPreviewReply = z.infer<typeof editPreviewSchema>;

export const commandBodySchema = z.object({ command: commandSchema, ...askerSchema.shape });

export const newProjectSchema = z.object({ name: z.string().trim().min(1).max(120) });
