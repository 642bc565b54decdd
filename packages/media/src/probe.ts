import { open } from 'node:fs/promises';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import { AlphaMeter, type Chromaticity, type Colour, type HighRange, LINEAR, pixelFacts } from '@thawline/core/picture';
import {
  constantTiming,
  measureTiming,
  PICTURES_MAX,
  RATE_MAX,
  RATE_MIN,
  type Rate,
  rate,
  rateToNumber,
  snapRate,
  type Timing,
  timingSeconds,
} from '@thawline/core/time';
import { colourOf } from './colour.js';
import { endsEarly } from './ending.js';
import { statIfThere } from './ifThere.js';
import { openPictures } from './pictures.js';
import { MediaError, type Probe, type SoundFacts } from './port.js';
import { GUARD, lastLine, run, SERIES, SERIES_GUARD, safePath, stillDemuxer } from './process.js';

interface Stream {
  readonly index: number;
  readonly codec_type?: string;
  readonly codec_name?: string;
  readonly width?: number;
  readonly height?: number;
  readonly pix_fmt?: string;
  readonly color_range?: string;
  readonly color_space?: string;
  readonly color_primaries?: string;
  readonly color_transfer?: string;
  readonly chroma_location?: string;
  readonly field_order?: string;
  readonly r_frame_rate?: string;
  readonly avg_frame_rate?: string;
  readonly time_base?: string;
  readonly start_time?: string;
  readonly duration?: string;
  readonly sample_aspect_ratio?: string;
  readonly sample_rate?: string;
  readonly channels?: number;
  readonly disposition?: { readonly attached_pic?: number };
  readonly profile?: string;
  readonly tags?: Readonly<Record<string, string>>;
  readonly side_data_list?: readonly SideData[];
}

/** What goes beside a stream or a picture; each kind has some of these. */
interface SideData {
  readonly side_data_type?: string;
  readonly rotation?: number;
  readonly projection?: string;
  readonly red_x?: string;
  readonly red_y?: string;
  readonly green_x?: string;
  readonly green_y?: string;
  readonly blue_x?: string;
  readonly blue_y?: string;
  readonly white_point_x?: string;
  readonly white_point_y?: string;
  readonly min_luminance?: string;
  readonly max_luminance?: string;
  readonly max_content?: number;
  readonly max_average?: number;
}

interface Described {
  readonly streams?: readonly Stream[];
  readonly format?: {
    readonly format_name?: string;
    readonly start_time?: string;
    readonly tags?: Readonly<Record<string, string>>;
  };
  readonly frames?: readonly {
    readonly interlaced_frame?: number;
    readonly top_field_first?: number;
    readonly chroma_location?: string;
    readonly side_data_list?: readonly SideData[];
  }[];
}

const COMMON = ['-hide_banner', '-v', 'error', ...GUARD];
/** Whole pictures a packet: counting packets counts pictures. Elsewhere (fields, raw streams) pictures are decoded to be counted. */
const ONE_PICTURE_A_PACKET = /mp4|matroska|mov/;
const TRUNCATED = /partial file|ended prematurely|truncat|moov atom not found|Packet corrupt|Invalid NAL unit size|end of file/i;

/**
 * Reads a file's streams, counts its pictures by their own timestamps and decodes its first ones to see that they can be. What it says of
 * itself lies within what a project can hold.
 */
export async function probe(path: string, signal?: AbortSignal): Promise<Probe> {
  const file = await statIfThere(path).catch((error: NodeJS.ErrnoException) => {
    throw new MediaError('unreadable', error.message);
  });
  if (!file?.isFile()) throw new MediaError('missing-file');
  if (file.size === 0) throw new MediaError('empty-file');
  const { probed, soundEnd } = await probeFile(path, signal);
  const trouble = rangeTrouble(probed);
  if (trouble) throw new MediaError('out-of-range', trouble);
  return { ...probed, ...(await alphaOf(path, probed, signal)), endsEarly: await endsEarly(path, probed, soundEnd) };
}

/** Pictures that are asked how colour goes with alpha, spread over the file. */
const ALPHA_LOOKS = 5;

/** Up to this picture a file is decoded from its start. */
const NEAR = 48;

