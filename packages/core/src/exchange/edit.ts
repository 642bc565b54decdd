import type { FieldOrder } from '../fields/index.js';
import { CLIP_FRAMES, type Rate } from '../time/index.js';
import type { ExactSeconds } from './exactSeconds.js';
import type { SourceLabels } from './labels.js';

/** An edit as read from a file, in plain values that know neither a project nor a file format. */
export interface Edit {
  readonly name: string;
  readonly rate: Rate;
  readonly dropFrame: boolean;
  /** Frames since midnight that the first frame is called. */
  readonly startFrame: number;
  /** Which field of its frames comes first; left out: they are whole pictures. */
  readonly fields?: FieldOrder;
  /** What its pictures are composed in, as Thawline names it. */
  readonly colour?: string;
  /** Frame size, where the file tells it. */
  readonly size: { readonly width: number; readonly height: number } | null;
  /** Picture lanes bottom to top, then sound lanes. */
  readonly lanes: readonly EditLane[];
  readonly marks: readonly EditMark[];
  readonly kept: Kept;
}

export interface EditLane {
  readonly kind: 'picture' | 'sound';
  readonly name: string;
  /** By start, not overlapping. */
  readonly clips: readonly EditClip[];
  /** Switched off: nothing on it is seen or heard. */
  readonly off?: boolean;
  readonly kept: Kept;
}

export interface EditClip {
  readonly name: string;
  /** First frame on the timeline. */
  readonly start: number;
  /** Frames, at least 1. */
  readonly length: number;
  readonly media: EditMedia | { readonly nested: Edit };
  /** The media's own time at the first frame; before the media's start when a file says so. */
  readonly from: ExactSeconds;
  /** Media seconds a timeline second; null for a freeze. */
  readonly speed: Rate | null;
  /** The stretch that begins at `from` is shown from its end to its beginning. */
  readonly backward?: boolean;
  /** The source timecode of a list's event, and its line. Takes precedence over `from` and `speed`. */
  readonly labels?: SourceLabels;
  readonly place?: string;
  /** Marks that the file has on the clip, in frames of the clip. */
  readonly marks?: readonly EditMark[];
  /** Switched off: neither seen nor heard. */
  readonly off?: boolean;
  /** It comes in over the clip of its lane that ends where it begins: frames before the cut and behind it. */
  readonly dissolve?: { readonly before: number; readonly after: number; readonly kept: Kept };
  /** What else the file knows of it, given back as it came. */
  readonly kept: Kept;
}

export interface EditMedia {
  readonly name: string;
  /** Where the file lies, as the edit tells it. */
  readonly url: string | null;
  /** Pictures a second. */
  readonly rate: Rate | null;
  /** The media's own time at its first picture, and how long it runs; null where the edit does not say. */
  readonly start: ExactSeconds | null;
  readonly seconds: ExactSeconds | null;
  /** What its first picture is called, ";" for drop-frame; null or left out where that is not known. */
  readonly timecode?: string | null;
  readonly kept: Kept;
}

export interface EditMark {
  readonly frame: number;
  /** Frames; 0 marks a moment. */
  readonly length: number;
  readonly name: string;
  readonly kept: Kept;
}

/** Fields of a file's object that are not understood here, by name. JSON. Null when there are none. */
export type Kept = Readonly<Record<string, unknown>> | null;

export const TROUBLES = [
  'not-json',
  'not-an-edit',
  'newer-schema',
  'unknown-object',
  'not-a-number',
  'negative-length',
  'no-length',
  'too-far',
  'too-deep',
  'too-many',
  'transition',
  'switched-off',
  'label-unsure',
  'unknown-effect',
  'bad-event',
  'bad-timecode',
  'overlap',
  'mixed-drop-frame',
  'lengths-differ',
  'no-event',
  'no-rate',
  'odd-rate',
  'rounded',
  'deep-value',
  'past-media',
  'not-found',
] as const;
export type TroubleCode = (typeof TROUBLES)[number];

/** Something in a file that could not be read. The rest is opened. */
export interface Trouble {
  readonly code: TroubleCode;
  /** "line 12", "tracks / 2nd child". */
  readonly place: string;
  readonly detail: string;
}

const SENTENCES: Record<TroubleCode, (detail: string) => string> = {
  'not-json': (d) => `This is not JSON${d && `: ${d}`}.`,
  'not-an-edit': (d) => `There is no timeline in it${d && `: ${d}`}.`,
  'newer-schema': (d) => `${d} is newer than what is known here; it was read as far as it is.`,
  'unknown-object': (d) => `${d} is not known here; its place was left empty.`,
  'not-a-number': (d) => `${d} is not a number; it was taken as 0.`,
  'negative-length': (d) => `${d} runs for less than nothing; it was left out.`,
  'no-length': (d) => `${d} says nowhere how long it runs; it was left out.`,
  'too-far': (d) => `${d} ends further out than the ${FRAMES_MAX} frames that a timeline may have from a file; it was left out.`,
  'too-deep': (d) => `${d} lies deeper than timelines are nested here; it was left out.`,
  'too-many': (d) => `There are more clips than ${d}; the rest was left out.`,
  transition: (d) => `${d} was opened as a cut.`,
  'switched-off': (d) => `${d} is switched off in the file; it is switched off here, too.`,
  'label-unsure': (d) => `${d}: look whether it begins where it should.`,
  'unknown-effect': (d) => `${d} is kept for the way back, but has no effect here.`,
  'bad-event': (d) => `This is no event: ${d}. It was left out.`,
  'bad-timecode': (d) => `${d} is no timecode at this rate. The event was left out.`,
  overlap: (d) => `${d} lies over the one before; it was put on a lane above.`,
  'mixed-drop-frame': (d) => `Drop-frame changes here; the timeline stays ${d}, times were read as they stand.`,
  'lengths-differ': (d) => `${d}; the recorded length counts.`,
  'no-event': (d) => `This belongs to no event: ${d}.`,
  'no-rate': (d) => `No rate is told; ${d} was taken.`,
  'past-media': (d) => `${d} has no pictures there; the nearest it has are shown.`,
  'not-found': (d) => `${d} is not among the sources yet. It was placed all the same and can be found.`,
  rounded: (d) =>
    `${d} ${d === '1' ? 'place was' : 'places were'} rounded to a millionth of a millionth of a second: the rates in it share no common measure.`,
  'deep-value': (d) => `What lies deeper than ${d} levels in it was left out.`,
  'odd-rate': (d) => `${d} is no rate; the timeline's was taken.`,
};

/** "Line 12: …" for people. */
export function troubleSentence(trouble: Trouble): string {
  const said = SENTENCES[trouble.code](trouble.detail);
  return trouble.place ? `${trouble.place[0]?.toUpperCase()}${trouble.place.slice(1)}: ${said}` : said;
}

/** The result of opening a file. `edits` may hold several; when it is empty, `troubles` says why. */
export interface Opened {
  readonly edits: readonly Edit[];
  readonly troubles: readonly Trouble[];
}

/** Clips that one file may bring: several times the largest edits in practice, and few enough to open within seconds. */
export const CLIPS_MAX = 10_000;
/** Timelines within timelines. */
export const DEPTH_MAX = 12;
/** A file's longest edit in frames: a clip of it may be as long. */
export const FRAMES_MAX = CLIP_FRAMES;
