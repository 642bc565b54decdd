import { type ChildProcess, type StdioOptions, spawn } from 'node:child_process';
import { boxed, CRASHES, NOT_STARTED, watchStandstill } from './box.js';
import { MediaError } from './port.js';

/** Demuxers that hold pictures themselves. Playlists, scripts and devices are not among them, so nothing points elsewhere. */
const CONTAINERS = [
  'mov,mp4,m4a,3gp,3g2,mj2',
  'matroska,webm',
  'avi,mpegts,mpeg,mpegvideo,mxf,nut,ogg,flv,asf,gif,ivf,dv,h264,hevc,obu,m4v,yuv4mpegpipe',
  'wav,flac,mp3,aac,aiff,png_pipe,jpeg_pipe,bmp_pipe,tiff_pipe,exr_pipe,webp_pipe',
].join(',');

/** Options in front of every input: no standard input, no protocol but files and pipes, no playlist. */
export const GUARD = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', CONTAINERS] as const;

/** A path that FFmpeg cannot take for an option or another protocol. */
export function safePath(path: string): string {
  return `file:${path}`;
}

/** First bytes of single pictures, and the demuxer for each: a name's ending may say otherwise, and FFmpeg would believe it. */
const STILLS: readonly [RegExp, string][] = [
  [/^\xff\xd8\xff/, 'jpeg_pipe'],
  [/^\x89PNG/, 'png_pipe'],
  [/^(II\*\0|MM\0\*)/, 'tiff_pipe'],
  [/^v\/1[^\x20-\x7f]/, 'exr_pipe'],
  [/^BM/, 'bmp_pipe'],
  [/^RIFF[\s\S]{4}WEBP/, 'webp_pipe'],
];

/** The demuxer of a single picture by its first bytes; null for anything else. */
export function stillDemuxer(head: Uint8Array): string | null {
  const text = String.fromCharCode(...head.subarray(0, 12));
  return STILLS.find(([magic]) => magic.test(text))?.[1] ?? null;
}

/** Numbered pictures, in a folder that this program filled itself. */
export const SERIES = 'image2';
export const SERIES_GUARD = ['-protocol_whitelist', 'file,pipe', '-format_whitelist', `${SERIES},${CONTAINERS}`] as const;

/** How numbered files are called: what stands before and behind the number, its digits at least, and the first one's. */
export interface Numbering {
  readonly before: string;
  readonly digits: number;
  readonly after: string;
  readonly first: number;
}
/** 00000000.png, 00000001.png … */
export const PLAIN_NUMBERING: Numbering = { before: '', digits: 8, after: '', first: 0 };

/** The pattern of numbered files in a folder. FFmpeg reads % as a number's place, so one in a name is doubled. */
export function seriesPattern(folder: string, ending: string, { before, digits, after } = PLAIN_NUMBERING): string {
  const name = [before, after].map((text) => text.replaceAll('%', '%%'));
  return `${folder.replaceAll('%', '%%')}/${name[0]}%0${digits}d${name[1]}.${ending}`;
}

/** The name that the k-th file of a series has to have. */
export function seriesName(k: number, ending: string, { before, digits, after, first } = PLAIN_NUMBERING): string {
  return `${before}${String(first + k).padStart(digits, '0')}${after}.${ending}`;
}

const STDERR_KEPT = 4000;

export interface Running {
  readonly child: ChildProcess;
  /** Resolves with the exit code 0, rejects with MediaError(code, last line said) or 'aborted'. */
  readonly done: Promise<void>;
  /** What the process said on standard error, last 4000 characters, without the names of its files. */
  said(): string;
}

/** Starts ffmpeg or ffprobe with an argument array (never a shell) and watches it to its end. */
export function run(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  {
    stdio,
    failure,
    signal,
  }: {
    readonly stdio: StdioOptions;
    readonly failure: 'decode-failed' | 'encode-failed' | 'unreadable';
    readonly signal?: AbortSignal;
  },
): Running {
  const [file = program, ...before] = boxed(program, failure);
  const child = spawn(file, [...before, ...args], { stdio });
  const stuck = watchStandstill(child);
  let said = '';
  child.stderr?.on('data', (chunk: Buffer) => {
    said = (said + chunk.toString('utf8')).slice(-STDERR_KEPT);
  });
  const names = args.filter((arg) => arg.startsWith('file:'));
  const told = (): string => names.reduce((text, name) => text.replaceAll(`${name}: `, '').replaceAll(name, 'the file'), said);
  const stop = (): void => {
    child.kill('SIGKILL');
  };
  const done = new Promise<void>((resolve, reject) => {
    child.once('error', (error: NodeJS.ErrnoException) => {
      stuck.end();
      reject(new MediaError(error.code === 'ENOENT' ? 'no-ffmpeg' : failure, error.message));
    });
    child.once('close', (code, killer) => {
      signal?.removeEventListener('abort', stop);
      stuck.end();
      if (signal?.aborted) reject(new MediaError('aborted'));
      else if (code === 0) resolve();
      else if (stuck.found()) reject(new MediaError('stuck'));
      else if (killer && CRASHES.has(killer)) reject(new MediaError('decoder-crashed', killer));
      // Nobody here sends a signal and then waits for a good end.
      else if (killer) reject(new MediaError('killed', killer));
      else if (/No space left on device/.test(said)) reject(new MediaError('disk-full', lastLine(told())));
      else if (code === NOT_STARTED && /failed to execute/.test(said)) reject(new MediaError('no-ffmpeg'));
      else reject(new MediaError(failure, lastLine(told()) || `${program} ended with ${code}`));
    });
  });
  // The caller may only look at `done` later; an early failure must not count as unhandled.
  done.catch(() => undefined);
  if (signal?.aborted) stop();
  else signal?.addEventListener('abort', stop, { once: true });
  return { child, done, said: told };
}

/** The last line FFmpeg said, without an address in memory. */
export function lastLine(said: string): string {
  const lines = said.split('\n').filter((line) => line.trim() !== '');
  return (lines.at(-1) ?? '').replace(/\[[^\]]* @ 0x[0-9a-f]+\]\s*/g, '');
}
