import { formatTimecode, nominalRate, over, type Rate, times } from '../time/index.js';
import type { Edit, EditClip, EditMark, EditMedia } from './edit.js';
import { frameBefore, frameNear, minus, ZERO } from './exactSeconds.js';
import { type LabelledSource, labelsOf, type SourceLabels } from './labels.js';

/** An event is numbered with three digits; lists of more events count on with more. */
const DIGITS = 3;

/** Sound channels that the format names. */
export const EDL_SOUNDS = 4;

/**
 * Writes an edit as CMX 3600: its lowest picture lane and up to four sound lanes (the caller flattens what lies above). Source timecode
 * is what the source's own pictures are called (labels.ts), speeds stand in M2 lines to a tenth of a picture a second.
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
    const named = clip.labels ?? labelsIn(clip, edit.rate);
    const start = edit.startFrame + clip.start;
    const number = String(index + 1).padStart(DIGITS, '0');
    const out = channel === 'V' && clip.dissolve ? picture?.clips.find((c) => c.start + c.length === clip.start) : undefined;
    if (out) {
      // The clip that a dissolve starts from is written before it, as an event without length.
      const left = 'nested' in out.media ? null : out.media;
      const at = (out.labels ?? labelsIn(out, edit.rate)).to;
      lines.push(`${number}  ${reelOf(left).padEnd(8)} ${channel.padEnd(5)} C        ${at} ${at} ${code(start)} ${code(start)}`);
    }
    const way = out
      ? `D    ${String((clip.dissolve?.before ?? 0) + (clip.dissolve?.after ?? 0)).padStart(3, '0')} `
      : 'C        ';
    const recorded = [start, start + clip.length].map(code).join(' ');
    lines.push(`${number}  ${reel.padEnd(8)} ${channel.padEnd(5)} ${way}${named.from} ${named.to} ${recorded}`);
    if (named.speed !== null) lines.push(`M2   ${reel.padEnd(8)} ${speedWords(named.speed)}                ${named.from}`);
    if (out) lines.push(`* FROM CLIP NAME: ${oneLine(out.name, 200)}`);
    lines.push(`* ${out ? 'TO' : 'FROM'} CLIP NAME: ${oneLine(clip.name, 200)}`);
    if (media?.url) lines.push(`* SOURCE FILE: ${oneLine(media.url, 400)}`);
    const notes = clip.kept?.notes;
    if (Array.isArray(notes)) for (const note of notes) lines.push(`* ${oneLine(String(note), 400)}`);
    for (const mark of channel === 'V'
      ? edit.marks.filter((m) => m.frame >= clip.start && m.frame < clip.start + clip.length)
      : [])
      lines.push(`* LOC: ${code(edit.startFrame + mark.frame)} ${colourOf(mark)}  ${oneLine(mark.name, 100)}`);
  });
  return `${lines.join('\r\n')}\r\n`;
}

/** The labels of what a clip shows; of what has no rate of its own they count at the list's. */
export function labelsIn(clip: Pick<EditClip, 'media' | 'from' | 'speed' | 'backward' | 'length'>, list: Rate): SourceLabels {
  const media = 'nested' in clip.media ? null : clip.media;
  const base = 'nested' in clip.media ? clip.media.nested.rate : (clip.media.rate ?? list);
  const begins = media?.start ?? ZERO;
  const start = media?.timecode ?? (begins.n === 0n ? null : formatTimecode(frameNear(begins, base), base));
  const source: LabelledSource = { rate: base, start };
  const picture = frameBefore(minus(clip.from, begins), base);
  const perFrame = clip.speed && times(clip.speed, over(base, list));
  return labelsOf({ picture, perFrame, backward: clip.backward ?? false }, list, clip.length, source);
}

/** "012.5", "-025.0": three digits before the point. */
function speedWords(speed: number): string {
  return `${speed < 0 ? '-' : ''}${Math.abs(speed).toFixed(1).padStart(5, '0')}`;
}

/** The colour that a mark came with; marks made here are orange. */
function colourOf({ kept }: EditMark): string {
  return typeof kept?.color === 'string' && /^[A-Z]{3,12}$/i.test(kept.color) ? kept.color.toUpperCase().padEnd(6) : 'ORANGE';
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
