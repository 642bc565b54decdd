import { FIELD_ORDERS, LOW_PASSES } from '@thawline/core/fields';
import type { Size } from '@thawline/core/picture';
import { formatRate, rate, sameRate } from '@thawline/core/time';
import { z } from 'zod';
import { FRAME_LEAST, FRAME_MOST, idSchema, rateSchema, type Timeline } from '../document/document.js';
import { filmRate } from '../timing/fieldRate.js';

/** What a render can be written as. */
export const FORM_KINDS = ['mp4', 'webm', 'mkv', 'mov', 'y4m', 'png', 'tiff', 'wav'] as const;
export type FormKind = (typeof FORM_KINDS)[number];

export const VIDEO_CODECS = ['h264', 'hevc', 'vp9', 'av1', 'ffv1', 'prores', 'dnxhr', 'mpeg2'] as const;
export type FormCodec = (typeof VIDEO_CODECS)[number];

/** How sound is coded in a file, or lies in a WAV. */
export const SOUND_CODECS = ['aac', 'opus', 'flac', 'pcm16', 'pcm24', 'pcm32f'] as const;
export type SoundCodec = (typeof SOUND_CODECS)[number];

export const SOUND_WORDS: Record<SoundCodec, string> = {
  aac: 'AAC',
  opus: 'Opus',
  flac: 'FLAC',
  pcm16: 'PCM, 16 bit',
  pcm24: 'PCM, 24 bit',
  pcm32f: 'PCM, 32 bit float',
};

/** Colour for every second pixel across and down, for every second across, or for each. */
export const CHROMAS = ['420', '422', '444'] as const;
export type Chroma = (typeof CHROMAS)[number];

/** How frames of another rate come from the timeline's. */
export const RATE_WAYS = ['nearest', 'blend', 'motion'] as const;

/** Longest name of a rendered file, without its ending. */
/** Bytes in UTF-8: most file systems take 255, and a number and an ending come behind. */
const NAME_MOST_BYTES = 200;

/** What is seen where nothing is, if nobody says. */
const BLACK = '#000000';

