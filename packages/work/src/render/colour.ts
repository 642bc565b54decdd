import { type Encoding, type Light, paintOf } from '@thawline/core/picture';
import { type FormSamples, pixelFormatOf, type TimelineColour, timelineColour } from '@thawline/project';
import type { Look, RenderInput } from '../compose/input.js';

/** Tags of a render's colours, settled. */
export type RenderColour = TimelineColour;

/** Colours of a render: those of its timeline, by what its files say now. */
export function colourFor(input: RenderInput): RenderColour {
  return timelineColour(input.project, input.timeline, (mediaId) => input.files[mediaId]?.probe).colour;
}

/** What frames of a form are composed as. */
export function lookFor(form: FormSamples, colour: Encoding & Light): Look {
  const over = paintOf(form.over);
  return { pixelFormat: pixelFormatOf(form), colour, ...(over ? { over } : {}) };
}