/** How colour is stored beside alpha, where there is alpha. */
async function alphaOf(path: string, probed: Probe, signal?: AbortSignal): Promise<Pick<Probe, 'alpha'>> {
  if (!pixelFacts(probed.pixelFormat)?.alpha) return {};
  const meter = new AlphaMeter();
  const last = probed.kind === 'sequence' ? 0 : probed.pictures - 1;
  const looks = new Set(Array.from({ length: ALPHA_LOOKS }, (_, i) => Math.round((i * last) / (ALPHA_LOOKS - 1))));
  for (const from of looks) {
    // Far into a long file the key picture before it will do.
    const request = { pixelFormat: 'gbrap16le', from, count: 1, about: from > NEAR, signal };
    for await (const picture of openPictures(path, probed, request))
      meter.add(new Uint16Array(picture.buffer, picture.byteOffset, picture.byteLength >> 1), probed.width, probed.height);
  }
  const alpha = meter.verdict();
  // Its file layout wants colour multiplied.
  return { alpha: probed.codec === 'exr' && alpha !== 'opaque' ? 'multiplied' : alpha };
}

/** Widest and highest picture that is taken, in samples. */
const MOST_SAMPLES_ACROSS = 32_768;
/** Samples a second of a sound: below, resampling it takes more memory than a machine has; above, no recorder goes. */
const SOUND_RATE_RANGE = { least: 1000, most: 1_536_000 } as const;
const MOST_CHANNELS = 64;

/** What of a file is out of range, in words; null where all is within. */
function rangeTrouble({ pictures, stored, measured, width, height, sound, seconds, kind }: Probe): string | null {
  const rates = [stored, measured?.rate].filter((r) => r !== null && r !== undefined);
  const odd = rates.find((r) => {
    const value = rateToNumber(r);
    return !(value >= RATE_MIN && value <= RATE_MAX && Number.isSafeInteger(r.num) && Number.isSafeInteger(r.den));
  });
  if (odd) return `${rateToNumber(odd)} pictures a second; ${RATE_MIN} to ${RATE_MAX} are taken`;
  if (pictures > PICTURES_MAX)
    return kind === 'sound'
      ? `it runs for ${((seconds ?? 0) / 3600).toFixed(1)} hours; 27.7 are the most`
      : `it has ${pictures} pictures; ${PICTURES_MAX} are the most`;
  if (width > MOST_SAMPLES_ACROSS || height > MOST_SAMPLES_ACROSS)
    return `${width}x${height}; ${MOST_SAMPLES_ACROSS} samples are the most in either direction`;
  if (sound && (sound.sampleRate < SOUND_RATE_RANGE.least || sound.sampleRate > SOUND_RATE_RANGE.most))
    return `its sound has ${sound.sampleRate} samples a second; ${SOUND_RATE_RANGE.least} to ${SOUND_RATE_RANGE.most} are taken`;
  if (sound && sound.channels > MOST_CHANNELS) return `its sound has ${sound.channels} channels; ${MOST_CHANNELS} are the most`;
  if ((seconds !== null && !(seconds >= 0 && Number.isFinite(seconds))) || (sound && !Number.isFinite(sound.seconds)))
    return 'its length is no number';
  return null;
}

/** What a file is, and where its last packet of sound ends, in seconds (0 without sound). */
interface Probed {
  readonly probed: Probe;
  readonly soundEnd: number;
}

