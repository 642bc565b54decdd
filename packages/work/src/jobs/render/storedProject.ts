import type { Project } from '@thawline/project';
import { z } from 'zod';

/**
 * An edit as a job's row keeps it: written by this program from a document that was checked then. It is looked at for what it is, and not
 * checked through again: lists of jobs hold hundreds of them.
 */
export const storedProjectSchema = z.custom<Project>(
  (value) =>
    typeof value === 'object' &&
    value !== null &&
    'sources' in value &&
    Array.isArray(value.sources) &&
    'timelines' in value &&
    Array.isArray(value.timelines),
);
