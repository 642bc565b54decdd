import { z } from 'zod';
import { INSTEADS, idSchema } from '../../document/document.js';
import { findClip, findTimeline } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { counted } from '../names.js';
import { frameSchema } from '../schemas.js';

/** Another way than the fit's for single frames, counted from the clip's first; null leaves them to the fit. */
export const chooseFrames = defineCommand({
  schema: z.object({
    type: z.literal('chooseFrames'),
    timelineId: idSchema,
    clipId: idSchema,
    frames: z.array(frameSchema).min(1).max(100_000),
    as: z.enum(INSTEADS).nullable(),
  }),
  change(draft, command) {
    const clip = findClip(findTimeline(draft, command.timelineId), command.clipId);
    const { frames, as } = command;
    const meant = new Set(frames.map((n) => n + clip.headTrim));
    const kept = clip.instead.filter((i) => !meant.has(i.frame));
    const chosen = as === null ? [] : [...meant].map((frame) => ({ frame, as }));
    clip.instead = [...kept, ...chosen].sort((a, b) => a.frame - b.frame);
  },
  label(command, names) {
    const what = `${counted(command.frames.length, 'frame')} of ${names.clips(command.timelineId, [command.clipId])}`;
    return command.as === null ? `Left ${what} to the fit` : `Chose ${command.as} for ${what}`;
  },
});
