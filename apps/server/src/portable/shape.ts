import { type JobKind, jobOf } from '@thawline/contract';
import { documentSchema } from '@thawline/project';
import { z } from 'zod';
import type { ArchivedJob } from '../database/archive.js';
import { patchesSchema, probeSchema, seriesSchema } from '../database/columns.js';

/**
 * What the JSON in a project file looks like. A file may come from anywhere: nothing of it is taken before it was parsed by these. The shape
 * is documented in docs/project-file.md.
 */

/** Kind and layout version of the file itself, and the format of the document in it. */
export const manifestSchema = z.object({
  kind: z.literal('thawline-project'),
  /** Version of this layout. */
  layout: z.literal(1),
  /** Format of document and history (DOCUMENT_FORMAT). */
  format: z.int().min(1),
  name: z.string().min(1).max(120),
  madeAt: z.string().max(40),
  program: z.string().max(40),
});

/** Our ids are 16 hexadecimal digits; any other kind of id could not be distinguished from text when ids are replaced. */
const ourId = z.string().regex(/^[0-9a-f]{16}$/);
const at = z.string().max(40);
const count = z.int().min(0).max(1_000_000_000_000);
const json = z.record(z.string(), z.unknown());

export const projectPartSchema = z.object({ document: z.unknown(), version: count, createdAt: at, changedAt: at });

export const historyPartSchema = z.array(
  z.object({
    label: z.string().max(500),
    command: json,
    forward: patchesSchema,
    backward: patchesSchema,
    undone: z.boolean(),
    batch: z.string().max(40).nullable(),
    at,
  }),
);

export const mediaPartSchema = z.array(
  z.object({
    id: ourId,
    name: z.string().min(1).max(255),
    fileName: z.string().regex(/^(original(\.[a-z0-9]{1,5})?|pictures)$/),
    bytes: count,
    probe: probeSchema,
    fingerprint: z
      .string()
      .regex(/^[0-9a-f]{32}$/)
      .nullable(),
    series: seriesSchema.nullable(),
    /** Whether the file itself is in the project file. */
    included: z.boolean(),
  }),
);

export const jobsPartSchema = z.array(
  z.object({
    id: ourId,
    kind: z.enum(['check', 'compare', 'align', 'heldout', 'pan', 'render', 'receipt']),
    label: z.string().max(300),
    subject: z.string().max(100),
    params: json,
    result: json,
    done: count,
    total: count.nullable(),
    createdAt: at,
    startedAt: at.nullable(),
    endedAt: at.nullable(),
  }),
);

/** Whether what a job found can be shown: a result of another shape is left out instead of failing whoever looks at it. */
export function isShowable({ kind, params, result }: ArchivedJob): boolean {
  const definition = jobOf(kind as JobKind);
  if (!definition.params.safeParse(params).success || !definition.result.safeParse(result).success) return false;
  if (kind === 'receipt') return z.object({ renderId: ourId }).safeParse(params).success;
  return kind !== 'render' || isRender(params);
}

/** A render's edit comes from elsewhere: it is checked as any document is. */
function isRender(params: unknown): boolean {
  const edit = z.object({ project: documentSchema, timelineId: z.string() }).safeParse(params);
  return edit.success && edit.data.project.timelines.some((t) => t.id === edit.data.timelineId);
}
