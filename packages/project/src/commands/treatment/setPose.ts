import { PLAIN_POSE, type Pose } from '@thawline/core/picture';
import { z } from 'zod';
import { idSchema, poseSchema } from '../../document/document.js';
import { findClip, findTimeline, Refused } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { clipIdsSchema } from '../schemas.js';

/** What of a pose is set; all else stays as each clip has it. */
const wantedSchema = z.object({ ...poseSchema.shape, crop: poseSchema.shape.crop.partial() }).partial();

/** How clips' pictures are laid by hand. Null: as their framing has them. */
export const setPose = defineCommand({
  schema: z.object({ type: z.literal('setPose'), timelineId: idSchema, clipIds: clipIdsSchema, pose: wantedSchema.nullable() }),
  change(draft, command) {
    const timeline = findTimeline(draft, command.timelineId);
    for (const id of command.clipIds) {
      const clip = findClip(timeline, id);
      const pose = command.pose === null ? PLAIN_POSE : posed(clip.pose ?? PLAIN_POSE, command.pose);
      if (!poseSchema.safeParse(pose).success) throw new Refused('nothing-left', {});
      if (isPlain(pose)) delete clip.pose;
      else clip.pose = { ...pose, crop: { ...pose.crop } };
    }
  },
  label: ({ timelineId, clipIds, pose }, names) =>
    pose === null
      ? `Laid ${names.clips(timelineId, clipIds)} as framed`
      : `Laid ${names.clips(timelineId, clipIds)} by hand: ${[...new Set(Object.keys(pose).map((key) => WORDS[key as keyof Pose]))].join(', ')}`,
});

function posed(own: Pose, wanted: z.infer<typeof wantedSchema>): Pose {
  const set = <T extends object>(before: T, now: { readonly [K in keyof T]?: T[K] | undefined }): T => {
    const said = Object.fromEntries(Object.entries(now).filter(([, value]) => value !== undefined));
    return { ...before, ...said };
  };
  const { crop, ...rest } = wanted;
  return { ...set<Omit<Pose, 'crop'>>(own, rest), crop: set(own.crop, crop ?? {}) };
}

/** Whether a pose does nothing; where the anchor stands does not matter then. */
function isPlain({ crop, x, y, scaleX, scaleY, turn }: Pose): boolean {
  return [crop.left, crop.top, crop.right, crop.bottom, x, y, scaleX - 1, scaleY - 1, turn % 360].every((n) => n === 0);
}

const WORDS: Record<keyof Pose, string> = {
  crop: 'crop',
  x: 'position',
  y: 'position',
  scaleX: 'size',
  scaleY: 'size',
  turn: 'turn',
  anchorX: 'anchor',
  anchorY: 'anchor',
};
