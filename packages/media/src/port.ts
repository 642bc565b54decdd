import type { FieldRun } from '@thawline/core/fields';
import type { AlphaKind, Colour, Encoding, HighRange, Light } from '@thawline/core/picture';
import type { Rate, Timing } from '@thawline/core/time';

/** What a file says and what its own timestamps say. Facts of the file alone: no project knows of them yet. */
export interface Probe {
  /**
   * sequence: numbered pictures in one folder (see probeSeries). still: one picture without a rate. sound: no pictures at all; it is
   * counted in thousandths of a second, as if each were one.
   */
  readonly kind: 'film' | 'sequence' | 'still' | 'sound';
  /** Pictures, counted. */
  readonly pictures: number;
  /** The rate that the container or stream declares, unverified; null for sequences and stills. */
  readonly stored: Rate | null;
  /** Null for sequences and stills: their pictures bear no times. */
  readonly measured: { readonly rate: Rate /** What is left, average against rate. */; readonly ppm: number } | null;
  readonly variable: boolean;
  /** Every picture's own time. */
  readonly timing: Timing;
  /** First picture's start to last picture's end, of sound its length; null for sequences and stills. */
  readonly seconds: number | null;
  /** The first picture's own timestamp in the file; edit lists and B-pictures shift it from 0. */
  readonly firstSeconds: number;
  /** As shown: after the file's rotation, before its sample aspect; 0 for sound. */
  readonly width: number;
  readonly height: number;
  /** Width over height of one sample; 1 for square. */
  readonly sampleAspect: number;
  readonly codec: string;
  readonly pixelFormat: string;
  /** What the file says of its colours. Files that were read before this was asked have none. */
  readonly colour?: Colour;
  /** Where samples of chroma lie among those of luma ("left", "center", "topleft"); left out where the file does not say, or has none. */
  readonly siting?: string;
  /** Of pictures with alpha: how colour is stored beside it, as measured on some of them. */
  readonly alpha?: AlphaKind;
  /** What the file says of the display and the light it was made for. */
  readonly highRange?: HighRange;
  /** Degrees counterclockwise that the file asks to turn its pictures by; they are given turned. Left out: none. */
  readonly rotation?: number;
  /** How a picture of all around is laid out, as the file says ("equirectangular"). Left out: it is an ordinary one. */
  readonly projection?: string;
  /** Which of its kinds a coder used, as the file names it: "HQ", "4444", "DNXHR SQ". */
  readonly profile?: string;
  readonly container: string;
  /** Of numbered pictures: the first one's number. Left out: 0. */
  readonly firstNumber?: number;
  readonly fields: 'progressive' | 'top' | 'bottom';
  /** Whether the file says that; false where `fields` is what is usual. Files that were read before this was asked have none. */
  readonly flagged?: boolean;
  readonly sound: SoundFacts | null;
  /** The file ends before its own header says it does: a part of it is missing. Files that were read before this was asked have none. */
  readonly endsEarly?: boolean;
  /** Pictures, timing and rate are those that reading the file's fields gives. Left out: they are the frames that it stores. */
  readonly fieldsRead?: FieldsRead | undefined;
  /** What the file calls its first picture: "01:00:00:00", with ";" for drop-frame; null where it says nothing. */
  readonly timecode: string | null;
}

/** How a file's fields are read, and when its stored frames begin. */
export interface FieldsRead {
  readonly runs: readonly FieldRun[];
  readonly stored: Timing;
}

export interface SoundFacts {
  readonly seconds: number;
  readonly sampleRate: number;
  readonly channels: number;
  readonly codec: string;
  /** Start of the sound minus start of the first picture. */
  readonly startSeconds: number;
  /** Streams of sound that the file has beside this one, which is its first; nobody hears them. Left out: none. */
  readonly others?: number | undefined;
}

export const MEDIA_CODES = [
  'missing-file',
  'empty-file',
  'not-media',
  'no-picture',
  'no-sound',
  'silent',
  'truncated',
  'unreadable',
  'out-of-range',
  'decoder-crashed',
  'stuck',
  'no-ffmpeg',
  'too-short',
  'decode-failed',
  'encode-failed',
  'disk-full',
  'killed',
  'no-folder',
  'source-changed',
  'aborted',
] as const;
export type MediaCode = (typeof MEDIA_CODES)[number];

/** A file or process failed. `detail` is FFmpeg's own last line where there is one. */
export class MediaError extends Error {
  override readonly name = 'MediaError';
  constructor(
    readonly code: MediaCode,
    readonly detail = '',
  ) {
    super(detail ? `${code}: ${detail}` : code);
  }
}

