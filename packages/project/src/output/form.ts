import { FIELD_ORDERS, LOW_PASSES } from '@thawline/core/fields';
import { type PictureCoder, takesAsIs } from '@thawline/core/picture';
import { z } from 'zod';
import { idSchema, rateSchema, type Timeline } from '../document/document.js';

/** What a render can be written as. */
export const FORM_KINDS = ['mp4', 'webm', 'mkv', 'mov', 'y4m', 'png', 'tiff', 'exr', 'wav'] as const;
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

/** Colour for every second pixel across and down, for every second across, or for each; or red, green and blue. */
export const CHROMAS = ['420', '422', '444', 'rgb'] as const;
export type Chroma = (typeof CHROMAS)[number];

/** Bits of a sample. */
export const DEPTHS = [8, 10, 12, 16] as const;
export type Depth = (typeof DEPTHS)[number];

/** How frames of another rate come from the timeline's. */
export const RATE_WAYS = ['nearest', 'blend', 'motion'] as const;

/** What is seen where nothing is, if nobody says. */
export const BLACK = '#000000';

/** Most that a picture's number can be at the first one: there is room for those that follow. */
export const NUMBERED_FIRST_MOST = 99_999_999;
/** A name with a run of # where the number goes, with so many digits at least; of letters and signs that any system takes. */
const NUMBERED_NAME = /^[^#/\\:*?"<>|\p{Cc}]{0,80}#{1,9}[^#/\\:*?"<>|\p{Cc}]{0,40}$/u;

/** How numbered pictures are called, without their ending, and what they are counted from. */
const numberedSchema = z.object({
  name: z.string().regex(NUMBERED_NAME, 'wants a run of # where the number goes, as in shot-####').default('########'),
  first: z.int().min(0).max(NUMBERED_FIRST_MOST).default(0),
});

/** What is asked of a render, beside the edit itself. */
export const formSchema = z.object({
  kind: z.enum(FORM_KINDS).default('mp4'),
  /** How pictures are coded; null: the form's first. */
  codec: z.enum(VIDEO_CODECS).nullable().default(null),
  /** Constant quality, see CODECS and qualityWords; null: as good as the original to the eye. */
  quality: z.int().min(0).max(63).nullable().default(null),
  /** Where the form has no such depth, the next finer one, else its finest. */
  depth: z.literal(DEPTHS).default(8),
  /** Null: the codec's first. */
  chroma: z.enum(CHROMAS).nullable().default(null),
  /** What is seen where nothing is, bars included: a colour as #rrggbb, or nothing: alpha is kept. */
  over: z
    .union([z.literal('nothing'), z.string().regex(/^#[0-9a-f]{6}$/, 'wants a colour as #rrggbb, or nothing')])
    .default(BLACK),
  /** Mixed to two channels; with as many channels as the widest source that is heard; or none. */
  sound: z.enum(['stereo', 'all', 'off']).default('stereo'),
  /** Of numbered pictures: their names; null: eight digits from 0. */
  numbered: numberedSchema.nullable().default(null),
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
  exr: {
    ending: 'exr',
    words: 'Numbered EXR',
    codecs: [],
    sound: 'beside',
    sounds: WAV_SOUNDS,
    timecode: false,
    lossless: false,
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
  /** Null: it has one quality alone. */
  readonly quality: QualityRange | null;
}

export const CODECS: Record<FormCodec, CodecFacts> = {
  h264: { words: 'H.264', quality: { best: 0, like: 18, worst: 51 } },
  hevc: { words: 'HEVC', quality: { best: 0, like: 20, worst: 51 } },
  vp9: { words: 'VP9', quality: { best: 0, like: 24, worst: 63 } },
  av1: { words: 'AV1', quality: { best: 1, like: 24, worst: 63 } },
  ffv1: { words: 'FFV1', quality: null },
  prores: { words: 'ProRes', quality: null },
  dnxhr: { words: 'DNxHR', quality: null },
  mpeg2: { words: 'MPEG-2', quality: { best: 1, like: 3, worst: 31 } },
};

/** Forms of a picture a file, numbered, in a folder. */
export const SERIES_KINDS = ['png', 'tiff', 'exr'] as const;
export type SeriesKind = (typeof SERIES_KINDS)[number];

/** Whether a form is a folder of numbered pictures. */
export function isSeries(kind: FormKind): kind is SeriesKind {
  return SERIES_KINDS.some((one) => one === kind);
}

/** What codes a form's pictures, or holds them as they are; null for sound alone. */
function coderOf({ kind, codec }: Pick<SettledForm, 'kind' | 'codec'>): PictureCoder | null {
  if (FORMS[kind].codecs.length > 0) return codec;
  return kind === 'wav' ? null : isSeries(kind) ? kind : 'raw';
}

/** The planar format of some samples. */
function planar(chroma: Chroma, depth: Depth, alpha: boolean): string {
  const a = alpha ? 'a' : '';
  return `${chroma === 'rgb' ? `gbr${a}p` : `yuv${a}${chroma}p`}${depth === 8 ? '' : `${depth}le`}`;
}

/** Depths at which a form has pictures of a chroma. */
function depthsWith(coder: PictureCoder, chroma: Chroma, alpha: boolean): Depth[] {
  return DEPTHS.filter((depth) => takesAsIs(coder, planar(chroma, depth, alpha)));
}

/** Parts of the names of a form's numbered pictures: before the number, its digits at least, behind it, and the first one's. */
export function numberingOf({ numbered }: Pick<RenderForm, 'numbered'>): {
  readonly before: string;
  readonly digits: number;
  readonly after: string;
  readonly first: number;
} {
  const { name, first } = numbered ?? numberedSchema.parse({});
  const [before = '', after = ''] = name.split(/#+/);
  return { before, digits: name.length - before.length - after.length, after, first };
}

/** Whether a form can keep alpha. */
export function bearsAlpha(form: Pick<SettledForm, 'kind' | 'codec'>): boolean {
  const coder = coderOf(form);
  return coder !== null && CHROMAS.some((chroma) => depthsWith(coder, chroma, true).length > 0);
}

/** Whether a form keeps alpha. */
export function keepsAlpha(form: Pick<SettledForm, 'kind' | 'codec' | 'over'>): boolean {
  return form.over === 'nothing' && bearsAlpha(form);
}

/** Depths that a form's pictures can have, the least first; of sound alone 8. */
export function depthsOf(form: Pick<SettledForm, 'kind' | 'codec' | 'chroma' | 'over'>): readonly Depth[] {
  const coder = coderOf(form);
  return coder === null ? [8] : depthsWith(coder, form.chroma, keepsAlpha(form));
}

/** Colours that a form's pictures can have; the first is taken where nothing else is asked for. */
export function chromasOf(form: Pick<SettledForm, 'kind' | 'codec' | 'over'>): readonly Chroma[] {
  const coder = coderOf(form);
  return coder === null ? ['420'] : CHROMAS.filter((chroma) => depthsWith(coder, chroma, keepsAlpha(form)).length > 0);
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
  if (codec === 'dnxhr') return chroma === '444' || chroma === 'rgb' ? ['444'] : depth === 10 ? ['HQX'] : ['HQ', 'SQ', 'LB'];
  return [''];
}

/** The range of a form's quality; null where it has none to choose. */
export function qualityRange({ kind, codec }: Pick<SettledForm, 'kind' | 'codec'>): QualityRange | null {
  return FORMS[kind].codecs.length > 0 ? CODECS[codec].quality : null;
}

/** The planar format that a form's pictures are composed and coded in. */
export function pixelFormatOf(form: FormSamples): string {
  return planar(form.chroma, form.depth, keepsAlpha(form));
}

/** Whether a form's file says where halved chroma lies. */
export function saysSiting({ kind, codec, chroma }: Pick<SettledForm, 'kind' | 'codec' | 'chroma'>): boolean {
  return FORMS[kind].codecs.length > 0 && (codec === 'h264' || codec === 'hevc') && chroma === '420';
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
  const depth = depths.find((one) => one >= form.depth) ?? depths.at(-1) ?? 8;
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
    sound: sound === 'alone' && form.sound === 'off' ? 'stereo' : form.sound,
    numbered: isSeries(kind) ? form.numbered : null,
    fields: FORMS[form.kind].fields ? form.fields : null,
  };
}
