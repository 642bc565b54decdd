import { over, type Rate, rate, rateToNumber, sameRate, secondsOf, times } from '@thawline/core/time';
import type { Clip, FileSource, Reading, Source, Timeline } from '../document/document.js';
import { SOUND_PARTS } from './mapping.js';

/** The effect of a source's reading: rate, length, speed and pitch. */

/** The rate that counts for a source: the one it is read at, else what its timestamps measure; null for a still. */
export function readRate(source: Source): Rate | null {
  return source.readAt?.rate ?? source.measured?.rate ?? null;
}

/** The rate the pictures have by themselves (an average where they come unevenly): a sequence's is the one it is read at, of sound alone what it is counted in; null for a still. */
export function ownRate(source: Source): Rate | null {
  if (source.kind === 'sound') return SOUND_PARTS;
  return source.measured?.rate ?? source.readAt?.rate ?? null;
}

/** Whether the pictures come unevenly as the project reads them. */
export function readsUnevenly(source: Source): boolean {
  return source.variable === true && source.readAt === null;
}

/** Pictures that a reading shows. */
export function picturesRead(source: Source, reading: Reading | null = source.readAt): number {
  return reading?.pictures === 'new' ? source.pictures - reading.held.length : source.pictures;
}

/** Running time as read, in seconds; null for a still. */
export function readSeconds(source: Source, reading: Reading | null = source.readAt): number | null {
  if (reading?.pictures === 'new') return secondsOf(picturesRead(source, reading), reading.rate);
  const paced = reading?.pictures === 'once' || (reading?.pictures === 'rebuilt' && !source.variable);
  if (reading && (paced || source.seconds === undefined)) return secondsOf(source.pictures, reading.rate);
  return source.seconds ?? null;
}

/** Exact speed of the action under a reading: R / S; 1 where the length stays. */
export function readingSpeed(source: Source, reading: Reading | null = source.readAt): Rate {
  if (!reading || reading.pictures === 'even' || !source.measured) return rate(1);
  if (reading.pictures === 'rebuilt' && source.variable) return rate(1);
  // Fewer pictures for the same action: each stands for more of it.
  const all = times(source.measured.rate, rate(picturesRead(source, reading), source.pictures));
  return over(reading.rate, all);
}

/** Whether what a clip shows of its source runs at another speed than it was taken at, and by how much: source seconds a timeline second. */
export function actionSpeed(source: Source, clip: Pick<Clip, 'fit' | 'speed'>, timeline: Pick<Timeline, 'rate'>): Rate {
  const own = ownRate(source);
  if (clip.fit === 'pictures' && own) return over(timeline.rate, own);
  return times(readingSpeed(source), clip.speed);
}

/** Pictures a second that pass on a timeline in real time: the reading rate and the clip's own speed; null for a still. */
export function passingRate(source: Source, clip: Pick<Clip, 'speed'>): Rate | null {
  const rate = readRate(source);
  return rate && times(rate, clip.speed);
}

/** Semitones that sound moves by when it goes along at a speed: 12 log2(speed). */
export function semitones(speed: Rate): number {
  return 12 * Math.log2(rateToNumber(speed));
}

/**
 * A reading in its one form: pictures that are not variable cannot be made even, and an even source at its own rate with
 * its sound untouched is read as it is. Null for a still, which has no rate.
 */
export function tidyReading(source: Source, reading: Reading | null): Reading | null {
  if (source.kind === 'still' || source.kind === 'sound') return null;
  if (!reading) return null;
  if (reading.held && reading.held.length > 0) return reading;
  const { held: _held, ...plain } = reading;
  const even = source.variable && reading.pictures === 'even';
  const tidy: Reading = { ...plain, pictures: even ? 'even' : 'once' };
  const asIs = source.measured && !source.variable && sameRate(tidy.rate, source.measured.rate);
  return asIs && tidy.sound !== 'off' ? null : tidy;
}

/** A source as a reading has it, which was made tidy for it: numbered pictures have no rate but the one they are read at. */
export function readAs(source: FileSource, reading: Reading | null): FileSource {
  if (source.kind === 'film') return { ...source, readAt: reading };
  return source.kind === 'sequence' && reading ? { ...source, readAt: reading } : source;
}

/** Whether two readings give the same pictures at the same times. */
export function sameTiming(a: Reading | null, b: Reading | null): boolean {
  if (a === null || b === null) return a === b;
  if (!sameRate(a.rate, b.rate) || a.pictures !== b.pictures) return false;
  const [one, two] = [a.held ?? [], b.held ?? []];
  return one.length === two.length && one.every((k, i) => k === two[i]);
}

/** Whether two readings have the same pictures and sound, regardless of where their rate came from. */
export function sameReading(a: Reading | null, b: Reading | null): boolean {
  return sameTiming(a, b) && (a?.sound ?? 'along') === (b?.sound ?? 'along');
}
