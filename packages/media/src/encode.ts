import type { StdioOptions } from 'node:child_process';
import {
  type Chromaticity,
  type CodedAs,
  codedAs,
  deepen,
  deepFormat,
  type HighRange,
  lumaFor,
  multipliedLayout,
  type PictureCoder,
  type PixelLayout,
  pictureBytes,
  pixelFacts,
  pixelLayout,
  settledColour,
} from '@thawline/core/picture';
import { nameOf } from './colour.js';
import { exactFilters, needsExact } from './exact.js';
import { asLight } from './linear.js';
import { asBytes, type Feed, fed } from './pipes.js';
import type { AnyIterable, ContainerForm, EncodeRequest, SoundCodec, SoundWritten, VideoCodec } from './port.js';
import { run, safePath } from './process.js';
import { markSpherical } from './spherical.js';

const CODECS: Record<EncodeRequest['form'], VideoCodec | null> = {
  mp4: 'h264',
  webm: 'vp9',
  mkv: 'ffv1',
  mov: 'prores',
  y4m: null,
  png: null,
  tiff: null,
  exr: null,
};

/** Both constant quality; measured on the rig, vp9 and av1 at 24 come near h264 at 18. */
const [X264_QUALITY, X265_QUALITY, MPEG2_QUALITY, OTHER_QUALITY] = [18, 20, 3, 24];
/** Closed groups and pictures by themselves at cuts do not go together in FFmpeg's coder of MPEG-2. */
const NO_CUTS = '1000000000';
/** 4:2:2 in ProRes' numbers, finest first, and the kind with colour for each pixel, and alpha. */
const PRORES_GRADES = ['3', '2', '1', '0'] as const;
const PRORES_4444 = '4';
/** 4:2:2 of 8 bit in DNxHR's names, finest first. */
const DNXHR_GRADES = ['dnxhr_hq', 'dnxhr_sq', 'dnxhr_lb'] as const;

/** Packed forms that FFmpeg's coders want of what is in planes here: the same samples. */
const PACKED: Partial<Record<PictureCoder, Readonly<Record<string, string>>>> = {
  ffv1: { gbrp: 'bgr0', gbrap: 'bgra' },
  png: { gbrp: 'rgb24', gbrap: 'rgba', gbrp16le: 'rgb48be', gbrap16le: 'rgba64be', gray16le: 'gray16be' },
  tiff: { gbrp: 'rgb24', gbrap: 'rgba', gbrp16le: 'rgb48le', gbrap16le: 'rgba64le' },
};

/** How each form of numbered pictures is packed. */
const PACKING = {
  png: [],
  tiff: ['-compression_algo', 'deflate'],
  exr: ['-compression', 'zip16', '-format', 'half'],
} as const;

function isNumbered(form: EncodeRequest['form']): form is keyof typeof PACKING {
  return form in PACKING;
}

/** What codes the pictures of a request. */
function coderOf({ form, codec }: Pick<EncodeRequest, 'form' | 'codec'>): PictureCoder {
  return isNumbered(form) ? form : form === 'y4m' ? 'raw' : (codec ?? CODECS[form] ?? 'ffv1');
}

/** How the pictures of a request are coded. */
export function codedOf(request: Pick<EncodeRequest, 'form' | 'codec' | 'pixelFormat'>): CodedAs {
  return codedAs(coderOf(request), request.pixelFormat);
}

const USUAL_QUALITY: Partial<Record<VideoCodec, number>> = { h264: X264_QUALITY, hevc: X265_QUALITY, mpeg2: MPEG2_QUALITY };

/** Display and light in the words of x265: chromaticity in 50,000ths, luminance of the display in 10,000ths of cd/m2 (SMPTE ST 2086). */
function lightParams(highRange: HighRange | undefined): string[] {
  const { display, light } = highRange ?? {};
  const point = ([x, y]: Chromaticity): string => `(${Math.round(x * 50_000)},${Math.round(y * 50_000)})`;
  const levels = display && `(${Math.round(display.most * 10_000)},${Math.round(display.least * 10_000)})`;
  return [
    ...(display
      ? [
          `master-display=G${point(display.green)}B${point(display.blue)}R${point(display.red)}WP${point(display.white)}L${levels}`,
        ]
      : []),
    ...(light ? [`max-cll=${Math.round(light.most)},${Math.round(light.average)}`] : []),
  ];
}

