import { formatRate } from '@thawline/core/time';
import { z } from 'zod';
import { timelineSchema } from '../../document/document.js';
import { defineCommand } from '../define.js';
import { nameSchema } from '../schemas.js';
import { addEmptyTimeline } from './newTimeline.js';

export const addTimeline = defineCommand({
  schema: z.object({
    type: z.literal('addTimeline'),
    timeline: timelineSchema
      .pick({ id: true, width: true, height: true, rate: true, startFrame: true, dropFrame: true, fields: true, colour: true })
      .extend({ name: nameSchema }),
  }),
  change(draft, command) {
    addEmptyTimeline(draft, command.timeline);
  },
  label: ({ timeline }) =>
    `Made ${timeline.name} at ${formatRate(timeline.rate)}${timeline.fields ? `, ${timeline.fields} field first` : ''}`,
});
