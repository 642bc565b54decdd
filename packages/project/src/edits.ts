import { curveFault, positionAt } from '@thawline/core/cadence';
import {
  add,
  type Edit,
  type EditClip,
  type EditMedia,
  frameBefore,
  type Kept,
  type Moment,
  mediaKey,
  momentOf,
  sameMoment,
  scaled,
  subtract,
  type Trouble,
  ZERO,
} from '@thawline/core/exchange';
import { over, parseTimecode, pictureSeconds, type Rate, rate, sameRate, secondsOf } from '@thawline/core/time';
import { type Clip, clipSchema, idSchema, type Lane, type Project, type Source, type Timeline } from './document.js';
import { mappingOf, type TimingOf } from './mapping.js';
import { plainClip } from './place.js';
import { actionSpeed, ownRate, readingSpeed } from './reading.js';
import { nestedOf, sourceOf } from './sources.js';

/** Between a project's timelines and the plain edits that files hold. */

/** What a clip is made of in its own words, written beside the standard fields so that the way back is exact. */
const exactSchema = clipSchema
  .pick({
    inPicture: true,
    headTrim: true,
    fit: true,
    speed: true,
    framing: true,
    keptAt: true,
    curve: true,
    mix: true,
    shutter: true,
    instead: true,
    sound: true,
    level: true,
    slip: true,
  })
  .extend({ link: idSchema.nullable() });

export interface SaveOptions {
  readonly known: TimingOf;
  /** Where a source's file lies, as the edit shall tell it; null for none. */
  readonly urlOf: (source: Source) => string | null;
}

/** A timeline as a plain edit. Times are the files' own, exact. */
export function toEdit(project: Project, timeline: Timeline, options: SaveOptions): Edit {
  const clipsOf = (lane: Lane): EditClip[] =>
    timeline.clips
      .filter((c) => c.laneId === lane.id)
      .sort((a, b) => a.start - b.start)
      .flatMap((clip) => {
        const source = sourceOf(project, clip.sourceId);
        return source ? [toEditClip(project, timeline, clip, source, options)] : [];
      });
  const { name, rate: base, dropFrame, startFrame, width, height } = timeline;
  return {
    name,
    rate: base,
    dropFrame,
    startFrame,
    size: { width, height },
    lanes: timeline.lanes.map((lane) => ({ kind: lane.kind, name: lane.name, clips: clipsOf(lane), kept: lane.kept })),
    marks: timeline.marks.map(({ frame, length, name: said, kept }) => ({ frame, length, name: said, kept })),
    kept: timeline.kept,
  };
}

export function toEditClip(project: Project, timeline: Timeline, clip: Clip, source: Source, options: SaveOptions): EditClip {
  const inner = nestedOf(project, clip.sourceId);
  const { inPicture, headTrim, fit, speed, framing, keptAt, curve, mix, shutter, instead, sound, level, slip, link } = clip;
  const exact = { inPicture, headTrim, fit, speed, framing, keptAt, curve, mix, shutter, instead, sound, level, slip, link };
  const metadata = (clip.kept?.metadata ?? {}) as Record<string, unknown>;
  return {
    name: clip.label ?? source.name,
    start: clip.start,
    length: clip.length,
    media: inner ? { nested: toEdit(project, inner, options) } : mediaOf(source, options.urlOf(source)),
    ...timesOf(clip, source, timeline, options.known),
    kept: { ...clip.kept, metadata: { ...metadata, thawline: exact } },
  };
}

/** What of the media the clip shows first, and at which speed. */
function timesOf(
  clip: Clip,
  source: Source,
  timeline: Pick<Timeline, 'rate'>,
  known: TimingOf,
): Pick<EditClip, 'from' | 'speed'> {
  const own = ownRate(source);
  const start = mediaStart(source) ?? ZERO;
  if (!own) return { from: start, speed: rate(1) };
  const base = momentOf(clip.inPicture, own);
  if (clip.fit === 'freeze') return { from: add(start, base), speed: null };
  const speed = actionSpeed(source, clip, timeline);
  if (source.variable || clip.curve) {
    const shown = positionAt(mappingOf(clip, source, timeline, known), 0).picture;
    const timing = known(source.mediaId);
    const seconds = timing ? pictureSeconds(timing, shown) : secondsOf(shown, own);
    return { from: add(start, momentOf(Math.round(seconds * 1e6), rate(1_000_000))), speed };
  }
  return { from: add(start, add(base, scaled(momentOf(clip.headTrim, timeline.rate), speed))), speed };
}

/** The media's own time at its first picture; null where its file says nothing. */
function mediaStart(source: Source): Moment | null {
  const own = ownRate(source);
  const frame = source.timecode && own ? parseTimecode(source.timecode, own) : null;
  return frame !== null && own ? momentOf(frame, own) : null;
}

function mediaOf(source: Source, url: string | null): EditMedia {
  const own = ownRate(source);
  const seconds = own && !source.variable ? momentOf(source.pictures, own) : null;
  return { name: source.name, url: url ?? source.lost?.url ?? null, rate: own, start: mediaStart(source), seconds, kept: null };
}

