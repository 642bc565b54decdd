import { earliestHead } from '@thawline/core/cadence';
import type { FieldRun } from '@thawline/core/fields';
import { checkRuns } from '@thawline/core/fields';
import { over, times } from '@thawline/core/time';
import { z } from 'zod';
import { type Film, fieldRunsSchema, idSchema, type Project } from '../../document/document.js';
import { findFileSource, Refused } from '../../refusals/guards.js';
import { readFacts, sameMoment, storedFacts } from '../../timing/fieldReading.js';
import { mappingOf, type TimingOf } from '../../timing/mapping.js';
import { tidyReading } from '../../timing/reading.js';
import { furthestLength } from '../../timing/soundLength.js';
import { defineCommand } from '../define.js';
import { counted, type Names } from '../names.js';

const schema = z.object({
  type: z.literal('readFields'),
  readings: z
    .array(
      z.object({
        sourceId: idSchema,
        /** Null: its pictures are the frames that the file stores. */
        reading: z.object({ /** Where pictures as read are found. */ mediaId: idSchema, runs: fieldRunsSchema }).nullable(),
      }),
    )
    .min(1)
    .max(1000),
});

type Wanted = { readonly mediaId: string; readonly runs: FieldRun[] } | null;

/**
 * Reads the fields of sources in other ways: their pictures are others then. Clips, pins, marks and what a person judged stay on the moments that
 * they were at; places and lengths on timelines stay.
 */
export const readFields = defineCommand({
  schema,
  change(draft, command, known) {
    for (const { sourceId, reading } of command.readings) readFieldsOf(draft, sourceId, { reading, known });
  },
  label: (command, names) => describeFields(command, names),
});

/** The same for one source, in place. */
export function readFieldsOf(
  draft: Project,
  sourceId: string,
  { reading, known }: { readonly reading: Wanted; readonly known: TimingOf },
): void {
  const source = findFileSource(draft, sourceId);
  if (source.kind !== 'film' || source.height % 2 !== 0) throw new Refused('no-fields', { source: source.name });
  if (source.readAt?.pictures === 'new' || source.readAt?.pictures === 'rebuilt')
    throw new Refused('held-left-out', { source: source.name });
  const stored = storedFacts(source);
  if (reading && !fits(reading.runs, stored.pictures))
    throw new Refused('fields-end', { source: source.name, pictures: stored.pictures });
  const was = source.fieldsRead?.runs ?? null;
  const before = source.measured.rate;
  const moved = sameMoment(was, reading?.runs ?? null);
  let timings = known;
  if (reading) {
    const { timing, ...facts } = readFacts(stored, reading.runs, { mediaId: reading.mediaId, known });
    Object.assign(source, facts, { fieldsRead: { runs: reading.runs, stored } });
    timings = (id) => (id === reading.mediaId ? timing : known(id));
  } else {
    Object.assign(source, stored);
    delete source.fieldsRead;
  }
  const place = (picture: number): number => Math.max(0, Math.min(source.pictures - 1, moved(picture)));
  keepSpeed(source, over(source.measured.rate, before));
  if (source.marks) source.marks = onePerPicture(source.marks, place);
  if (source.judged) source.judged = onePerPicture(source.judged, place);
  for (const timeline of draft.timelines)
    for (const clip of timeline.clips) {
      if (clip.sourceId !== sourceId) continue;
      clip.cut = null;
      clip.inPicture = place(clip.inPicture);
      for (const pin of clip.curve ?? []) pin.picture = place(pin.picture);
      clip.headTrim = Math.max(clip.headTrim, earliestHead(mappingOf(clip, source, timeline, timings)));
      clip.length = Math.max(1, Math.min(clip.length, furthestLength(source, clip, timeline, timings)));
    }
}

function fits(runs: readonly FieldRun[], frames: number): boolean {
  try {
    checkRuns(runs);
  } catch {
    return false;
  }
  return runs.at(-1)?.to === frames;
}

/** What is read faster or slower than it was taken goes on being so by as much. */
function keepSpeed(source: Film, by: ReturnType<typeof over>): void {
  if (source.readAt) source.readAt = tidyReading(source, { ...source.readAt, rate: times(source.readAt.rate, by) });
}

/** Notes on the pictures that theirs are now; of two that fall on one the first stays. */
function onePerPicture<Note extends { picture: number }>(notes: readonly Note[], place: (picture: number) => number): Note[] {
  const seen = new Set<number>();
  return notes
    .map((note) => ({ ...note, picture: place(note.picture) }))
    .filter(({ picture }) => !seen.has(picture) && seen.add(picture));
}

const WAYS: Record<FieldRun['way'], string> = {
  progressive: 'as whole pictures',
  'one-a-field': 'one picture a field',
  'one-a-frame': 'one picture a frame',
  film: 'as film, pulldown undone',
};

/** "Read the fields of old-reel one picture a field", "Read the fields of 3 sources as they are stored". */
function describeFields({ readings }: z.output<typeof schema>, names: Names): string {
  const what = readings.length === 1 ? names.source(readings[0]?.sourceId ?? '') : counted(readings.length, 'source');
  const ways = new Set(readings.flatMap(({ reading }) => reading?.runs.map((run) => run.way) ?? ['stored' as const]));
  const [way] = ways;
  if (ways.size !== 1 || !way) return `Read the fields of ${what}, each stretch its own way`;
  return `Read the fields of ${what} ${way === 'stored' ? 'as they are stored' : WAYS[way]}`;
}
