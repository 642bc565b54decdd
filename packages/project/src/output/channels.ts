import type { Project, Timeline } from '../document/document.js';
import { isOff, sourceOf, timelineOf } from '../resolve/sources.js';
import { FORMS, type SettledForm, SOUND_WORDS, type SoundCodec } from './form.js';

/** What sound is mixed to where no more channels are kept. */
const STEREO = 2;
/** Most channels that are kept. */
const CHANNELS_MOST = 32;

/** Whether a coding holds so many channels, more than two, as FFmpeg's coders do. */
const HOLDS: Record<SoundCodec, (channels: number) => boolean> = {
  aac: (channels) => channels <= 8,
  // Others are no order of speakers that Opus knows, and five come back in another order (seen in 5.1).
  opus: (channels) => channels === 6 || channels === 8,
  flac: (channels) => channels <= 8,
  pcm16: (channels) => channels <= CHANNELS_MOST,
  pcm24: (channels) => channels <= CHANNELS_MOST,
  pcm32f: (channels) => channels <= CHANNELS_MOST,
};

/** What of a form says how its sound is stored. */
type FormSound = Pick<SettledForm, 'kind' | 'sound' | 'soundCodec'>;

/** Whether sound of a coding can have so many channels. */
export function holdsChannels(codec: SoundCodec, channels: number): boolean {
  return channels <= STEREO || HOLDS[codec](channels);
}

/** Channels of the widest sound that is heard in a timeline (or a range of its frames), timelines placed in it included; 2 at least. */
export function widestSound(project: Project, timeline: Timeline, range: Timeline['range'] = null): number {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'sound').map((l) => l.id));
  return timeline.clips.reduce((widest, clip) => {
    if (!lanes.has(clip.laneId) || isOff(timeline, clip)) return widest;
    if (range && (clip.start >= range.to || clip.start + clip.length <= range.from)) return widest;
    const inner = timelineOf(project, clip.sourceId);
    const own = inner ? widestSound(project, inner) : (sourceOf(project, clip.sourceId)?.sound?.channels ?? STEREO);
    return Math.max(widest, own);
  }, STEREO);
}

/** Channels that a form's sound of a timeline has: those of its widest source, where all are asked for and the coding holds them, else two. */
export function channelsFor(project: Project, timeline: Timeline, range: Timeline['range'], form: FormSound): number {
  const widest = form.sound === 'all' ? widestSound(project, timeline, range) : STEREO;
  return holdsChannels(form.soundCodec, widest) ? widest : STEREO;
}

/** What becomes of channels of sound when a timeline is rendered so, a sentence each; empty where all are kept. */
export function channelNotes(project: Project, timeline: Timeline, range: Timeline['range'], form: FormSound): string[] {
  const widest = widestSound(project, timeline, range);
  if (widest === STEREO || (form.sound === 'off' && FORMS[form.kind].sound !== 'alone')) return [];
  if (form.sound !== 'all') return [`Sound of up to ${widest} channels is mixed to two, unless all channels are kept.`];
  const coding = SOUND_WORDS[form.soundCodec];
  if (channelsFor(project, timeline, range, form) === STEREO)
    return [`${coding} cannot hold ${widest} channels here: sound is mixed to two. PCM holds up to ${CHANNELS_MOST}, FLAC 8.`];
  const isCoded = form.soundCodec === 'aac' || form.soundCodec === 'opus';
  return isCoded && (widest === 6 || widest === 8)
    ? [`${coding} keeps of the fourth of ${widest} channels what is deep alone (LFE). FLAC and PCM keep all of it.`]
    : [];
}