export interface OpenOptions {
  /** Sources at hand. */
  readonly sources: readonly Source[];
  /** The source that a media is; null when it is not at hand. */
  readonly find: (media: EditMedia) => Source | null;
  readonly newId: () => string;
}

export interface OpenedEdit {
  /** The edit's own timeline last; those placed in it before. */
  readonly timelines: readonly Timeline[];
  /** Stand-ins for media that are not at hand. */
  readonly lost: readonly Source[];
  readonly troubles: readonly Trouble[];
}

/** A plain edit as timelines of a project. Media that are not at hand are placed as sources to be found. */
export function fromEdit(edit: Edit, options: OpenOptions): OpenedEdit {
  const media = new Map<string, Source>();
  const troubles: Trouble[] = [];
  const lost: Source[] = [];
  gather(edit, (clip, kind, base) => {
    const key = mediaKey(clip.media as EditMedia);
    const found = media.get(key);
    const source = found ?? options.find(clip.media as EditMedia) ?? standIn(clip.media as EditMedia, base, options.newId());
    if (!found) {
      media.set(key, source);
      if (source.lost) {
        lost.push(source);
        troubles.push({ code: 'not-found', place: '', detail: source.name });
      }
    }
    if (source.lost) widen(source, clip, kind, base);
  });
  const sourceFor = (wanted: EditMedia): Source => media.get(mediaKey(wanted)) as Source;
  const timelines: Timeline[] = [];
  build(edit, sourceFor, options, timelines, troubles);
  return { timelines, lost, troubles };
}

type Visit = (clip: EditClip, kind: Lane['kind'], base: Rate) => void;

function gather(edit: Edit, visit: Visit): void {
  for (const lane of edit.lanes)
    for (const clip of lane.clips) {
      if ('nested' in clip.media) gather(clip.media.nested, visit);
      else visit(clip, lane.kind, edit.rate);
    }
}

/** A source in the place of one that is not at hand: its facts are what the edit tells. */
function standIn(media: EditMedia, base: Rate, id: string): Source {
  const own = media.rate ?? base;
  const pictures = media.seconds ? Math.max(1, frameBefore(media.seconds, own)) : 1;
  return {
    id,
    mediaId: id,
    name: media.name.slice(0, 255) || 'unnamed',
    kind: 'film',
    pictures,
    stored: own,
    measured: { rate: own, ppm: 0 },
    variable: false,
    seconds: secondsOf(pictures, own),
    width: 1920,
    height: 1080,
    codec: 'unknown',
    pixelFormat: 'unknown',
    fields: 'progressive',
    sound: null,
    numbers: null,
    claimed: null,
    readAt: null,
    timecode: null,
    lost: { url: media.url?.slice(0, 4096) ?? null },
  };
}

/** Makes a stand-in as long as its uses, and gives it sound where its sound is used. */
function widen(source: Source, clip: EditClip, kind: Lane['kind'], base: Rate): void {
  const own = ownRate(source) ?? base;
  const media = clip.media as EditMedia;
  const from = subtract(clip.from, media.start ?? ZERO);
  const end = add(from, scaled(momentOf(clip.length, base), clip.speed ?? rate(1, 1_000_000)));
  // As many as begin before the clip ends.
  const used = -frameBefore({ n: -end.n, d: end.d }, own);
  const needed = media.seconds ? 0 : Math.max(used, frameBefore(from, own) + 1);
  source.pictures = Math.min(100_000_000, Math.max(source.pictures, needed));
  source.seconds = secondsOf(source.pictures, own);
  if (kind === 'sound' || source.sound)
    source.sound = { seconds: source.seconds, sampleRate: 48_000, channels: 2, codec: 'unknown', startSeconds: 0 };
}

function build(
  edit: Edit,
  sourceFor: (media: EditMedia) => Source,
  options: OpenOptions,
  timelines: Timeline[],
  troubles: Trouble[],
): Timeline {
  const lanes: Lane[] = [];
  const clips: Clip[] = [];
  const nested = new Map<Edit, Timeline>();
  for (const lane of edit.lanes) {
    const number = lanes.filter((l) => l.kind === lane.kind).length + 1;
    const name = lane.name.trim().slice(0, 60) || `${lane.kind === 'picture' ? 'Picture' : 'Sound'} ${number}`;
    const id = `${lane.kind === 'picture' ? 'p' : 's'}${number}`;
    lanes.push({ id, kind: lane.kind, name, kept: lane.kept });
    for (const clip of lane.clips) {
      const inner = 'nested' in clip.media ? clip.media.nested : null;
      if (inner && !nested.has(inner)) nested.set(inner, build(inner, sourceFor, options, timelines, troubles));
      const timeline = inner && nested.get(inner);
      const source = timeline ? { ...timelineFacts(timeline), name: timeline.name } : sourceFor(clip.media as EditMedia);
      clips.push(fromEditClip(edit, clip, id, source, options.newId(), troubles));
    }
  }
  if (!lanes.some((l) => l.kind === 'picture')) lanes.unshift({ id: 'p1', kind: 'picture', name: 'Picture 1', kept: null });
  const size = edit.size && evenSize(edit.size.width, edit.size.height);
  const atHand = new Map(options.sources.map((s) => [s.id, s]));
  const first = clips.map((c) => atHand.get(c.sourceId)).find((s) => s !== undefined);
  const made: Timeline = {
    id: options.newId(),
    name: edit.name.trim().slice(0, 120) || 'Opened edit',
    rate: edit.rate,
    ...(size ?? evenSize(first?.width ?? 1920, first?.height ?? 1080)),
    startFrame: edit.startFrame,
    dropFrame: edit.dropFrame,
    range: null,
    lanes,
    clips,
    marks: edit.marks.map((m) => ({
      id: options.newId(),
      frame: m.frame,
      length: m.length,
      name: m.name.slice(0, 500),
      kept: m.kept,
    })),
    kept: edit.kept,
  };
  timelines.push(made);
  return made;
}

