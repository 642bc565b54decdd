import { formatTimecode, nominalRate, type Rate, rateToNumber } from '../time/index.js';
import type { Edit, EditClip, EditMedia } from './edit.js';
import { add, frameNear, type Moment, momentOf, scaled } from './moment.js';

/** An event is numbered with three digits; lists of more events count on with more. */
const DIGITS = 3;

/** Sound channels that the format names. */
export const EDL_SOUNDS = 4;

/**
 * Writes an edit as CMX 3600: its lowest picture lane and up to four sound lanes (the caller flattens what lies above). Source
 * timecode counts at the timeline's rate, speeds stand in M2 lines to a tenth of a picture a second.
 */
export function writeEdl(edit: Edit): string {
  const lines = [`TITLE: ${oneLine(edit.name, 70)}`, `FCM: ${edit.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`];
  const picture = edit.lanes.find((l) => l.kind === 'picture');
  const sounds = edit.lanes.filter((l) => l.kind === 'sound').slice(0, EDL_SOUNDS);
  const events = [
    ...(picture?.clips ?? []).map((clip) => ({ clip, channel: 'V' })),
    ...sounds.flatMap((lane, i) => lane.clips.map((clip) => ({ clip, channel: i === 0 ? 'A' : `A${i + 1}` }))),
  ].sort((a, b) => a.clip.start - b.clip.start || (a.channel < b.channel ? 1 : -1));
  const code = (frame: number): string => formatTimecode(frame, edit.rate, { dropFrame: edit.dropFrame, wrap: true });
  events.forEach(({ clip, channel }, index) => {
    const media = 'nested' in clip.media ? null : clip.media;
    const reel = reelOf(media);
    const from = frameNear(atLeastZero(clip.from), edit.rate);
    const to = from + Math.max(1, usedFrames(clip, edit.rate));
    const start = edit.startFrame + clip.start;
    const number = String(index + 1).padStart(DIGITS, '0');
    const times = [from, to, start, start + clip.length].map(code).join(' ');
    lines.push(`${number}  ${reel.padEnd(8)} ${channel.padEnd(5)} C        ${times}`);
    if (clip.speed === null || clip.speed.num !== clip.speed.den) {
      const speed = clip.speed === null ? 0 : rateToNumber(clip.speed) * rateToNumber(edit.rate);
      lines.push(`M2   ${reel.padEnd(8)} ${speed.toFixed(1).padStart(5, '0')}                ${code(from)}`);
    }
    lines.push(`* FROM CLIP NAME: ${oneLine(clip.name, 200)}`);
    if (media?.url) lines.push(`* SOURCE FILE: ${oneLine(media.url, 400)}`);
    const notes = clip.kept?.notes;
    if (Array.isArray(notes)) for (const note of notes) lines.push(`* ${oneLine(String(note), 400)}`);
    for (const mark of channel === 'V'
      ? edit.marks.filter((m) => m.frame >= clip.start && m.frame < clip.start + clip.length)
      : [])
      lines.push(`* LOC: ${code(edit.startFrame + mark.frame)} ORANGE  ${oneLine(mark.name, 100)}`);
  });
  return `${lines.join('\r\n')}\r\n`;
}

/** Frames of source, counted at the timeline's rate, that a clip uses: at least 1. */
export function usedFrames(clip: Pick<EditClip, 'from' | 'length' | 'speed'>, rate: Rate): number {
  if (clip.speed === null) return 1;
  const end = add(atLeastZero(clip.from), scaled(momentOf(clip.length, rate), clip.speed));
  return frameNear(end, rate) - frameNear(atLeastZero(clip.from), rate);
}

function atLeastZero(m: Moment): Moment {
  return m.n < 0n ? { n: 0n, d: 1n } : m;
}

/** At most eight capitals and digits, as the format wants; the reel that the list came with, else from the name. */
function reelOf(media: EditMedia | null): string {
  const known = media?.kept?.reel;
  if (typeof known === 'string' && /^\S{1,32}$/.test(known)) return known;
  const short = (media?.name ?? 'AX')
    .replace(/\.[^.]*$/, '')
    .toUpperCase()
    .replace(/[^A-Z0-9]/g, '')
    .slice(0, 8);
  return short === '' || short === 'BL' ? 'AX' : short;
}

function oneLine(text: string, most: number): string {
  return text.replace(/[\r\n\t]+/g, ' ').slice(0, most);
}

/** What a CMX 3600 list cannot say of a rate: more than 99 frames a second have no place in its timecode. */
export function edlHoldsRate(rate: Rate): boolean {
  return nominalRate(rate) <= 100;
}
