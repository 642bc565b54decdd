import type { Timeline } from '../document/document.js';
import {
  BLACK,
  type Chroma,
  CODECS,
  chromasOf,
  FORMS,
  type FormCodec,
  formFields,
  gradesOf,
  qualityRange,
  type RenderForm,
  type SettledForm,
  SOUND_WORDS,
  settledForm,
} from './form.js';

/** Longest name of a rendered file, without its ending, in bytes of UTF-8: most file systems take 255, and a number and an ending come behind. */
const NAME_MOST_BYTES = 200;

/** What codes a form's pictures, with its grade, or what they are: "ProRes 422 HQ", "Y4M". */
export function codingWords(form: Pick<SettledForm, 'kind' | 'codec' | 'depth' | 'chroma' | 'grade'>): string {
  const { kind, codec, grade } = form;
  if (FORMS[kind].codecs.length === 0) return FORMS[kind].words;
  return [CODECS[codec].words, gradesOf(form)[grade] ?? ''].filter(Boolean).join(' ');
}

/** "4:2:2", "RGB". */
export function chromaWords(chroma: Chroma): string {
  return chroma === 'rgb' ? 'RGB' : [...chroma].join(':');
}

/** What a number of constant quality means, in words. */
export function qualityWords(codec: FormCodec, quality: number): string {
  if (codec === 'ffv1') return 'every picture comes back exactly';
  const range = CODECS[codec].quality;
  if (!range) return 'made to be worked on again: every picture stands by itself';
  const { like } = range;
  if (quality === 0) return 'lossless: every picture comes back exactly';
  if (quality < like - 3) return 'finer than the eye: for material that is worked on again';
  if (quality <= like + 1) return 'as good as the original to the eye';
  if (quality <= like + 7) return 'good: fine texture begins to soften';
  if (quality <= like + 14) return 'a preview: texture is gone, edges hold';
  return 'coarse: blocks show';
}

/** The form in a line: "MP4 · H.264 quality 18 · AAC". */
export function formWords(form: RenderForm, timeline: Pick<Timeline, 'fields'> = {}): string {
  const settled = settledForm(form);
  const { kind, codec, quality, depth, chroma, sound, over, soundCodec, numbered } = settled;
  const written = formFields(form, timeline);
  const facts = FORMS[kind];
  const named = numbered ? [`${numbered.name} from ${numbered.first}`] : [];
  const channels = sound === 'all' ? ['all channels'] : [];
  const coded = qualityRange({ kind, codec }) ? [`quality ${quality}`] : [];
  const coding = facts.codecs.length > 0 ? [[codingWords(settled), ...coded].join(' ')] : [];
  const coloured = codec === 'prores' || chroma === chromasOf(settled)[0] ? [] : [chromaWords(chroma)];
  const heard =
    facts.sound === 'alone' || sound === 'off' ? [] : [facts.sound === 'beside' ? 'WAV beside it' : SOUND_WORDS[soundCodec]];
  const fields = written
    ? [`${written.pulldown ? 'film by 2:3, ' : ''}${written.order} field first`]
    : timeline.fields && kind !== 'wav'
      ? ['whole pictures']
      : [];
  const level = form.peak !== null && sound !== 'off' ? [`peak ${peakWords(form.peak)}`] : [];
  const deep = kind === 'exr' ? ['linear light, half float'] : depth > 8 ? [`${depth} bit`] : [];
  const behind = kind === 'wav' || over === BLACK ? [] : [over === 'nothing' ? 'transparent' : `over ${over}`];
  return [facts.words, ...coding, ...deep, ...coloured, ...behind, ...fields, ...named, ...heard, ...channels, ...level].join(
    ' \u00b7 ',
  );
}

/** A true peak in words: "\u22121.0 dBTP". */
export function peakWords(db: number): string {
  return `${db.toFixed(1).replace('-', '\u2212')} dBTP`;
}

/** A name for a file without its ending, as a person types it; null where it cannot be one. It never leads anywhere. */
export function fileNameOf(typed: string): string | null {
  const name = typed.trim().replace(/\s+/g, ' ');
  if (name === '' || utf8Length(name) > NAME_MOST_BYTES || /^\./.test(name)) return null;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is refused.
  return /[/\\:*?"<>|\u0000-\u001f\u007f]/.test(name) ? null : name;
}

function utf8Length(text: string): number {
  let bytes = 0;
  for (const character of text) {
    const point = character.codePointAt(0) ?? 0;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x1_0000 ? 3 : 4;
  }
  return bytes;
}
