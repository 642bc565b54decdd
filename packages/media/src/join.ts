import type { StdioOptions } from 'node:child_process';
import type { Writable } from 'node:stream';
import type { Rate } from '@thawline/core/time';
import { containerArgs, rawSound, soundArgs, soundCodecOf, ticksOfFrame } from './encode.js';
import { asBytes, type Feed, fed } from './pipes.js';
import type { AnyIterable, JoinRequest, SoundEncodeRequest } from './port.js';
import { run, safePath } from './process.js';
import { markSpherical } from './spherical.js';

/** A path in FFmpeg's list of files to be joined: quoted, its quotes taken out of the quotes. */
function quoted(path: string): string {
  return `'${safePath(path).replaceAll("'", "'\\''")}'`;
}

/** Each part's start is given in whole microseconds from the beginning, so that rounding errors do not add up. */
function listOf(parts: JoinRequest['parts'], rate: Rate): string {
  const at = (frames: number): number => Math.round((frames * rate.den * 1e6) / rate.num);
  let frames = 0;
  const lines = parts.map(({ path, pictures }) => {
    const from = at(frames);
    frames += pictures;
    return `file ${quoted(path)}\nduration ${((at(frames) - from) / 1e6).toFixed(6)}\n`;
  });
  return `ffconcat version 1.0\n${lines.join('')}`;
}

/**
 * Brings each moment back to the rate's own frame: in the ticks of an MP4 these are whole, in Matroska's milliseconds the nearest. The
 * filter is given moments in the written file's own ticks.
 */
function onFrames(form: JoinRequest['form'], rate: Rate): string {
  if (form === 'mp4' || form === 'mov') {
    const ticks = ticksOfFrame(rate);
    const near = (moment: string): string => `round(${moment}/${ticks})*${ticks}`;
    return `pts=${near('PTS')}:dts=${near('DTS')}:duration=${ticks}`;
  }
  const frame = (moment: string): string => `round(${moment}*${rate.num}/${1000 * rate.den})`;
  const begins = (n: string): string => `round((${n})*${1000 * rate.den}/${rate.num})`;
  const lasts = `${begins(`${frame('PTS')}+1`)}-${begins(frame('PTS'))}`;
  return `pts=${begins(frame('PTS'))}:dts=${begins(frame('DTS'))}:duration=${lasts}`;
}

/**
 * Opus begins 312 samples before the first one that counts (RFC 7845, pre-skip). FFmpeg writes that to the file and lets the sound begin
 * as much too early all the same; so it is given it that much later, and told to leave the pictures where they are.
 */
const OPUS_LEAD = 312 / 48_000;

/** Parts of one encoding as one file: see the port. */
export async function join(path: string, request: JoinRequest, sound?: AnyIterable<Float32Array>): Promise<void> {
  const { rate, form, timecode, signal, sphere = false } = request;
  // FFmpeg passes on what the parts say of it, but to MOV.
  const marked = sphere && form === 'mov';
  const heard = sound && request.sound;
  const isMatroska = form === 'webm' || form === 'mkv';
  const args = [
    ...['-hide_banner', '-v', 'error', '-y', '-protocol_whitelist', 'file,pipe'],
    ...['-f', 'concat', '-safe', '0', '-i', 'pipe:0'],
    ...(heard && isMatroska && soundCodecOf(form, request.sound) === 'opus' ? ['-itsoffset', String(OPUS_LEAD)] : []),
    ...(heard ? rawSound(heard) : []),
    ...['-map', '0:v', ...(heard ? ['-map', '1:a', ...soundArgs(form, request.sound)] : []), '-c:v', 'copy'],
    ...['-bsf:v', `setts=${onFrames(form, rate)}`],
    ...(timecode ? (form === 'mp4' || form === 'mov' ? ['-timecode', timecode] : ['-metadata', `timecode=${timecode}`]) : []),
    ...(isMatroska ? ['-avoid_negative_ts', 'disabled'] : []),
    ...(sphere && !marked ? ['-strict', 'unofficial'] : []),
    ...containerArgs(form, rate, marked),
    safePath(path),
  ];
  const stdio: StdioOptions = ['pipe', 'ignore', 'pipe', ...(heard ? (['pipe'] as const) : [])];
  const process = run('ffmpeg', args, { stdio, failure: 'encode-failed', signal });
  const list: Feed = [process.child.stdin as Writable, [Buffer.from(listOf(request.parts, rate))]];
  const feeds: Feed[] = heard ? [list, [process.child.stdio[3] as Writable, asBytes(sound)]] : [list];
  await fed(process, signal, feeds);
  if (marked) await markSpherical(path);
}

/** The sound of a file alone: see the port. */
export async function encodeSound(path: string, request: SoundEncodeRequest, sound: AnyIterable<Float32Array>): Promise<void> {
  const { form, signal } = request;
  const args = [
    ...['-hide_banner', '-v', 'error', '-y', '-protocol_whitelist', 'file,pipe', ...rawSound(request), '-map', '0:a'],
    ...[...soundArgs(form, request), '-f', form === 'mp4' || form === 'mov' ? form : 'matroska', safePath(path)],
  ];
  const process = run('ffmpeg', args, { stdio: ['ignore', 'ignore', 'pipe', 'pipe'], failure: 'encode-failed', signal });
  await fed(process, signal, [[process.child.stdio[3] as Writable, asBytes(sound)]]);
}