function codecArgs(codec: VideoCodec, request: EncodeRequest): string[] {
  const { format } = codedAs(codec, request.pixelFormat);
  const usual = USUAL_QUALITY[codec] ?? OTHER_QUALITY;
  const quality = String(request.crf ?? usual);
  switch (codec) {
    case 'h264':
      // Constant quality 0 keeps everything at 8 bit alone; a constant quantizer of 0 does at any depth.
      return ['-c:v', 'libx264', '-preset', request.preset ?? 'veryfast', quality === '0' ? '-qp' : '-crf', quality];
    case 'hevc': {
      const kept = quality === '0' ? 'lossless=1' : `crf=${quality}`;
      // Groups that stand by themselves: parts are joined where one ends. The tag is what players of MP4 look for.
      const said = ['log-level=none', 'open-gop=0', kept, ...lightParams(request.highRange)].join(':');
      return ['-c:v', 'libx265', '-preset', request.preset ?? 'veryfast', '-x265-params', said, '-tag:v', 'hvc1'];
    }
    case 'vp9': {
      // In haste it loses samples of 10 bit even so (seen with libvpx 1.12, at 3 and more).
      const kept = quality === '0' ? ['-lossless', '1', '-cpu-used', '1'] : ['-crf', quality, '-b:v', '0', '-cpu-used', '5'];
      return ['-c:v', 'libvpx-vp9', '-deadline', 'good', '-row-mt', '1', ...kept];
    }
    case 'av1':
      return ['-c:v', 'libsvtav1', '-preset', '9', '-crf', quality];
    case 'ffv1':
      return ['-c:v', 'ffv1', '-level', '3', '-g', '1'];
    case 'prores':
      return [
        '-c:v',
        'prores_ks',
        '-profile:v',
        /444/.test(format) ? PRORES_4444 : (PRORES_GRADES[request.grade ?? 0] ?? PRORES_GRADES[0]),
        ...(/^yuva/.test(format) ? ['-alpha_bits', '16'] : []),
      ];
    case 'dnxhr':
      return [
        '-c:v',
        'dnxhd',
        '-profile:v',
        /444|gbr/.test(format)
          ? 'dnxhr_444'
          : /10/.test(format)
            ? 'dnxhr_hqx'
            : (DNXHR_GRADES[request.grade ?? 0] ?? DNXHR_GRADES[0]),
      ];
    case 'mpeg2':
      // Groups that stand by themselves: parts are joined where one ends.
      return ['-c:v', 'mpeg2video', '-q:v', quality, '-qmin', '1', '-g', '12', '-bf', '2', '-sc_threshold', NO_CUTS];
    default:
      return codec satisfies never;
  }
}

/** What sound is coded as in a form where nothing is said. */
const FIRST_SOUND: Record<ContainerForm, SoundCodec> = { mov: 'pcm24', mp4: 'aac', webm: 'opus', mkv: 'flac' };

/** Each coder, and of those that lose something kilobits a second for a channel. */
const SOUND_CODERS: Record<SoundCodec, readonly [coder: string, kilobits?: number]> = {
  pcm16: ['pcm_s16le'],
  pcm24: ['pcm_s24le'],
  pcm32f: ['pcm_f32le'],
  aac: ['aac', 96],
  opus: ['libopus', 80],
  flac: ['flac'],
};

/** How a form's sound is coded. */
export function soundCodecOf(form: ContainerForm, sound: Pick<SoundWritten, 'codec'> | undefined): SoundCodec {
  return sound?.codec ?? FIRST_SOUND[form];
}

/** The coder of a form's sound. */
export function soundArgs(form: ContainerForm, sound: Pick<SoundWritten, 'codec' | 'channels'> | undefined): readonly string[] {
  const [coder, kilobits] = SOUND_CODERS[soundCodecOf(form, sound)];
  const { channels = 2 } = sound ?? {};
  return ['-c:a', coder, ...(kilobits ? ['-b:a', `${kilobits * Math.max(2, channels)}k`] : [])];
}

/** Ticks that a frame lasts in an MP4 or MOV of ours: a whole number, at some ten thousand a second. */
export function ticksOfFrame(rate: EncodeRequest['rate']): number {
  return rate.den * Math.max(1, Math.ceil(10_000 / rate.num));
}

/** What a container is and how it counts. What is marked as of all around has its index at the end. */
export function containerArgs(form: ContainerForm, rate: EncodeRequest['rate'], marked = false): string[] {
  if (form === 'webm') return ['-f', 'webm'];
  if (form === 'mkv') return ['-f', 'matroska'];
  const scale = (rate.num * ticksOfFrame(rate)) / rate.den;
  return [
    '-video_track_timescale',
    String(scale),
    '-movflags',
    `${marked ? '' : '+faststart'}${form === 'mov' ? '+write_colr' : ''}` || '0',
    '-f',
    form,
  ];
}