async function probeFile(path: string, signal?: AbortSignal): Promise<Probed> {
  const demuxer = stillDemuxer(await headOf(path));
  const described = await describe(path, signal, demuxer ? ['-f', demuxer] : []);
  const video = described.streams?.find((s) => s.codec_type === 'video' && s.disposition?.attached_pic !== 1);
  const [audio, ...others] = described.streams?.filter((s) => s.codec_type === 'audio') ?? [];
  if (!video && audio) return soundAlone(path, described, { audio, others: others.length }, signal);
  if (!video?.width || !video.height || !video.codec_name) throw new MediaError('no-picture');
  const container = described.format?.format_name ?? '';
  if (/_pipe$/.test(container)) return { probed: still(described, video), soundEnd: 0 };
  const { fields, flagged } = fieldOrder(video, described);
  const byPackets = ONE_PICTURE_A_PACKET.test(container) && fields === 'progressive';
  const times = byPackets
    ? await packetTimes(path, video.index, audio?.index ?? -1, signal)
    : await decodedTimes(path, video, audio?.index ?? -1, signal);
  if (times.ticks.length === 0) throw new MediaError(times.truncated ? 'truncated' : 'unreadable', times.said);
  if (times.truncated) throw new MediaError('truncated', times.said);
  const timeBase = invert(parseFraction(video.time_base) ?? rate(1, 90000));
  const stored = storedRate(video);
  const ticks = times.ticks.sort((a, b) => a - b);
  const measured = measureTiming(ticks, timeBase, times.lastTicks, stored);
  if (!measured) return { probed: still(described, video), soundEnd: 0 };
  const first = ticks[0] as number;
  const timing: Timing = measured.variable
    ? { kind: 'variable', ticks: ticks.map((t) => t - first), end: measured.lengthTicks, timeBase }
    : { kind: 'constant', rate: measured.rate, pictures: ticks.length };
  const firstSeconds = (first * timeBase.den) / timeBase.num;
  const probed: Probe = {
    kind: 'film',
    pictures: ticks.length,
    stored: stored ?? measured.rate,
    measured: { rate: measured.rate, ppm: measured.ppm },
    variable: measured.variable,
    timing,
    seconds: timingSeconds(timing),
    firstSeconds,
    ...looks(described, video),
    fields,
    flagged,
    sound: audio
      ? soundFacts(await withoutLead(path, audio, signal), {
          others: others.length,
          lastEnd: times.soundSeconds,
          firstPicture: firstSeconds,
        })
      : null,
    timecode: timecodeOf(described),
  };
  return { probed, soundEnd: times.soundSeconds };
}

