import { positionAt } from '@thawline/core/cadence';
import { pictureSeconds, type Rate, rate, rateToNumber } from '@thawline/core/time';
import type { Clip, SoundWay, Source, Timeline } from '../document/document.js';
import { mappingOf, type TimingOf, timingUnder } from './mapping.js';
import { actionSpeed } from './reading.js';

/** What clips sound like. */

/** What a clip's sound does: as is said of the clip, else of its source's reading. */
export function soundWay(source: Source, clip: Pick<Clip, 'sound'>): SoundWay {
  return clip.sound ?? source.readAt?.sound ?? 'along';
}

/** How fast a clip's sound is played: with the action, or at its own speed. */
export function soundSpeed(source: Source, clip: Pick<Clip, 'fit' | 'speed' | 'sound'>, timeline: Pick<Timeline, 'rate'>): Rate {
  return soundWay(source, clip) === 'own' ? rate(1) : actionSpeed(source, clip, timeline);
}

/** Whether nothing is heard of a clip: it is frozen, its sound is off, or its source has none. */
export function isSilent(source: Source, clip: Pick<Clip, 'fit' | 'sound'>): boolean {
  return clip.fit === 'freeze' || !source.sound || soundWay(source, clip) === 'off';
}

/** The stretch of its source that a clip sounds, in seconds from the first picture (of sound alone from its start). */
export function soundSpan(source: Source, clip: Clip, timeline: Timeline, known: TimingOf): { from: number; to: number } {
  const timing = timingUnder(source, null, known);
  const slip = clip.slip / 1e6;
  if (clip.curve && soundWay(source, clip) !== 'own') {
    const mapping = mappingOf(clip, source, timeline, known);
    const [first, last] = [positionAt(mapping, 0).picture, positionAt(mapping, clip.length - 1).picture];
    const [from, to] = [pictureSeconds(timing, first), pictureSeconds(timing, Math.max(first, last))];
    return { from: from + slip, to: to + slip };
  }
  const perFrame = rateToNumber(soundSpeed(source, clip, timeline)) / rateToNumber(timeline.rate);
  const from = pictureSeconds(timing, clip.inPicture) + clip.headTrim * perFrame + slip;
  return { from, to: from + clip.length * perFrame };
}

/** The sound of a clip: itself on a sound lane, or what is linked with it there; none where it has no sound placed. */
export function soundOf(timeline: Timeline, clip: Clip): Clip[] {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  if (lanes.has(clip.laneId)) return [clip];
  return clip.link === null ? [] : timeline.clips.filter((c) => c.link === clip.link && lanes.has(c.laneId));
}