export interface PictureRequest {
  /** A planar format of core/picture ("gray", "yuv420p", "yuva444p10le" …). Without alpha, pictures that have it come over black. */
  readonly pixelFormat: string;
  /** With a format that has alpha: colour comes multiplied by it, however it is stored. Default: as stored. */
  readonly multiplied?: boolean;
  /** Scaled to exactly this; both or neither. Without: as stored. */
  readonly width?: number;
  readonly height?: number;
  /** First picture wanted (0-based); its time lets the decoder skip what lies before. Default 0. */
  readonly from?: number;
  /** Begins at the key picture at or before `from`, or at the first where a file cannot be entered: cheap, and exact only in order. Default false. */
  readonly about?: boolean;
  /** Pictures wanted; default all that follow. */
  readonly count?: number;
  /** Scaling by area average (checks) or bicubic (pictures for people). Default bicubic. */
  readonly scaling?: 'area' | 'bicubic';
  /**
   * Matrix and range wanted, and what red, green and blue are to mean; the file's own are converted where they differ, through linear light where
   * their meaning does (ITU-R BT.1886, BT.2100; white of standard range by BT.2408; high range into standard by BT.2390). Default: as stored; what is
   * stored as linear light is never given so, but by the curve of BT.709, white at all that there is.
   */
  readonly colour?: Encoding &
    Partial<Light> & { /** Where halved chroma is to lie; left of its pixels when left out. */ readonly siting?: string };
  /** Only this part of each picture (its own pixels, even numbers), cut out before scaling. */
  readonly crop?: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
  /** Scales the two fields apart, so that each of the result's lines is of one moment. The height has to be a multiple of 4. */
  readonly fields?: boolean;
  /** Decoder threads; default the machine's. */
  readonly threads?: number;
  readonly signal?: AbortSignal;
}

export interface SoundRequest {
  readonly sampleRate: number;
  readonly channels: number;
  /** Channels as the file has them, in their order; `channels` has to be their number. Default: mixed to so many as places of speakers ask for; of more than eight, odd ones left and even ones right. */
  readonly asStored?: boolean;
  /** First moment wanted, in seconds from the sound's own start. Default 0. */
  readonly from?: number;
  /** The file's probe: with it, what lies before `from` is not decoded where the container allows to enter it to the sample. */
  readonly probe?: Pick<Probe, 'container' | 'firstSeconds' | 'sound'>;
  readonly signal?: AbortSignal;
}

export type VideoCodec = 'h264' | 'hevc' | 'vp9' | 'av1' | 'ffv1' | 'prores' | 'dnxhr' | 'mpeg2';

/** How sound is coded; pcm32f: 32-bit float. */
export type SoundCodec = 'aac' | 'opus' | 'flac' | 'pcm16' | 'pcm24' | 'pcm32f';

/** Sound on its way into a file. Without a codec it is AAC in mp4, Opus in webm, FLAC in mkv, PCM of 24 bit in mov. */
export interface SoundWritten {
  readonly sampleRate: number;
  readonly channels: number;
  readonly codec?: SoundCodec;
}

/** Containers that hold coded pictures and sound. */
export type ContainerForm = 'mp4' | 'webm' | 'mkv' | 'mov';

export interface EncodeRequest {
  readonly width: number;
  readonly height: number;
  /** Width over height of one sample, written into the file; default 1. */
  readonly sampleAspect?: number;
  readonly rate: Rate;
  /** A planar format of core/picture. What the coder cannot take as it is comes to what loses least (codedAs). */
  readonly pixelFormat: string;
  /** png, tiff, exr: numbered files; the path then is a pattern such as seriesPattern gives. */
  readonly form: ContainerForm | 'y4m' | 'png' | 'tiff' | 'exr';
  /** Of numbered files: the first one's number; default 0. */
  readonly firstNumber?: number;
  /** Default: h264 for mp4, vp9 for webm, ffv1 for mkv, prores for mov. */
  readonly codec?: VideoCodec;
  /** Interleaved 32-bit float samples come beside the pictures. */
  readonly sound?: SoundWritten;
  /** Constant quality of h264 (0 lossless to 51; default 18), hevc (the same; default 20), vp9 (0 lossless to 63; default 24), av1 (1 to 63; default 24) and mpeg2 (1 to 31; default 3). */
  readonly crf?: number;
  /** Each picture holds two fields, this one first: coded as fields and flagged so (h264, prores, mpeg2), or flagged alone (ffv1). Left out: whole pictures. */
  readonly fields?: 'top' | 'bottom';
  /** Encoder threads; x264's output depends on their number, so that what has to be the same everywhere states it. */
  readonly threads?: number;
  /** x264 preset; default "veryfast". */
  readonly preset?: string;
  /**
   * Written into the file where the form has it. Where luma and chroma become red, green and blue it is what they are; where these become luma
   * and chroma, what they get; what is null is then as players take it.
   */
  readonly colour?: Colour;
  /** Where samples of chroma lie, as Probe says it; written where the form has it. */
  readonly siting?: string;
  /** Of ProRes and DNxHR: 0 is the finest that their samples allow; each further one has fewer bits. */
  readonly grade?: number;
  /** Pictures are of all around, equirectangular, which mp4 and mov say. */
  readonly sphere?: boolean;
  /** Of hevc: the display and the light that pictures were made for, written into the file. */
  readonly highRange?: HighRange;
  /** When each picture begins, in ticks of 1/90000 s, rising; for variable timing (mp4 only, at most 2,000 pictures). */
  readonly ticks?: readonly number[];
  readonly signal?: AbortSignal;
}

