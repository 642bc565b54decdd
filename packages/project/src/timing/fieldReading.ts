import { type FieldPlan, type FieldRun, fieldTiming, frameOfPicture, pictureOfFrame, planFields } from '@thawline/core/fields';
import { averageRate, constantTiming, type Timing, times, timingSeconds } from '@thawline/core/time';
import type { FieldsReading, Film } from '../document/document.js';
import type { TimingOf } from './mapping.js';

/** What of a source depends on how its fields are read. */
export type FieldFacts = Pick<Film, 'mediaId' | 'pictures' | 'measured' | 'variable' | 'seconds'>;

const plans = new WeakMap<readonly FieldRun[], FieldPlan>();

/** A reading's pictures, kept as long as its runs. */
export function planOf(runs: readonly FieldRun[]): FieldPlan {
  const found = plans.get(runs) ?? planFields(runs);
  plans.set(runs, found);
  return found;
}

/** A source's facts with its fields as they are stored. */
export function storedFacts(source: Film): FieldsReading['stored'] {
  const { mediaId, pictures, measured, variable, seconds } = source;
  return source.fieldsRead?.stored ?? { mediaId, pictures, measured, variable, seconds };
}

/** When the stored frames begin. */
export function storedTiming({ mediaId, pictures, measured, variable }: FieldsReading['stored'], known: TimingOf): Timing {
  return (variable ? known(mediaId) : undefined) ?? constantTiming(measured.rate, pictures);
}

/**
 * A source's facts with its fields read in runs.
 * @param mediaId under which the pictures as read are found
 */
export function readFacts(
  stored: FieldsReading['stored'],
  runs: readonly FieldRun[],
  { mediaId, known }: { readonly mediaId: string; readonly known: TimingOf },
): FieldFacts & { readonly timing: Timing } {
  const plan = planOf(runs);
  const timing = fieldTiming(runs, plan, storedTiming(stored, known));
  const rate = plan.share && !stored.variable ? times(stored.measured.rate, plan.share) : averageRate(timing);
  return {
    mediaId,
    timing,
    pictures: plan.pictures,
    variable: timing.kind === 'variable',
    measured: { rate: rate ?? stored.measured.rate, ppm: stored.measured.ppm },
    seconds: timingSeconds(timing) ?? stored.seconds,
  };
}

/** Where a picture under one reading of fields is under another: both show the same stored field first. Null stands for the frames as stored. */
export function sameMoment(from: readonly FieldRun[] | null, to: readonly FieldRun[] | null): (picture: number) => number {
  const [before, after] = [from && planOf(from), to && planOf(to)];
  return (picture) => {
    const frame = before ? frameOfPicture(before, picture) : picture;
    // Fields of one frame stay apart where both readings have a picture for each.
    if (before && after && picture >= 0 && picture < before.pictures) return after.pictureFrom(before.firstField(picture));
    return after ? pictureOfFrame(after, frame) : frame;
  };
}
