import { idSchema } from '@thawline/project';
import { z } from 'zod';

/** What takes the room on the disk, and backups. Shapes of what travels between browser and server. */

const sizeSchema = z.object({ bytes: z.number(), files: z.int() });

/** What can be freed: files that are made again on demand, and unused files. */
export const FREE_KINDS = ['parts', 'proxies', 'unneeded', 'bin'] as const;
export const freeKindSchema = z.enum(FREE_KINDS);
export type FreeKind = z.infer<typeof freeKindSchema>;

export const storageSchema = z.object({
  /** Bytes left on the data folder's disk. */
  free: z.number(),
  /** Copies of files; files used in place take no room here. */
  media: sizeSchema,
  /** Small pictures, thumbnails and waveforms made of them. */
  proxies: sizeSchema,
  /** Of the media and proxies: what no project and no history speaks of. */
  unneeded: sizeSchema,
  /** Parts kept of renders. */
  parts: sizeSchema,
  /** Uploads under way. */
  uploads: sizeSchema,
  backups: sizeSchema,
  renders: sizeSchema,
  database: sizeSchema,
  /** Deleted projects, until the bin is emptied. */
  bin: z.array(z.object({ id: idSchema, name: z.string(), deletedAt: z.string() })),
});
export type StorageReply = z.infer<typeof storageSchema>;

export const backupSchema = z.object({
  name: z.string(),
  at: z.string(),
  reason: z.enum(['daily', 'before-update', 'by-hand']),
  bytes: z.number(),
});
export type BackupReply = z.infer<typeof backupSchema>;

export const backupProjectSchema = z.object({
  id: z.string(),
  name: z.string(),
  changedAt: z.string(),
  sources: z.int(),
  timelines: z.int(),
  /** Steps of its history. */
  steps: z.int(),
});
export type BackupProject = z.infer<typeof backupProjectSchema>;

/** A project that came out of a project file, and what of it could not come along, a sentence each. */
export const importedSchema = z.object({ id: idSchema, name: z.string(), notes: z.array(z.string()) });
export type ImportedReply = z.infer<typeof importedSchema>;

/** Projects that came in beside those that were there. */
export const restoredSchema = z.object({ projects: z.array(z.object({ id: idSchema, name: z.string() })) });
export type RestoredReply = z.infer<typeof restoredSchema>;
