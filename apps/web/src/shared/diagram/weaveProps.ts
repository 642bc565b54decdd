import type { Mapping, StepMap } from '@thawline/core/cadence';
import type { FieldOrder } from '@thawline/core/fields';
import type { Rate } from '@thawline/core/time';

/** What both ways of drawing a weave are given: box by box, or a whole clip at once. */
export interface WeaveProps {
  readonly mapping: Mapping;
  readonly map: StepMap;
  /** Frame of the clip in the middle; a field of it, where those are drawn. */
  readonly at: number;
  /** Number that the clip's first frame bears on the timeline. */
  readonly firstFrame: number;
  /** Names of the two rows; by default "source" and "timeline". */
  readonly rows?: { readonly above: string; readonly below: string };
  readonly sourceLabel: string;
  readonly timelineLabel: string;
  /** Pixels a frame; 0 fits the whole clip in. */
  readonly zoom: number;
  /** A screen whose refreshes are drawn underneath; null for none. */
  readonly screen: Rate | null;
  /** Address of a picture for the film strip; null without pictures. */
  readonly pictureAt: ((picture: number) => string) | null;
  /** Width of a picture over its height. */
  readonly shape: number;
  /** Its frames are of two fields: what is drawn below are fields, half a frame each. Which comes first; left out: whole frames. */
  readonly fields?: FieldOrder | undefined;
  /** Counts as `at` does. */
  readonly onFrame: (frame: number) => void;
}
