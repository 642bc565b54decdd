import type { MediaCode } from './port.js';

/** What happened, to which file, and what to try: one sentence or two for each code. */
const SENTENCES: Record<MediaCode, (file: string) => string> = {
  'missing-file': (f) => `${f} is not there, or is not a file.`,
  'empty-file': (f) => `${f} is empty: it holds no bytes. Copy it again from where it came.`,
  'not-media': (f) =>
    `${f} is not a film file that can be read here. Playlists and texts that point to other files are never opened.`,
  'no-picture': (f) => `${f} holds no pictures.`,
  'no-sound': (f) => `${f} has no sound.`,
  silent: (f) => `The sound of ${f} is silent from start to end: there is nothing to find in it.`,
  truncated: (f) => `${f} ends too early: a part of it is missing. Copy it again from where it came.`,
  unreadable: (f) => `${f} cannot be decoded.`,
  'out-of-range': (f) => `${f} is not taken: what it says of itself is out of all range.`,
  'decoder-crashed': (f) => `${f} made the decoder crash: it is damaged. Copy it again from where it came.`,
  stuck: (f) => `${f} came to a standstill: nothing was decoded for a minute. It may be damaged, or its disk does not answer.`,
  'too-short': (f) => `${f} has too few pictures: to hide one and make it again takes three.`,
  'no-ffmpeg': () => 'FFmpeg is not installed. On Debian: apt-get install ffmpeg',
  'decode-failed': (f) => `${f} stopped decoding on the way.`,
  'encode-failed': (f) => `Writing from ${f} stopped on the way.`,
  'disk-full': (f) => `The disk is full; ${f} was not written and nothing was left behind.`,
  killed: (f) => `FFmpeg was ended from outside while it worked on ${f}. Nothing half done was kept: start it again.`,
  'no-folder': (f) => `The folder that ${f} was to be written to is gone or takes no files. Nothing half done was kept.`,
  'source-changed': (f) => `A source of ${f} was replaced while it was read. Nothing made from it was kept: start it again.`,
  aborted: (f) => `${f} was stopped.`,
};

/** A person's sentence for a code. `detail` is FFmpeg's own word, shown behind it. */
export function sentence(code: MediaCode, file: string, detail = ''): string {
  const text = SENTENCES[code](file);
  return detail && code !== 'aborted' ? `${text} (${detail})` : text;
}