export interface JoinRequest {
  /** Their pictures are of all around, and each was encoded so. */
  readonly sphere?: boolean;
  /**
   * Files that encode wrote with one request, whose pictures follow each other: MP4; FFV1 for mkv (in mov, where it says that it is of all around);
   * VP9 in mkv, where it has alpha; for mov in mov.
   */
  readonly parts: readonly { readonly path: string; readonly pictures: number }[];
  readonly rate: Rate;
  readonly form: ContainerForm;
  readonly sound?: SoundWritten;
  /** What the first picture is called: "01:00:00:00", with ";" for drop-frame. */
  readonly timecode?: string;
  readonly signal?: AbortSignal;
}

/** Interleaved 32-bit float samples are coded for a file of this form. */
export interface SoundEncodeRequest extends SoundWritten {
  readonly form: ContainerForm;
  readonly signal?: AbortSignal;
}

/** What a decoder has to know of a file to count its pictures. */
export type Known = Pick<
  Probe,
  'timing' | 'firstSeconds' | 'width' | 'height' | 'container' | 'pixelFormat' | 'colour' | 'fieldsRead'
> &
  Partial<Pick<Probe, 'codec' | 'alpha' | 'highRange' | 'firstNumber' | 'siting'>>;

export type AnyIterable<T> = Iterable<T> | AsyncIterable<T>;

/** Pictures in order of presentation, each exactly once. Ending the loop early ends the decoder. */
export type Pictures = AsyncIterable<Uint8Array>;

export interface Media {
  /** Rejects with MediaError; a file that is not fit for use is refused here. */
  probe(path: string, signal?: AbortSignal): Promise<Probe>;
  /**
   * Numbered pictures as one clip: `pattern` as seriesPattern makes it, files numbered from `first` (default 0) without gaps, `rate` asked for.
   * All pictures are given at the first one's size.
   */
  probeSeries(
    pattern: string,
    series: { readonly pictures: number; readonly rate: Rate; readonly first?: number },
    signal?: AbortSignal,
  ): Promise<Probe>;
  openPictures(path: string, probe: Known, request: PictureRequest): Pictures;
  /** Interleaved float samples from the sound's own first one, or the moment asked for; holes in it come as silence. */
  openSound(path: string, request: SoundRequest): AsyncIterable<Float32Array>;
  /**
   * Writes a file from pictures (packed, in the requested format) and interleaved float samples. Both are read side by
   * side, as the encoder asks for them. Resolves when the file is whole; rejects with MediaError, or with what the
   * iterables throw, and may then leave a part of a file, which is the caller's to remove.
   */
  encode(
    path: string,
    request: EncodeRequest,
    pictures: AnyIterable<Uint8Array>,
    sound?: AnyIterable<Float32Array>,
  ): Promise<void>;
  /** Every picture for looking at, one after the other: as JPEG, or as WebP where it has alpha. High range and wide colours as screens show them. */
  openStills(
    path: string,
    probe: Known,
    request: { width: number; height: number; quality: number; from?: number; count?: number; signal?: AbortSignal },
  ): AsyncIterable<Uint8Array>;
  /**
   * Puts files of encode one behind the other without coding their pictures again, each picture at its frame of the rate exactly, with
   * sound beside them. What encode says of failure goes for this.
   */
  join(path: string, request: JoinRequest, sound?: AnyIterable<Float32Array>): Promise<void>;
  /** The sound of a file of a form alone, coded as encode and join code it. What encode says of failure goes for this. */
  encodeSound(path: string, request: SoundEncodeRequest, sound: AnyIterable<Float32Array>): Promise<void>;
  /** Bytes of each coded picture, in file order. */
  packetBytes(path: string, signal?: AbortSignal): Promise<number[]>;
  /** What decodes and encodes, and of which version: changes whenever the same request may give other bytes. */
  version(): Promise<string>;
  /** One raw picture as a JPEG for looking at, scaled to at most `most` wide; high range and wide colours as screens show them. */
  jpegOf(
    picture: Uint8Array,
    request: { width: number; height: number; pixelFormat: string; colour?: Encoding & Partial<Light>; most: number },
    signal?: AbortSignal,
  ): Promise<Uint8Array>;
  /** One JPEG of several pictures of openStills, side by side, each scaled to exactly width x height. */
  tileStills(stills: readonly Uint8Array[], tile: { width: number; height: number }, signal?: AbortSignal): Promise<Uint8Array>;
}
