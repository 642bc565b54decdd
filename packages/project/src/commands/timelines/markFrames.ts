import { z } from 'zod';
import { idSchema, type Timeline } from '../../document/document.js';
import { findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { frameSchema } from '../schemas.js';

/** Notes on frames of timelines, in one step; one on the same frame is replaced, a null name takes it away. */
export const markFrames = defineCommand({
  schema: z.object({
    type: z.literal('markFrames'),
    marks: z
      .array(
        z.object({
          timelineId: idSchema,
          frame: frameSchema,
          length: frameSchema.default(0),
          name: z.string().trim().max(500).nullable(),
        }),
      )
      .min(1)
      .max(10_000),
  }),
  change(draft, command) {
    for (const mark of command.marks) putMark(findTimeline(draft, mark.timelineId), mark);
  },
  label(command) {
    const put = command.marks.filter((m) => m.name !== null).length;
    return put > 0
      ? `Put ${counted(put, 'mark')} into the edit`
      : `Took ${counted(command.marks.length, 'mark')} out of the edit`;
  },
});

/** A mark's name is its frame's: two people who mark one frame mean one mark. */
function putMark(
  timeline: Timeline,
  { frame, length, name }: { readonly frame: number; readonly length: number; readonly name: string | null },
): void {
  const others = timeline.marks.filter((m) => m.frame !== frame);
  const id = `mark-${frame}`;
  timeline.marks =
    name === null ? others : [...others, { id, frame, length, name, kept: null }].sort((a, b) => a.frame - b.frame);
}