function evenSize(width: number, height: number): { width: number; height: number } {
  const even = (n: number): number => Math.max(16, Math.min(8192, Math.round(n / 2) * 2)) || 16;
  return { width: even(width), height: even(height) };
}

type Facts = Pick<
  Source,
  'id' | 'name' | 'kind' | 'pictures' | 'measured' | 'readAt' | 'variable' | 'timecode' | 'mediaId' | 'seconds'
>;

function timelineFacts(timeline: Timeline): Facts {
  const pictures = timeline.clips.reduce((most, c) => Math.max(most, c.start + c.length), 1);
  const { id, name, rate: base } = timeline;
  return {
    id,
    mediaId: id,
    name,
    kind: 'timeline',
    pictures,
    measured: { rate: base, ppm: 0 },
    readAt: null,
    variable: false,
    timecode: null,
    seconds: secondsOf(pictures, base),
  };
}

function fromEditClip(edit: Edit, clip: EditClip, laneId: string, facts: Facts, id: string, troubles: Trouble[]): Clip {
  const source = facts as Source;
  const own = ownRate(source) ?? edit.rate;
  const told = 'nested' in clip.media ? ZERO : (clip.media.start ?? mediaStart(source) ?? ZERO);
  const at = frameBefore(subtract(clip.from, told), own);
  const inPicture = Math.max(0, Math.min(source.pictures - 1, at));
  if (at !== inPicture) troubles.push({ code: 'past-media', place: `${edit.name}, frame ${clip.start}`, detail: source.name });
  const { thawline, ...others } = ((clip.kept?.metadata as Record<string, unknown> | undefined) ?? {}) as Record<string, unknown>;
  const kept = without(clip.kept, others);
  const base: Clip = {
    ...plainClip(source.id),
    id,
    laneId,
    start: clip.start,
    length: clip.length,
    inPicture,
    fit: clip.speed === null ? 'freeze' : 'nearest',
    speed: clip.speed === null ? rate(1) : within(over(clip.speed, readingSpeed(source))),
    label: clip.name && clip.name !== source.name ? clip.name.slice(0, 255) : null,
    kept,
  };
  const exact = exactSchema.safeParse(thawline);
  if (!exact.success || exact.data.inPicture >= source.pictures) return base;
  if (exact.data.curve && curveFault(exact.data.curve, source.pictures, true)) return base;
  // What stands beside counts only while nobody has changed the standard fields.
  const candidate: Clip = { ...base, ...exact.data, link: exact.data.link };
  const times = timesOf(candidate, { ...source, timecode: null, claimed: null }, edit, () => undefined);
  const sameSpeed = times.speed && clip.speed ? near(times.speed, clip.speed) : times.speed === clip.speed;
  const shift = add(times.from, told);
  return sameSpeed && (sameMoment(shift, clip.from) || closeTo(shift, clip.from, own)) ? candidate : base;
}

/** Speeds are written as decimals: alike to ten digits is the same. */
function near(a: Rate, b: Rate): boolean {
  return sameRate(a, b) || Math.abs((a.num * b.den) / (a.den * b.num) - 1) < 1e-9;
}

function closeTo(a: Moment, b: Moment, r: Rate): boolean {
  const apart = subtract(a, b);
  const pictures = (Number(apart.n) / Number(apart.d)) * (r.num / r.den);
  return Math.abs(pictures) < 1e-4;
}

/** Documents hold no speed under a hundredth of a picture a second. */
function within(speed: Rate): Rate {
  const value = speed.num / speed.den;
  return value < 0.01 ? rate(1, 100) : value > 10_000 ? rate(10_000) : speed;
}

function without(kept: Kept, metadata: Record<string, unknown>): Kept {
  const { metadata: _, ...rest } = kept ?? {};
  const left = Object.keys(metadata).length > 0 ? { ...rest, metadata } : rest;
  return Object.keys(left).length > 0 ? left : null;
}