/** Codes two fields a picture apart where the codec can; the flag is set by fieldFilters. */
function fieldArgs(codec: VideoCodec, { fields }: EncodeRequest): string[] {
  if (codec === 'mpeg2') return ['-flags', fields ? '+cgop+ilme+ildct' : '+cgop'];
  if (!fields) return [];
  if (codec === 'h264') return ['-flags', '+ilme+ildct', '-x264-params', fields === 'top' ? 'tff=1' : 'bff=1'];
  return codec === 'prores' ? ['-flags', '+ildct'] : [];
}

/** Names the field that comes first. */
function fieldFilters({ fields }: EncodeRequest): string[] {
  return fields ? [`setfield=${fields === 'top' ? 'tff' : 'bff'}`] : [];
}

/** Whether a file is marked as of all around once it is written. */
function isMarked({ form, sphere }: Pick<EncodeRequest, 'form' | 'sphere'>): boolean {
  return sphere === true && (form === 'mp4' || form === 'mov');
}

function videoArgs(request: EncodeRequest): string[] {
  const { form } = request;
  // Light has its floats already.
  const format = form === 'exr' ? request.pixelFormat : codedOf(request).format;
  const coded = ['-pix_fmt', PACKED[coderOf(request)]?.[format] ?? format];
  if (form === 'y4m') return ['-strict', '-1', ...coded, '-f', 'yuv4mpegpipe'];
  if (isNumbered(form)) {
    return ['-c:v', form, ...PACKING[form], ...coded, '-start_number', String(request.firstNumber ?? 0), '-f', 'image2'];
  }
  const codec = request.codec ?? CODECS[form] ?? 'ffv1';
  const args = [...codecArgs(codec, request), ...fieldArgs(codec, request), ...coded];
  const container = request.ticks
    ? ['-movflags', '+faststart', '-f', 'mp4']
    : containerArgs(form, request.rate, isMarked(request));
  return [...args, ...soundArgs(form, request.sound), ...container];
}

/**
 * Filters that bring pictures from luma and chroma to red, green and blue, or back, where the coder has no other; those that name their colours;
 * and the encoder's own tags.
 */
function colourArgs(request: EncodeRequest): { filters: string[]; tags: string[] } {
  const { colour, pixelFormat, height } = request;
  if (request.form === 'exr') return { filters: [], tags: [] };
  const { format } = codedOf(request);
  const [from, to] = [pixelFacts(pixelFormat), pixelFacts(format)];
  const [fromRgb, rgb] = [from?.model === 'rgb', to?.model === 'rgb'];
  // What was red, green and blue has no matrix of its own, and its range is none of luma's: it gets what is usual, and is told so.
  const made = fromRgb && !rgb;
  const { matrix, range } = made ? lumaFor(colour, height) : settledColour(colour, height);
  const flags = 'flags=bicubic+accurate_rnd+full_chroma_int';
  const scale = fromRgb
    ? `out_color_matrix=${nameOf(matrix)}:in_range=full:out_range=${range}`
    : `in_color_matrix=${nameOf(matrix)}:in_range=${range}:out_range=full`;
  const coded = PACKED[coderOf(request)]?.[format] ?? format;
  const stage = { width: request.width, height, encoding: { matrix, range }, siting: request.siting };
  const [given, wanted] = [
    { ...stage, pixelFormat },
    { ...stage, pixelFormat: format },
  ];
  const filters = needsExact(given, wanted)
    ? exactFilters(given, wanted)
    : fromRgb === rgb
      ? []
      : [`scale=${scale}:${flags}`, `format=${coded}`];
  if (!colour || isNumbered(request.form)) return { filters, tags: [] };
  // Each named twice: some coders ask the pictures, others the stream; FFmpeg has two names for red, green and blue.
  const said = [
    {
      own: 'range',
      tag: 'color_range',
      value: rgb || (made ? range : colour.range) === 'full' ? 'pc' : made || colour.range ? 'tv' : null,
    },
    { own: 'colorspace', tag: 'colorspace', value: rgb ? 'gbr' : made ? matrix : colour.matrix },
    { own: 'color_primaries', tag: 'color_primaries', value: colour.primaries },
    { own: 'color_trc', tag: 'color_trc', value: colour.transfer },
  ].filter((one) => one.value !== null);
  if (said.length === 0) return { filters, tags: [] };
  return {
    filters: [...filters, `setparams=${said.map(({ own, value }) => `${own}=${value}`).join(':')}`],
    tags: said.flatMap(({ tag, value }) => [`-${tag}`, value === 'gbr' ? 'rgb' : (value as string)]),
  };
}

