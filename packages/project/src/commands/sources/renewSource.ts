import { earliestHead, longestRun } from '@thawline/core/cadence';
import { z } from 'zod';
import { sourceSchema } from '../../document/document.js';
import { findFileSource } from '../../refusals/guards.js';
import { mappingOf } from '../../timing/mapping.js';
import { readAs, tidyReading } from '../../timing/reading.js';
import { defineCommand } from '../define.js';
import { readFieldsOf } from './readFields.js';

/** The file behind a source is another one now: its facts are taken over, its name, claim and reading stay. */
export const renewSource = defineCommand({
  schema: z.object({ type: z.literal('renewSource'), source: sourceSchema }),
  change(draft, command, known) {
    const now = command.source;
    const before = findFileSource(draft, now.id);
    // Which fields make which picture was said of the file as it was.
    if (before.fieldsRead) readFieldsOf(draft, now.id, { reading: null, known });
    const { name, claimed, marks, judged } = before;
    const kept = { name, claimed, lost: null, ...(marks ? { marks } : {}), ...(judged ? { judged } : {}) };
    const source = readAs({ ...now, ...kept }, tidyReading(now, before.readAt));
    draft.sources[draft.sources.indexOf(before)] = source;
    for (const timeline of draft.timelines) {
      for (const clip of timeline.clips.filter((c) => c.sourceId === now.id)) {
        clip.cut = null;
        for (const pin of clip.curve ?? []) pin.picture = Math.min(pin.picture, now.pictures - 1);
        if (clip.inPicture >= now.pictures) Object.assign(clip, { inPicture: now.pictures - 1, headTrim: 0 });
        const mapping = mappingOf(clip, source, timeline, known);
        clip.headTrim = Math.max(clip.headTrim, earliestHead(mapping));
        clip.length = Math.max(1, Math.min(clip.length, longestRun(mappingOf(clip, source, timeline, known))));
      }
    }
  },
  label: (command) => `Took ${command.source.name} as its file is now`,
});