/** Opus starts before its first sample that counts; what is heard begins where the decoder says it does. */
async function withoutLead(path: string, audio: Stream, signal?: AbortSignal): Promise<Stream> {
  if (audio.codec_name !== 'opus') return audio;
  const args = [...COMMON, '-select_streams', String(audio.index), '-read_intervals', '%+#1'];
  const entries = ['-show_entries', 'frame=pts_time', '-of', 'csv=p=0', safePath(path)];
  const process = run('ffprobe', [...args, ...entries], { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  let said = '';
  for await (const chunk of process.child.stdout as Readable) said += String(chunk);
  await process.done;
  const heard = Number.parseFloat(said);
  return Number.isFinite(heard) ? { ...audio, start_time: String(heard) } : audio;
}

/** Numbered pictures as one clip: see the port. The first one is looked at; the others are found out when they are decoded. */
export async function probeSeries(
  pattern: string,
  { pictures, rate: asked, first = 0 }: { readonly pictures: number; readonly rate: Rate; readonly first?: number },
  signal?: AbortSignal,
): Promise<Probe> {
  if (pictures < 1) throw new MediaError('missing-file');
  const described = await describe(pattern, signal, ['-f', SERIES, '-start_number', String(first)], SERIES_GUARD);
  const video = described.streams?.find((s) => s.codec_type === 'video');
  if (!video?.width || !video.height) throw new MediaError('no-picture');
  const probed: Probe = {
    ...still(described, video),
    kind: 'sequence',
    pictures,
    timing: constantTiming(asked, pictures),
    ...(first > 0 ? { firstNumber: first } : {}),
  };
  return { ...probed, ...(await alphaOf(pattern, probed, signal)) };
}

/** Sound is counted in so many parts of a second where there are no pictures to count by. */
const SOUND_PARTS = rate(1000);

async function soundAlone(
  path: string,
  described: Described,
  { audio, others }: { readonly audio: Stream; readonly others: number },
  signal?: AbortSignal,
): Promise<Probed> {
  const times = await packetTimes(path, -1, audio.index, signal);
  if (times.truncated) throw new MediaError('truncated', times.said);
  const start = Number(audio.start_time) || 0;
  const sound = soundFacts(audio, { others, lastEnd: times.soundSeconds, firstPicture: start });
  if (!sound || sound.seconds <= 0) throw new MediaError('unreadable', times.said);
  const parts = Math.max(1, Math.ceil(sound.seconds * rateToNumber(SOUND_PARTS)));
  const probed: Probe = {
    kind: 'sound',
    pictures: parts,
    stored: null,
    measured: null,
    variable: false,
    timing: constantTiming(SOUND_PARTS, parts),
    seconds: sound.seconds,
    firstSeconds: start,
    width: 0,
    height: 0,
    sampleAspect: 1,
    codec: sound.codec,
    pixelFormat: '',
    container: described.format?.format_name ?? '',
    fields: 'progressive',
    sound,
    timecode: timecodeOf(described),
  };
  return { probed, soundEnd: times.soundSeconds };
}

function still(described: Described, video: Stream): Probe {
  return {
    kind: 'still',
    pictures: 1,
    stored: null,
    measured: null,
    variable: false,
    timing: { kind: 'still' },
    seconds: null,
    firstSeconds: 0,
    ...looks(described, video),
    fields: 'progressive',
    sound: null,
    timecode: timecodeOf(described),
  };
}

/** What the file calls its first picture: of the whole file, a stream, or a timecode track. */
function timecodeOf(described: Described): string | null {
  const tags = [described.format?.tags, ...(described.streams ?? []).map((s) => s.tags)];
  const said = tags.map((t) => t?.timecode ?? t?.TIMECODE).find((t) => t !== undefined);
  return said && /^\d{1,2}:\d{2}:\d{2}[:;.]\d{2,3}$/.test(said) ? said.replace('.', ';') : null;
}

/** Formats of 4:2:0, whose decoders know nothing of the alpha that goes beside it in a file. */
const ALPHA_BESIDE = /^vp[89]$/;

/** Matroska has a field for it, and muxers that copy write it as a tag, too, in capitals. */
function hasAlphaBeside({ alpha_mode, ALPHA_MODE }: Stream['tags'] = {}): boolean {
  return (alpha_mode ?? ALPHA_MODE) === '1';
}

function looks(
  described: Described,
  video: Stream,
): Pick<
  Probe,
  | 'width'
  | 'height'
  | 'sampleAspect'
  | 'codec'
  | 'pixelFormat'
  | 'colour'
  | 'siting'
  | 'highRange'
  | 'rotation'
  | 'projection'
  | 'profile'
  | 'container'
> {
  const beside = [...(video.side_data_list ?? []), ...(described.frames ?? []).flatMap((f) => f.side_data_list ?? [])];
  const rotation = Math.round(beside.find((d) => d.rotation !== undefined)?.rotation ?? 0);
  const turned = Math.abs(rotation) % 180 === 90;
  const [width, height] = [video.width ?? 0, video.height ?? 0];
  const codec = video.codec_name ?? 'unknown';
  const pixelFormat = video.pix_fmt ?? 'yuv420p';
  const siting = [video.chroma_location, ...(described.frames ?? []).map((f) => f.chroma_location)].find(
    (said) => said !== undefined && said !== 'unspecified',
  );
  const projection = beside.find((d) => d.side_data_type === 'Spherical Mapping')?.projection;
  const highRange = highRangeOf(beside);
  return {
    width: turned ? height : width,
    height: turned ? width : height,
    sampleAspect: sampleAspect(video, turned),
    codec,
    pixelFormat: ALPHA_BESIDE.test(codec) && hasAlphaBeside(video.tags) ? pixelFormat.replace(/^yuv4/, 'yuva4') : pixelFormat,
    colour: pixelFacts(pixelFormat)?.float ? ofLight(colourOf(video)) : colourOf(video),
    ...(siting ? { siting } : {}),
    ...(highRange ? { highRange } : {}),
    ...(rotation ? { rotation } : {}),
    ...(projection ? { projection } : {}),
    ...(video.profile && /^(prores|dnxhd)$/.test(codec) ? { profile: video.profile } : {}),
    container: described.format?.format_name ?? '',
  };
}

/** What floating-point pictures say where they say nothing: light itself, red, green and blue of BT.709 (the OpenEXR file layout, chromaticities). */
function ofLight({ primaries, transfer, ...encoding }: Colour): Colour {
  return { ...encoding, primaries: primaries ?? 'bt709', transfer: transfer ?? LINEAR };
}

/** What is said of the display and the light that a picture was made for; null where nothing is. */
function highRangeOf(beside: readonly SideData[]): HighRange | null {
  const mastering = beside.find((d) => d.max_luminance !== undefined && d.red_x !== undefined);
  const light = beside.find((d) => d.max_content !== undefined && d.max_average !== undefined);
  const point = (x: string | undefined, y: string | undefined): Chromaticity => [numberOf(x), numberOf(y)];
  const display = mastering && {
    least: numberOf(mastering.min_luminance),
    most: numberOf(mastering.max_luminance),
    red: point(mastering.red_x, mastering.red_y),
    green: point(mastering.green_x, mastering.green_y),
    blue: point(mastering.blue_x, mastering.blue_y),
    white: point(mastering.white_point_x, mastering.white_point_y),
  };
  if (!display && !light) return null;
  return {
    ...(display ? { display } : {}),
    ...(light ? { light: { most: light.max_content ?? 0, average: light.max_average ?? 0 } } : {}),
  };
}

/** A fraction as FFmpeg writes it; 0 where there is none. */
function numberOf(fraction: string | undefined): number {
  const [num = 0, den = 1] = (fraction ?? '0').split('/').map(Number);
  return Number.isFinite(num / den) ? num / den : 0;
}

async function describe(
  path: string,
  signal?: AbortSignal,
  input: readonly string[] = [],
  guard: readonly string[] = GUARD,
): Promise<Described> {
  const args = [
    ...['-hide_banner', '-v', 'error', ...guard, ...input],
    '-show_streams',
    '-show_format',
    '-show_frames',
    '-read_intervals',
    '%+#2',
    '-of',
    'json',
    safePath(path),
  ];
  const process = run('ffprobe', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  let text = '';
  for await (const chunk of process.child.stdout as Readable) text += String(chunk);
  try {
    await process.done;
  } catch (error) {
    if (error instanceof MediaError && error.code === 'unreadable')
      throw new MediaError(await refusal(path, process.said()), error.detail);
    throw error;
  }
  return JSON.parse(text) as Described;
}

/** A file that begins as MP4 does and has no index is one that ends too early; what merely bears the ending is not media. */
async function refusal(path: string, said: string): Promise<'truncated' | 'not-media'> {
  if (/ended prematurely|partial file/i.test(said)) return 'truncated';
  if (!/moov atom not found/.test(said)) return 'not-media';
  const head = await headOf(path);
  return /^(ftyp|mdat|wide|free|skip)$/.test(head.toString('latin1', 4, 8)) ? 'truncated' : 'not-media';
}

async function headOf(path: string): Promise<Buffer> {
  const file = await open(path);
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(12), 0, 12, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

interface Times {
  readonly ticks: number[];
  readonly lastTicks: number | null;
  readonly soundSeconds: number;
  readonly truncated: boolean;
  readonly said: string;
}

/** Presentation times of every packet that is shown ("D" marks those an edit list leaves out). No decoding. */
async function packetTimes(path: string, video: number, audio: number, signal?: AbortSignal): Promise<Times> {
  const entries = 'packet=stream_index,pts,pts_time,duration,duration_time,flags';
  const args = [...COMMON, '-show_entries', entries, '-of', 'compact=p=0', safePath(path)];
  const process = run('ffprobe', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  const ticks: number[] = [];
  let last = { pts: Number.NEGATIVE_INFINITY, duration: 0 };
  let soundSeconds = 0;
  for await (const line of createInterface({ input: process.child.stdout as Readable })) {
    const fields = parseCompact(line);
    const index = Number(fields.stream_index);
    if (index === video) {
      const pts = Number(fields.pts);
      if (!Number.isFinite(pts) || fields.flags?.includes('D')) continue;
      ticks.push(pts);
      if (pts > last.pts) last = { pts, duration: Number(fields.duration) || 0 };
    } else if (index === audio) {
      soundSeconds = Math.max(soundSeconds, (Number(fields.pts_time) || 0) + (Number(fields.duration_time) || 0));
    }
  }
  await process.done;
  const said = process.said();
  return { ticks, lastTicks: last.duration || null, soundSeconds, truncated: TRUNCATED.test(said), said: lastLine(said) };
}

/** Presentation times of every picture that the decoder gives. Costs a decode; right for fields, raw streams and odd containers. */
async function decodedTimes(path: string, video: Stream, audio: number, signal?: AbortSignal): Promise<Times> {
  const entries = 'frame=best_effort_timestamp,pkt_duration';
  const args = [
    ...COMMON,
    '-select_streams',
    String(video.index),
    '-show_entries',
    entries,
    '-of',
    'compact=p=0',
    safePath(path),
  ];
  const process = run('ffprobe', args, { stdio: ['ignore', 'pipe', 'pipe'], failure: 'unreadable', signal });
  const ticks: number[] = [];
  let lastTicks = 0;
  let untimed = 0;
  for await (const line of createInterface({ input: process.child.stdout as Readable })) {
    const fields = parseCompact(line);
    if (fields.best_effort_timestamp === undefined) continue;
    const time = Number(fields.best_effort_timestamp);
    if (Number.isFinite(time)) ticks.push(time);
    else untimed++;
    lastTicks = Number(fields.pkt_duration) || lastTicks;
  }
  await process.done;
  const said = process.said();
  const sound = audio >= 0 ? await packetTimes(path, -1, audio, signal) : null;
  const timed = untimed === 0 ? ticks : evenTicks(ticks.length + untimed, video);
  return {
    ticks: timed,
    lastTicks: lastTicks || null,
    soundSeconds: sound?.soundSeconds ?? 0,
    truncated: TRUNCATED.test(said),
    said: lastLine(said),
  };
}

/** A raw stream has no timestamps at all: its pictures follow its own declared rate. */
function evenTicks(count: number, video: Stream): number[] {
  const timeBase = invert(parseFraction(video.time_base) ?? rate(1, 90000));
  const stored = storedRate(video) ?? rate(25);
  return Array.from({ length: count }, (_, k) => Math.round((k * timeBase.num * stored.den) / (timeBase.den * stored.num)));
}

function parseCompact(line: string): Record<string, string | undefined> {
  const fields: Record<string, string> = {};
  for (const part of line.split('|')) {
    const at = part.indexOf('=');
    if (at > 0) fields[part.slice(0, at)] = part.slice(at + 1);
  }
  return fields;
}

function parseFraction(text: string | undefined): Rate | null {
  const match = /^(\d+)\/(\d+)$/.exec(text ?? '');
  if (!match || match[1] === '0' || match[2] === '0') return null;
  return rate(Number(match[1]), Number(match[2]));
}

function invert(r: Rate): Rate {
  return { num: r.den, den: r.num };
}

/**
 * What the file declares. FFmpeg's r_frame_rate is the stream's own statement where it is a plain rate; with jittery
 * timestamps it becomes a guess (90000), and then the average that the container gives is the better witness.
 */
function storedRate(video: Stream): Rate | null {
  const declared = parseFraction(video.r_frame_rate);
  const average = parseFraction(video.avg_frame_rate);
  if (declared && (snapRate(rateToNumber(declared)) || !average)) return snapRate(rateToNumber(declared), 10)?.rate ?? declared;
  if (average) return snapRate(rateToNumber(average), 10)?.rate ?? average;
  return declared;
}

/**
 * What pictures say of themselves comes before what their container says of them: it is what every decoder hands on, and FFmpeg's own MP4s
 * may say the other order. tb and bt: both fields in one picture, as FFmpeg writes them and tells them.
 */
function fieldOrder(video: Stream, described: Described): Pick<Probe, 'fields' | 'flagged'> {
  const { field_order: said = 'unknown' } = video;
  const frame = described.frames?.find((f) => f.interlaced_frame !== undefined);
  if (said !== 'progressive' && frame?.interlaced_frame === 1)
    return { fields: frame.top_field_first === 1 ? 'top' : 'bottom', flagged: true };
  if (/^(tt|tb)$/.test(said)) return { fields: 'top', flagged: true };
  if (/^(bb|bt)$/.test(said)) return { fields: 'bottom', flagged: true };
  return { fields: 'progressive', flagged: said === 'progressive' };
}

function sampleAspect(video: Stream, turned: boolean): number {
  const match = /^(\d+):(\d+)$/.exec(video.sample_aspect_ratio ?? '');
  const aspect = match && Number(match[1]) > 0 && Number(match[2]) > 0 ? Number(match[1]) / Number(match[2]) : 1;
  return turned ? 1 / aspect : aspect;
}

/** Packets that end so much before the declared length, in seconds, show that it is not there: priming and padding are less. */
const DECLARED_TOO_LONG = 0.5;

function soundFacts(
  audio: Stream,
  { others, lastEnd, firstPicture }: { readonly others: number; readonly lastEnd: number; readonly firstPicture: number },
): SoundFacts | null {
  const sampleRate = Number(audio.sample_rate);
  if (!sampleRate || !audio.channels) return null;
  const start = Number(audio.start_time) || 0;
  const declared = Number(audio.duration);
  const there = Math.max(0, lastEnd - start);
  // The header of a file that was cut still promises all of it.
  const seconds = declared > 0 && !(there > 0 && there < declared - DECLARED_TOO_LONG) ? declared : there;
  return {
    seconds,
    sampleRate,
    channels: audio.channels,
    codec: audio.codec_name ?? 'unknown',
    startSeconds: start - firstPicture,
    ...(others > 0 ? { others } : {}),
  };
}
