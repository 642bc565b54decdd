import { allowsFields } from '@thawline/core/fields';
import { allowsDropFrame, formatRate } from '@thawline/core/time';
import { firstLanes, type Project, type Timeline, timelineSchema } from '../../document/document.js';
import { Refused } from '../../refusals/guards.js';

export function addEmptyTimeline(
  draft: Project,
  timeline: Pick<Timeline, 'id' | 'name' | 'width' | 'height' | 'rate' | 'startFrame' | 'dropFrame' | 'fields'>,
): void {
  checkIdFree(draft, timeline.id);
  checkFormat(timeline);
  draft.timelines.push({ ...timeline, range: null, lanes: firstLanes(), clips: [], marks: [], kept: null });
}

/** Refuses an id that a source or a timeline has already. */
export function checkIdFree(draft: Project, id: string): void {
  if (draft.timelines.some((t) => t.id === id) || draft.sources.some((s) => s.id === id)) throw new Refused('id-taken', { id });
}

/** Refuses a frame size, drop-frame counting or fields that no timeline can have. */
export function checkFormat(format: Pick<Timeline, 'rate' | 'width' | 'height' | 'dropFrame' | 'fields'>): void {
  const { width, height } = format;
  if (!timelineSchema.pick({ width: true, height: true }).safeParse({ width, height }).success)
    throw new Refused('bad-size', { width, height });
  if (format.dropFrame && !allowsDropFrame(format.rate)) throw new Refused('no-drop-frame', {});
  if (format.fields && !allowsFields(format.rate)) throw new Refused('fields-too-quick', { rate: formatRate(format.rate) });
}

/** Puts a timeline that was made from another behind it. */
export function insertBeside(draft: Project, timeline: Timeline, made: Timeline): void {
  draft.timelines.splice(draft.timelines.indexOf(timeline) + 1, 0, JSON.parse(JSON.stringify(made)) as Timeline);
}