/** Sets each picture's timestamp to its tick: FFmpeg counts N, and every gap is added once N has reached it. */
function timingFilters(ticks: readonly number[]): string[] {
  const gaps = ticks.slice(1).map((tick, k) => `gte(N,${k + 1})*${tick - (ticks[k] as number)}`);
  // FFmpeg refuses expressions nested deeper than 100, and each sum nests once: 50 terms a bracket, at most 40 brackets.
  const brackets = Array.from(
    { length: Math.ceil(gaps.length / 50) },
    (_, i) => `(${gaps.slice(i * 50, i * 50 + 50).join('+')})`,
  );
  const expression = [String(ticks[0] ?? 0), ...brackets].join('+');
  return ['settb=1/90000', `setpts='${expression}'`];
}
const TIMING_ARGS = ['-enc_time_base', '1:90000', '-video_track_timescale', '90000'];

/** What raw pictures on standard input are. */
export function rawInput(request: Pick<EncodeRequest, 'pixelFormat' | 'width' | 'height' | 'rate'>): string[] {
  return [
    // Full range is named by itself: FFmpeg would take the older names for a reason to convert.
    ...[
      '-f',
      'rawvideo',
      '-pix_fmt',
      request.pixelFormat.replace('yuvj', 'yuv'),
      '-video_size',
      `${request.width}x${request.height}`,
    ],
    ...['-framerate', `${request.rate.num}/${request.rate.den}`, '-i', 'pipe:0'],
  ];
}

/** What samples on file descriptor 3 are. */
export function rawSound(sound: { sampleRate: number; channels: number }): string[] {
  return ['-f', 'f32le', '-ar', String(sound.sampleRate), '-ac', String(sound.channels), '-i', 'pipe:3'];
}

/** Numbers that a sample's aspect is written with go up to this. */
const ASPECT_PARTS = 10_000;

/** Brings pictures to 16 bit whose alpha the coder has at more bits than they: FFmpeg's shift would make all of it a little less. */
function deepened(
  request: EncodeRequest,
  pictures: AnyIterable<Uint8Array>,
): { readonly request: EncodeRequest; readonly pictures: AnyIterable<Uint8Array> } {
  const layout = pixelLayout(request.pixelFormat);
  const coded = pixelFacts(codedOf(request).format);
  if (!layout?.alpha || !coded?.alpha || coded.bits <= layout.bits) return { request, pictures };
  const pixelFormat = deepFormat(request.pixelFormat);
  const deep = { ...multipliedLayout(layout), alpha: true };
  async function* all(own: PixelLayout): AsyncGenerator<Uint8Array> {
    for await (const picture of pictures) {
      const out = new Uint8Array(pictureBytes(deep, request.width, request.height));
      deepen(own, request, picture, out);
      yield out;
    }
  }
  return { request: { ...request, pixelFormat }, pictures: all(layout) };
}

/** Pictures go in on standard input, sound (when asked for) on file descriptor 3; FFmpeg's own re-timing is switched off. */
export async function encode(
  path: string,
  asked: EncodeRequest,
  given: AnyIterable<Uint8Array>,
  sound?: AnyIterable<Float32Array>,
): Promise<void> {
  const { request, pictures } = asked.form === 'exr' ? asLight(asked, given) : deepened(asked, given);
  const heard = sound && request.sound;
  const { filters, tags } = colourArgs(request);
  const { sampleAspect = 1 } = request;
  const aspect = sampleAspect === 1 ? [] : [`setsar=sar=${sampleAspect}:max=${ASPECT_PARTS}`];
  const chain = [...filters, ...aspect, ...fieldFilters(request), ...(request.ticks ? timingFilters(request.ticks) : [])];
  const args = [
    ...['-hide_banner', '-v', 'error', '-y', '-protocol_whitelist', 'file,pipe'],
    ...rawInput(request),
    ...(heard ? rawSound(heard) : []),
    ...['-map', '0:v', ...(heard ? ['-map', '1:a'] : []), '-fps_mode', 'passthrough'],
    ...(chain.length > 0 ? ['-vf', chain.join(',')] : []),
    ...videoArgs(request),
    ...tags,
    ...(request.siting && pixelFacts(codedOf(request).format)?.chroma === '4:2:0'
      ? ['-chroma_sample_location', request.siting]
      : []),
    ...(request.ticks ? TIMING_ARGS : []),
    ...(request.threads ? ['-threads', String(request.threads)] : []),
    safePath(path),
  ];
  const stdio: StdioOptions = ['pipe', 'ignore', 'pipe', ...(heard ? (['pipe'] as const) : [])];
  const process = run('ffmpeg', args, { stdio, failure: 'encode-failed', signal: request.signal });
  await fed(process, request.signal, [
    [process.child.stdin, pictures],
    ...(heard ? [[process.child.stdio[3], asBytes(sound)]] : []),
  ] as Feed[]);
  // FFV1 in MOV is on its way into Matroska.
  if (isMarked(request)) await markSpherical(path, request.codec === 'ffv1' ? (request.colour?.range ?? null) : null);
}