/** What is asked of a render, beside the edit itself. */
export const formSchema = z.object({
  kind: z.enum(FORM_KINDS).default('mp4'),
  /** How pictures are coded; null: the form's first. */
  codec: z.enum(VIDEO_CODECS).nullable().default(null),
  /** Constant quality, see CODECS and qualityWords; null: as good as the original to the eye. */
  quality: z.int().min(0).max(63).nullable().default(null),
  depth: z.union([z.literal(8), z.literal(10)]).default(8),
  /** Null: the codec's first. */
  chroma: z.enum(CHROMAS).nullable().default(null),
  /** What is seen where nothing is, bars included: a colour as #rrggbb, or nothing: alpha is kept. */
  over: z
    .union([z.literal('nothing'), z.string().regex(/^#[0-9a-f]{6}$/, 'wants a colour as #rrggbb, or nothing')])
    .default(BLACK),
  sound: z.enum(['stereo', 'off']).default('stereo'),
  /** Null: the form's first. */
  soundCodec: z.enum(SOUND_CODECS).nullable().default(null),
  /** Which of a codec's grades, see gradesOf: 0 is the finest. */
  grade: z.int().min(0).max(3).default(0),
  /** True peak that the file's sound is brought to, up or down, in dB of full scale; null: as it is mixed. */
  peak: z.number().min(-40).max(0).nullable().default(null),
  /** Writes the timeline's timecode where the form has it. */
  timecode: z.boolean().default(true),
  /** Another rate than the timeline's; null: as the timeline. */
  rate: rateSchema.nullable().default(null),
  way: z.enum(RATE_WAYS).default('nearest'),
  /**
   * Two fields a frame, each at its own moment: which comes first, and what is taken out of detail that would flicker. Null: as the
   * timeline's frames are.
   */
  fields: z
    .union([
      z.object({
        order: z.enum(FIELD_ORDERS),
        lowPass: z.enum(LOW_PASSES).default('off'),
        /** Film of 23.976 or 24 frames a second is spread over fields by 2:3: the file has 29.97 or 30. */
        pulldown: z.boolean().default(false),
      }),
      z.literal('whole'),
    ])
    .nullable()
    .default(null),
});
export type RenderForm = z.infer<typeof formSchema>;
export type RenderFormInput = z.input<typeof formSchema>;
/** How frames of two fields are written. */
export type FormFields = Exclude<RenderForm['fields'], 'whole' | null>;
/** A form of which everything is said that no timeline has to say. */
export type SettledForm = Omit<RenderForm, 'codec' | 'quality' | 'chroma' | 'soundCodec'> & {
  readonly codec: FormCodec;
  readonly quality: number;
  readonly chroma: Chroma;
  readonly soundCodec: SoundCodec;
};
/** What of a form says how its pictures are stored. */
export type FormSamples = Pick<SettledForm, 'kind' | 'codec' | 'depth' | 'chroma' | 'over'>;

/** A form under a name that a person gave it. */
export const presetSchema = z.object({ id: idSchema, name: z.string().trim().min(1).max(60), form: formSchema });
export type Preset = z.infer<typeof presetSchema>;

type Depth = RenderForm['depth'];

export interface FormFacts {
  readonly ending: string;
  readonly words: string;
  /** Its first is taken where nothing else is said; none for forms without coding. */
  readonly codecs: readonly FormCodec[];
  /** How sound goes with it: within the file, as a WAV beside it, or alone. */
  readonly sound: 'within' | 'beside' | 'alone';
  /** How its sound can be coded; the first is taken where nothing else is asked for. */
  readonly sounds: readonly SoundCodec[];
  readonly timecode: boolean;
  /** Whether each picture comes back exactly as it went in. */
  readonly lossless: boolean;
  /** Whether its frames can be coded and flagged as two fields. */
  readonly fields: boolean;
}

/** What a WAV can hold. */
const WAV_SOUNDS = ['pcm24', 'pcm16', 'pcm32f'] as const;

export const FORMS: Record<FormKind, FormFacts> = {
  mp4: {
    ending: 'mp4',
    words: 'MP4',
    codecs: ['h264', 'hevc'],
    sound: 'within',
    sounds: ['aac'],
    timecode: true,
    lossless: false,
    fields: true,
  },
  webm: {
    ending: 'webm',
    words: 'WebM',
    codecs: ['vp9', 'av1'],
    sound: 'within',
    sounds: ['opus'],
    timecode: false,
    lossless: false,
    fields: false,
  },
  mkv: {
    ending: 'mkv',
    words: 'Matroska',
    codecs: ['ffv1'],
    sound: 'within',
    sounds: ['flac', 'pcm24', 'pcm16', 'pcm32f', 'opus'],
    timecode: true,
    lossless: true,
    fields: true,
  },
  mov: {
    ending: 'mov',
    words: 'MOV',
    codecs: ['prores', 'dnxhr', 'mpeg2'],
    sound: 'within',
    sounds: [...WAV_SOUNDS, 'aac'],
    timecode: true,
    lossless: false,
    fields: true,
  },
  y4m: {
    ending: 'y4m',
    words: 'Y4M',
    codecs: [],
    sound: 'beside',
    sounds: WAV_SOUNDS,
    timecode: false,
    lossless: true,
    fields: false,
  },
  png: {
    ending: 'png',
    words: 'Numbered PNG',
    codecs: [],
    sound: 'beside',
    sounds: WAV_SOUNDS,
    timecode: false,
    lossless: true,
    fields: false,
  },
  tiff: {
    ending: 'tif',
    words: 'Numbered TIFF',
    codecs: [],
    sound: 'beside',
    sounds: WAV_SOUNDS,
    timecode: false,
    lossless: true,
    fields: false,
  },
  wav: {
    ending: 'wav',
    words: 'Sound alone',
    codecs: [],
    sound: 'alone',
    sounds: WAV_SOUNDS,
    timecode: true,
    lossless: true,
    fields: false,
  },
};

/** What a codec's constant quality goes from and to, finest first; `like` is as good as the original to the eye. */
export interface QualityRange {
  readonly best: number;
  readonly like: number;
  readonly worst: number;
}

export interface CodecFacts {
  readonly words: string;
  readonly depths: readonly Depth[];
  /** Null: it has one quality alone. */
  readonly quality: QualityRange | null;
  /** Colours that it can have; the first is taken where nothing else is asked for. */
  readonly chromas: readonly Chroma[];
}

export const CODECS: Record<FormCodec, CodecFacts> = {
  h264: { words: 'H.264', depths: [8, 10], quality: { best: 0, like: 18, worst: 51 }, chromas: CHROMAS },
  hevc: { words: 'HEVC', depths: [8, 10], quality: { best: 0, like: 20, worst: 51 }, chromas: CHROMAS },
  vp9: { words: 'VP9', depths: [8, 10], quality: { best: 0, like: 24, worst: 63 }, chromas: CHROMAS },
  av1: { words: 'AV1', depths: [8, 10], quality: { best: 1, like: 24, worst: 63 }, chromas: ['420'] },
  ffv1: { words: 'FFV1', depths: [8, 10], quality: null, chromas: CHROMAS },
  prores: { words: 'ProRes', depths: [10], quality: null, chromas: ['422', '444'] },
  dnxhr: { words: 'DNxHR', depths: [8, 10], quality: null, chromas: ['422', '444'] },
  mpeg2: { words: 'MPEG-2', depths: [8], quality: { best: 1, like: 3, worst: 31 }, chromas: ['420', '422'] },
};

/** Colours that coders have beside alpha; those that are not named have none. */
const ALPHA_CHROMAS: Partial<Record<FormCodec, readonly Chroma[]>> = { ffv1: CHROMAS, vp9: ['420'], prores: ['444'] };

/** Forms of a picture a file, numbered, in a folder. */
export const SERIES_KINDS = ['png', 'tiff'] as const;
export type SeriesKind = (typeof SERIES_KINDS)[number];

/** Whether a form is a folder of numbered pictures. */
export function isSeries(kind: FormKind): kind is SeriesKind {
  return SERIES_KINDS.some((one) => one === kind);
}

/** Whether a form can keep alpha. */
export function bearsAlpha({ kind, codec }: Pick<SettledForm, 'kind' | 'codec'>): boolean {
  return FORMS[kind].codecs.length > 0 ? ALPHA_CHROMAS[codec] !== undefined : isSeries(kind);
}

/** Whether a form keeps alpha. */
export function keepsAlpha(form: Pick<SettledForm, 'kind' | 'codec' | 'over'>): boolean {
  return form.over === 'nothing' && bearsAlpha(form);
}

/** Depths that a form's pictures can have. */
export function depthsOf(form: Pick<SettledForm, 'kind' | 'codec' | 'chroma' | 'over'>): readonly Depth[] {
  const { kind, codec, chroma } = form;
  // FFmpeg's coder of VP9 has alpha at 8 bit alone.
  if (codec === 'vp9' && FORMS[kind].codecs.length > 0 && keepsAlpha(form)) return [8];
  // FFmpeg's coder of DNxHR has colour for each pixel at 10 bit alone.
  if (FORMS[kind].codecs.length > 0) return codec === 'dnxhr' && chroma === '444' ? [10] : CODECS[codec].depths;
  return kind === 'wav' ? [8] : [8, 10];
}

/** Colours that a form's pictures can have. */
export function chromasOf(form: Pick<SettledForm, 'kind' | 'codec' | 'over'>): readonly Chroma[] {
  const { kind, codec } = form;
  if (keepsAlpha(form)) return isSeries(kind) ? ['444'] : (ALPHA_CHROMAS[codec] ?? []);
  return FORMS[kind].codecs.length > 0 ? CODECS[codec].chromas : kind === 'wav' ? ['420'] : CHROMAS;
}

/** The grades of a codec that has no quality to choose, finest first: how many bits a picture gets. Of others one without a name. */
export function gradesOf({
  kind,
  codec,
  depth,
  chroma,
}: Pick<SettledForm, 'kind' | 'codec' | 'depth' | 'chroma'>): readonly string[] {
  if (FORMS[kind].codecs.length === 0) return [''];
  if (codec === 'prores') return chroma === '444' ? ['4444'] : ['422 HQ', '422', '422 LT', '422 Proxy'];
  if (codec === 'dnxhr') return chroma === '444' ? ['444'] : depth === 10 ? ['HQX'] : ['HQ', 'SQ', 'LB'];
  return [''];
}

/** The range of a form's quality; null where it has none to choose. */
export function qualityRange({ kind, codec }: Pick<SettledForm, 'kind' | 'codec'>): QualityRange | null {
  return FORMS[kind].codecs.length > 0 ? CODECS[codec].quality : null;
}

/** The planar format that a form's pictures are composed and coded in. */
export function pixelFormatOf(form: FormSamples): string {
  const { kind, depth, chroma } = form;
  if (!keepsAlpha(form)) return `yuv${chroma}p${depth === 10 ? '10le' : ''}`;
  // Numbered pictures of more than 8 bit have 16, and all of alpha has to be all of it there.
  return `yuva${chroma}p${depth === 10 ? (isSeries(kind) ? '16le' : '10le') : ''}`;
}

/** How a form writes a timeline's frames as two fields each; null: as whole pictures. */
export function formFields(form: Pick<RenderForm, 'kind' | 'fields'>, timeline: Pick<Timeline, 'fields'>): FormFields | null {
  if (!FORMS[form.kind].fields || form.fields === 'whole') return null;
  return form.fields ?? (timeline.fields ? { order: timeline.fields, lowPass: 'off', pulldown: false } : null);
}

/** The form with what does not go with its kind put right. */
export function settledForm(form: RenderForm): SettledForm {
  const { codecs, sound, sounds } = FORMS[form.kind];
  const codec = form.codec && codecs.includes(form.codec) ? form.codec : (codecs[0] ?? 'ffv1');
  const range = qualityRange({ kind: form.kind, codec });
  const { kind, over } = form;
  const chromas = chromasOf({ kind, codec, over });
  const chroma = form.chroma && chromas.includes(form.chroma) ? form.chroma : (chromas[0] ?? '420');
  const depths = depthsOf({ kind, codec, chroma, over });
  // A number that was meant for another codec is none of this one's.
  const own = form.codec === null || form.codec === codec;
  const { quality } = form;
  const known = own && range && quality !== null && quality >= range.best && quality <= range.worst;
  const depth = depths.includes(form.depth) ? form.depth : (depths[0] ?? 8);
  const soundCodec = form.soundCodec && sounds.includes(form.soundCodec) ? form.soundCodec : (sounds[0] ?? 'pcm24');
  const grade = form.grade < gradesOf({ kind, codec, depth, chroma }).length ? form.grade : 0;
  return {
    ...form,
    codec,
    quality: known ? quality : (range?.like ?? 0),
    depth,
    chroma,
    soundCodec,
    grade,
    sound: sound === 'alone' ? 'stereo' : form.sound,
    fields: FORMS[form.kind].fields ? form.fields : null,
  };
}

/** Frames a second that MPEG-2 has a code for (ITU-T H.262, table 6-4). */
const MPEG2_RATES = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(50), rate(60000, 1001), rate(60)];
/** Multiples of it are no size in MPEG-2: the lower twelve bits of one may not all be 0 (ITU-T H.262, 6.3.3). */
const MPEG2_SIZES = 4096;
/** What FFmpeg's coder of DNxHR takes at least. */
const DNXHR_LEAST = { width: 256, height: 120 };

/** Sizes that a codec takes are multiples of these: where chroma is halved H.264 and HEVC know no half samples, FFmpeg's coder of AV1 never. */
function stepsOf(codec: FormCodec, chroma: Chroma): { readonly across: 1 | 2; readonly down: 1 | 2 } {
  if (codec === 'av1') return { across: 2, down: 2 };
  if (codec !== 'h264' && codec !== 'hevc') return { across: 1, down: 1 };
  return { across: chroma === '444' ? 1 : 2, down: chroma === '420' ? 2 : 1 };
}

/** The nearest smaller and larger frame sizes that a form takes, where it does not take a timeline's own for being odd; else none. */
export function sizesBeside(form: SettledForm, { width, height }: Pick<Timeline, 'width' | 'height'>): readonly Size[] {
  if (FORMS[form.kind].codecs.length === 0) return [];
  const { across, down } = stepsOf(form.codec, form.chroma);
  const [x, y] = [width % across, height % down];
  if (x === 0 && y === 0) return [];
  const beside = [
    { width: width - x, height: height - y },
    { width: width + x, height: height + y },
  ];
  return beside.filter((size) => [size.width, size.height].every((n) => n >= FRAME_LEAST && n <= FRAME_MOST));
}

/**
 * H.264 crops field-coded 4:2:0 in steps of four lines (ITU-T H.264, 7.4.2.1.1, CropUnitY), so that other heights cannot be said; FFmpeg's
 * coder of DNxHR has no fields.
 */
function unheldWords(
  { codec, chroma }: Pick<SettledForm, 'codec' | 'chroma'>,
  { rate: perSecond, width, height }: Pick<Timeline, 'rate' | 'width' | 'height'>,
  inFields: boolean,
): string | null {
  const steps = stepsOf(codec, chroma);
  if (width % steps.across !== 0 || height % steps.down !== 0) {
    const needed = steps.down === 1 ? 'an even width' : 'an even width and height';
    const way = CODECS[codec].chromas.includes('444') ? ', or 4:4:4' : '';
    return `${CODECS[codec].words} at ${chromaWords(chroma)} needs ${needed}, and this is ${width}x${height}. ProRes and FFV1 take it${way}.`;
  }
  if (codec === 'mpeg2' && !MPEG2_RATES.some((r) => sameRate(r, perSecond)))
    return `MPEG-2 can only have ${MPEG2_RATES.map(formatRate).join(', ')} frames a second, and this is ${formatRate(perSecond)}. ProRes takes it.`;
  if (codec === 'mpeg2' && (width % MPEG2_SIZES === 0 || height % MPEG2_SIZES === 0))
    return `MPEG-2 cannot be ${MPEG2_SIZES} or ${2 * MPEG2_SIZES} wide or high, and this is ${width}x${height}. ProRes takes it.`;
  if (codec === 'dnxhr' && (width < DNXHR_LEAST.width || height < DNXHR_LEAST.height))
    return `DNxHR needs at least ${DNXHR_LEAST.width}x${DNXHR_LEAST.height}, and this is ${width}x${height}. ProRes takes it.`;
  if (!inFields) return null;
  if (codec === 'hevc') return 'HEVC is coded here as whole pictures only. H.264, ProRes and MPEG-2 take fields.';
  if (codec === 'dnxhr') return 'DNxHR is coded here as whole pictures only. ProRes and MPEG-2 take fields.';
  if (height % 2 !== 0) return `Two fields a frame need an even number of lines, and this has ${height}.`;
  if (codec !== 'h264' || height % 4 === 0) return null;
  return `H.264 needs a multiple of four lines for two fields a frame, and this has ${height}. Matroska takes it.`;
}

/** Rate and fields of the frames that a form writes of a timeline. */
export function writtenFrames(
  form: Pick<RenderForm, 'kind' | 'fields' | 'rate'>,
  timeline: Pick<Timeline, 'rate' | 'fields'>,
): Pick<Timeline, 'rate' | 'fields'> {
  const fields = formFields(form, timeline);
  const film = fields?.pulldown ? filmRate(timeline) : null;
  return { rate: film ?? form.rate ?? timeline.rate, ...(fields ? { fields: fields.order } : {}) };
}

/** Why a form cannot hold a timeline's frames at the rate it is written at, and what can; null where it does. */
export function unheldBy(form: SettledForm, timeline: Pick<Timeline, 'rate' | 'width' | 'height' | 'fields'>): string | null {
  if (form.over === 'nothing' && form.kind !== 'wav' && !bearsAlpha(form))
    return `${codingWords(form)} cannot keep transparency: FFV1, VP9, ProRes 4444, numbered PNG and TIFF can. Or say what colour stands where nothing is.`;
  if (FORMS[form.kind].codecs.length === 0) return null;
  const { width, height } = timeline;
  const fields = formFields(form, timeline);
  const film = filmRate(timeline);
  if (fields?.pulldown && !film)
    return timeline.fields
      ? 'Film by 2:3 needs a timeline of whole pictures, and this one is in fields already.'
      : `Film by 2:3 needs 23.976 or 24 frames a second, and this is ${formatRate(timeline.rate)}.`;
  const { rate: perSecond } = writtenFrames(form, timeline);
  return unheldWords(form, { rate: perSecond, width, height }, fields !== null);
}

/** What codes a form's pictures, with its grade, or what they are: "ProRes 422 HQ", "Y4M". */
export function codingWords(form: Pick<SettledForm, 'kind' | 'codec' | 'depth' | 'chroma' | 'grade'>): string {
  const { kind, codec, grade } = form;
  if (FORMS[kind].codecs.length === 0) return FORMS[kind].words;
  return [CODECS[codec].words, gradesOf(form)[grade] ?? ''].filter(Boolean).join(' ');
}

/** "4:2:2". */
export function chromaWords(chroma: Chroma): string {
  return [...chroma].join(':');
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
  const { kind, codec, quality, depth, chroma, sound, over, soundCodec } = settled;
  const written = formFields(form, timeline);
  const facts = FORMS[kind];
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
  const deep = depth === 10 ? ['10 bit'] : [];
  const behind = kind === 'wav' || over === BLACK ? [] : [over === 'nothing' ? 'transparent' : `over ${over}`];
  return [facts.words, ...coding, ...deep, ...coloured, ...behind, ...fields, ...heard, ...level].join(' \u00b7 ');
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
