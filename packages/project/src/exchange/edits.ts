import { curveFault, positionAt } from '@thawline/core/cadence';
import {
  countingOf,
  type Edit,
  type EditClip,
  type EditMark,
  type EditMedia,
  type ExactSeconds,
  exactSecondsOf,
  frameBefore,
  type Kept,
  type LabelCounting,
  type LabelledRun,
  type LabelledSource,
  labelledRun,
  mediaKey,
  minus,
  plus,
  type SourceLabels,
  type Sureness,
  sameExactSeconds,
  scaled,
  type Trouble,
  ZERO,
} from '@thawline/core/exchange';
import type { Size } from '@thawline/core/picture';
import { over, parseTimecode, pictureSeconds, type Rate, rate, sameRate, secondsOf, times } from '@thawline/core/time';
import { z } from 'zod';
import {
  type Clip,
  COLOUR_CHOICES,
  type Dissolve,
  type FileSource,
  type Film,
  FRAME_LEAST,
  FRAME_MOST,
  frozenClipSchema,
  type Lane,
  movingClipSchema,
  type Project,
  type Source,
  type Timeline,
} from '../document/document.js';
import { clipBefore } from '../resolve/dissolves.js';
import { sourceOf, timelineOf } from '../resolve/sources.js';
import { fitOf, plainClip } from '../timelines/place.js';
import { asSeen, momentsAFrame } from '../timing/fieldRate.js';
import { clipEnd, mappingOf, type TimingOf, timelineLength } from '../timing/mapping.js';
import { actionSpeed, ownRate, readingSpeed } from '../timing/reading.js';

/** Between a project's timelines and the plain edits that files hold. */

/** What a clip is made of in its own words, written beside the standard fields so that the way back is exact. */
const EXACT = {
  inPicture: true,
  headTrim: true,
  fit: true,
  speed: true,
  framing: true,
  pose: true,
  opacity: true,
  keptAt: true,
  curve: true,
  mix: true,
  shutter: true,
  instead: true,
  sound: true,
  level: true,
  slip: true,
  link: true,
} as const;
const exactSchema = z.discriminatedUnion('fit', [movingClipSchema.pick(EXACT), frozenClipSchema.pick(EXACT)]);

export interface SaveOptions {
  readonly known: TimingOf;
  /** The address of a source's file to write into the edit; null for none. */
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
        return source ? [toEditClip(project, timeline, { clip, source, options })] : [];
      });
  const { name, rate: base, dropFrame, startFrame, fields, colour, width, height } = timeline;
  return {
    name,
    rate: base,
    dropFrame,
    startFrame,
    ...(fields ? { fields } : {}),
    ...(colour ? { colour } : {}),
    size: { width, height },
    lanes: timeline.lanes.map((lane) => ({
      kind: lane.kind,
      name: lane.name,
      clips: clipsOf(lane),
      kept: lane.kept,
      ...(lane.off ? { off: true } : {}),
    })),
    marks: timeline.marks.filter((m) => !clipUnder(timeline, m)).map(markOf),
    kept: timeline.kept,
  };
}

export function toEditClip(
  project: Project,
  timeline: Timeline,
  { clip, source, options }: { readonly clip: Clip; readonly source: Source; readonly options: SaveOptions },
): EditClip {
  const inner = timelineOf(project, clip.sourceId);
  const keys = Object.keys(EXACT) as (keyof typeof EXACT)[];
  const exact = Object.fromEntries(keys.flatMap((key) => (clip[key] === undefined ? [] : [[key, clip[key]]])));
  const { reference = null, ...kept } = (clip.kept ?? {}) as { reference?: Kept } & Record<string, unknown>;
  const metadata = (clip.kept?.metadata ?? {}) as Record<string, unknown>;
  const marks = marksOn(timeline, clip).map((mark) => ({ ...markOf(mark), frame: mark.frame - clip.start }));
  return {
    name: clip.label ?? source.name,
    start: clip.start,
    length: clip.length,
    media: inner ? { nested: toEdit(project, inner, options) } : mediaOf(source, options.urlOf(source), reference),
    ...(clip.off ? { off: true } : {}),
    ...(clip.dissolve && clipBefore(timeline, clip) ? { dissolve: { kept: null, ...clip.dissolve } } : {}),
    ...(marks.length > 0 ? { marks } : {}),
    ...timesOf(clip, source, timeline, options.known),
    kept: { ...kept, metadata: { ...metadata, thawline: exact } },
  };
}

/** What of the media the clip shows first, and at which speed. */
function timesOf(
  clip: Clip,
  source: Source,
  timeline: Pick<Timeline, 'rate'>,
  known: TimingOf,
): Pick<EditClip, 'from' | 'speed' | 'backward'> {
  const own = ownRate(source);
  const start = mediaStart(source) ?? ZERO;
  if (!own) return { from: start, speed: rate(1) };
  const base = exactSecondsOf(clip.inPicture, own);
  if (clip.fit === 'freeze') return { from: plus(start, base), speed: null };
  const speed = actionSpeed(source, clip, timeline);
  const back = backwardRun(clip);
  if (back && !source.variable) {
    const passing = times(back.perFrame, over(timeline.rate, own));
    return { from: plus(start, exactSecondsOf(back.lowest, own)), speed: passing, backward: true };
  }
  if (source.variable || clip.curve) {
    const shown = positionAt(mappingOf(clip, source, timeline, known), 0).picture;
    const timing = known(source.mediaId);
    const seconds = timing ? pictureSeconds(timing, shown) : secondsOf(shown, own);
    return { from: plus(start, exactSecondsOf(Math.round(seconds * 1e6), rate(1_000_000))), speed };
  }
  return { from: plus(start, plus(base, scaled(exactSecondsOf(clip.headTrim, timeline.rate), speed))), speed };
}

/** For a clip whose curve runs evenly backward throughout: pictures per frame and the lowest picture. Null for any other. */
function backwardRun({ curve, headTrim, length }: Clip): { readonly perFrame: Rate; readonly lowest: number } | null {
  const [first, last] = curve ?? [];
  if (!first || !last || curve?.length !== 2 || first.way !== 'even' || first.picture <= last.picture) return null;
  if (first.frame > headTrim || last.frame < headTrim + length - 1) return null;
  const perFrame = rate(first.picture - last.picture, last.frame - first.frame);
  const gone = headTrim + length - 1 - first.frame;
  return { perFrame, lowest: Math.max(0, first.picture - Math.floor((gone * perFrame.num) / perFrame.den)) };
}

/** The media's own time at its first picture; null where its file says nothing. */
function mediaStart(source: Source): ExactSeconds | null {
  const own = ownRate(source);
  const frame = source.timecode && own ? parseTimecode(source.timecode, own) : null;
  return frame !== null && own ? exactSecondsOf(frame, own) : null;
}

function markOf({ frame, length, name, kept }: Timeline['marks'][number]): EditMark {
  return { frame, length, name, kept };
}

/** The clip that a mark came with, if a picture clip is still under it; null for marks of the timeline itself. */
function clipUnder(timeline: Timeline, { frame, kept }: Timeline['marks'][number]): Clip | null {
  if (!kept?.onClip) return null;
  const pictures = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  const under = timeline.clips.filter((c) => frame >= c.start && frame < clipEnd(c));
  return under.find((c) => pictures.has(c.laneId)) ?? under[0] ?? null;
}

function marksOn(timeline: Timeline, clip: Clip): Timeline['marks'] {
  return timeline.marks.filter((m) => clipUnder(timeline, m) === clip);
}

/** @param reference what an edit file said of a medium that is no file, as a generator; given back while none was found in its place */
function mediaOf(source: Source, url: string | null, reference: Kept): EditMedia {
  const own = ownRate(source);
  const seconds = own && !source.variable && !source.lost?.guessed ? exactSecondsOf(source.pictures, own) : null;
  return {
    name: source.name,
    url: url ?? source.lost?.url ?? null,
    rate: own,
    start: mediaStart(source),
    seconds,
    timecode: source.timecode,
    kept: source.lost ? reference : null,
  };
}

export interface OpenOptions {
  /** Sources at hand. */
  readonly sources: readonly FileSource[];
  /** The source that a media is; null when it is not at hand. */
  readonly find: (media: EditMedia) => FileSource | null;
  readonly newId: () => string;
}

export interface OpenedEdit {
  /** The edit's own timeline last; those placed in it before. */
  readonly timelines: readonly Timeline[];
  /** Stand-ins for media that are not at hand: new ones, and those of before, made longer where they have to be. */
  readonly lost: readonly Film[];
  readonly troubles: readonly Trouble[];
  /** How each event of a list was understood, in order; empty for forms without source labels. */
  readonly events: readonly ListEvent[];
}

/** An event of a list, and the picture of its source that it begins at. */
export interface ListEvent {
  readonly timelineId: string;
  readonly clipId: string;
  /** Its line in the list: "line 12". */
  readonly place: string;
  /** Source in, as it is written. */
  readonly label: string;
  readonly sourceId: string;
  readonly source: string;
  /** Whether the source is still to be found: the picture is then counted from midnight. */
  readonly lost: boolean;
  readonly picture: number;
  readonly sure: Sureness;
}

/** A plain edit as timelines of a project. Media that are not at hand are placed as sources to be found. */
export function fromEdit(edit: Edit, options: OpenOptions): OpenedEdit {
  const media = new Map<string, FileSource>();
  const troubles: Trouble[] = [];
  const lost: Film[] = [];
  const named = new Map<string, { labels: SourceLabels; length: number }[]>();
  gather(edit, (clip, kind, base) => {
    const key = mediaKey(clip.media as EditMedia);
    const found = media.get(key);
    const source =
      found ??
      atHand(options.find(clip.media as EditMedia)) ??
      standIn(clip.media as EditMedia, base, options.newId(), clip.labels);
    if (!found) {
      media.set(key, source);
      if (isStandIn(source)) {
        lost.push(source);
        troubles.push({ code: 'not-found', place: '', detail: source.name });
      }
    }
    if (isStandIn(source)) widen(source, clip, kind, base);
    if (clip.labels) named.set(key, [...(named.get(key) ?? []), { labels: clip.labels, length: clip.length }]);
  });
  const events: ListEvent[] = [];
  const countings = new Map<string, LabelCounting | null>();
  const sourceFor = (wanted: EditMedia): FileSource => media.get(mediaKey(wanted)) as FileSource;
  const runOf = (clip: EditClip, base: Rate): LabelledRun | null => {
    const wanted = clip.media as EditMedia;
    const source = clip.labels && sourceFor(wanted);
    const counted = source && labelledSource(source, base);
    if (!clip.labels || !counted) return null;
    const key = mediaKey(wanted);
    if (!countings.has(key)) countings.set(key, countingOf(named.get(key) ?? [], base, counted));
    return labelledRun(clip.labels, { list: base, length: clip.length, source: counted, hint: countings.get(key) ?? null });
  };
  const timelines: Timeline[] = [];
  build(edit, { sourceFor, runOf, newId: options.newId, sources: options.sources, events }, timelines, troubles);
  return { timelines, lost, troubles, events };
}

/** A source that already stands for a missing file is reused, as a copy, because it may have to become longer. */
function atHand(source: FileSource | null): FileSource | null {
  return source?.lost ? { ...source } : source;
}

/** Whether a source stands for a file that is still to be found: a film, for all that is known. */
function isStandIn(source: FileSource): source is Film {
  return source.kind === 'film' && source.lost !== null;
}

type Visit = (clip: EditClip, kind: Lane['kind'], base: Rate) => void;

function gather(edit: Edit, visit: Visit): void {
  for (const lane of edit.lanes)
    for (const clip of lane.clips) {
      if ('nested' in clip.media) gather(clip.media.nested, visit);
      else visit(clip, lane.kind, edit.rate);
    }
}

/** What a list's labels are looked up in; what has no rate, or is sound alone, is counted as the list. */
function labelledSource(source: Source, list: Rate): LabelledSource {
  const own = source.kind === 'film' || source.kind === 'sequence' ? ownRate(source) : null;
  return { rate: own ?? list, start: source.timecode };
}

/** A source in the place of one that is not at hand: its facts are what the edit tells. */
function standIn(media: EditMedia, base: Rate, id: string, labels: SourceLabels | undefined): Film {
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
    claimed: null,
    readAt: null,
    timecode: null,
    lost: {
      url: media.url?.slice(0, 4096) ?? null,
      ...(labels ? { labels: dropping(labels) ? 'drop' : 'non-drop' } : {}),
      ...(media.seconds ? {} : { guessed: true }),
    },
  };
}

/** Whether labels count drop-frame, as far as they tell. */
function dropping({ from, dropFrame = false }: SourceLabels): boolean {
  return /[;.]\d+$/.test(from) || dropFrame;
}

/** Makes a stand-in as long as its uses, and gives it sound where its sound is used. */
function widen(source: Film, clip: EditClip, kind: Lane['kind'], base: Rate): void {
  const own = ownRate(source) ?? base;
  const media = clip.media as EditMedia;
  const from = minus(clip.from, media.start ?? ZERO);
  const end = plus(from, scaled(exactSecondsOf(clip.length, base), clip.speed ?? rate(1, 1_000_000)));
  // As many as begin before the clip ends.
  const used = -frameBefore({ n: -end.n, d: end.d }, own);
  const needed = media.seconds ? 0 : Math.max(used, frameBefore(from, own) + 1);
  source.pictures = Math.min(100_000_000, Math.max(source.pictures, needed));
  source.seconds = secondsOf(source.pictures, own);
  if (kind === 'sound' || source.sound)
    source.sound = { seconds: source.seconds, sampleRate: 48_000, channels: 2, codec: 'unknown', startSeconds: 0 };
}

interface Building extends Pick<OpenOptions, 'newId' | 'sources'> {
  readonly sourceFor: (media: EditMedia) => FileSource;
  readonly events: ListEvent[];
  /** What a clip's source timecode means; null where it names none. */
  readonly runOf: (clip: EditClip, base: Rate) => LabelledRun | null;
}

function build(edit: Edit, options: Building, timelines: Timeline[], troubles: Trouble[]): Timeline {
  const lanes: Lane[] = [];
  const clips: Clip[] = [];
  const nested = new Map<Edit, Timeline>();
  const found: { clip: EditClip; made: Clip; run: LabelledRun; source: FileSource }[] = [];
  for (const lane of edit.lanes) {
    const number = lanes.filter((l) => l.kind === lane.kind).length + 1;
    const name = lane.name.trim().slice(0, 60) || `${lane.kind === 'picture' ? 'Picture' : 'Sound'} ${number}`;
    const id = `${lane.kind === 'picture' ? 'p' : 's'}${number}`;
    lanes.push({ id, kind: lane.kind, name, ...(lane.off ? { off: true } : {}), kept: lane.kept });
    for (const clip of lane.clips) {
      const inner = 'nested' in clip.media ? clip.media.nested : null;
      if (inner && !nested.has(inner)) nested.set(inner, build(inner, options, timelines, troubles));
      const timeline = inner && nested.get(inner);
      const source = timeline ? { ...timelineFacts(timeline), name: timeline.name } : options.sourceFor(clip.media as EditMedia);
      const run = options.runOf(clip, edit.rate);
      const made = fromEditClip(edit, clip, { run, laneId: id, id: options.newId(), facts: source, troubles });
      clips.push(made);
      if (run) found.push({ clip, made, run, source: source as FileSource });
    }
  }
  if (!lanes.some((l) => l.kind === 'picture')) lanes.unshift({ id: 'p1', kind: 'picture', name: 'Picture 1', kept: null });
  const size = edit.size && knownSize(edit.size);
  const atHand = new Map(options.sources.map((s) => [s.id, s]));
  const first = clips.map((c) => atHand.get(c.sourceId)).find((s) => s !== undefined);
  const colour = COLOUR_CHOICES.find((choice) => choice === edit.colour);
  const made: Timeline = {
    id: options.newId(),
    name: edit.name.trim().slice(0, 120) || 'Opened edit',
    rate: edit.rate,
    ...(size ?? knownSize({ width: first?.width ?? 1920, height: first?.height ?? 1080 }, 2)),
    startFrame: edit.startFrame,
    dropFrame: edit.dropFrame,
    ...(edit.fields ? { fields: edit.fields } : {}),
    ...(colour ? { colour } : {}),
    range: null,
    lanes,
    clips,
    marks: [...edit.marks, ...onClips(edit)].map((m) => ({
      id: options.newId(),
      frame: m.frame,
      length: m.length,
      name: m.name.slice(0, 500),
      kept: m.kept,
    })),
    kept: edit.kept,
  };
  timelines.push(made);
  for (const { clip, made: at, run, source } of found)
    options.events.push({
      timelineId: made.id,
      clipId: at.id,
      place: clip.place ?? '',
      label: clip.labels?.from ?? '',
      sourceId: source.id,
      source: source.name,
      lost: source.lost !== null,
      picture: run.picture,
      sure: run.sure,
    });
  return made;
}

/** Marks that stand on clips, where they are seen on the timeline. */
function onClips(edit: Edit): EditMark[] {
  return edit.lanes.flatMap((lane) =>
    lane.clips.flatMap(({ marks = [], start, length }) =>
      marks.filter((m) => m.frame >= 0 && m.frame < length).map((m) => ({ ...m, frame: m.frame + start })),
    ),
  );
}

/** The nearest size that timelines have; that of a file's pictures even, so that every form takes it. */
function knownSize({ width, height }: Size, step = 1): Size {
  const within = (n: number): number => Math.max(FRAME_LEAST, Math.min(FRAME_MOST, Math.round(n / step) * step)) || FRAME_LEAST;
  return { width: within(width), height: within(height) };
}

type Facts = Pick<
  Source,
  'id' | 'name' | 'kind' | 'pictures' | 'measured' | 'readAt' | 'variable' | 'timecode' | 'mediaId' | 'seconds'
>;

function timelineFacts(timeline: Timeline): Facts {
  const { id, name, rate: base } = asSeen(timeline);
  const pictures = Math.max(1, momentsAFrame(timeline) * timelineLength(timeline));
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

function fromEditClip(
  edit: Edit,
  clip: EditClip,
  {
    run,
    laneId,
    id,
    facts,
    troubles,
  }: {
    readonly run: LabelledRun | null;
    readonly laneId: string;
    readonly id: string;
    readonly facts: Facts;
    readonly troubles: Trouble[];
  },
): Clip {
  const source = facts as Source;
  const own = ownRate(source) ?? edit.rate;
  const told = 'nested' in clip.media ? ZERO : (clip.media.start ?? mediaStart(source) ?? ZERO);
  const at = run?.picture ?? frameBefore(minus(clip.from, told), own);
  const speed = run ? run.perFrame && times(run.perFrame, over(edit.rate, own)) : clip.speed;
  if (run?.apart != null)
    troubles.push({
      code: 'lengths-differ',
      place: clip.place ?? '',
      detail: `${run.apart} pictures of the source are recorded for ${clip.length} frames`,
    });
  if (run?.sure === 'unsure')
    troubles.push({
      code: 'label-unsure',
      place: clip.place ?? '',
      detail: `${clip.labels?.from} is taken for picture ${at} of ${source.name}`,
    });
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
    ...fitOf(speed === null ? 'freeze' : 'nearest'),
    speed: speed === null ? rate(1) : within(over(speed, readingSpeed(source))),
    label: clip.name && clip.name !== source.name ? clip.name.slice(0, 255) : null,
    ...(clip.off ? { off: true } : {}),
    ...(clip.dissolve ? { dissolve: comesIn(clip.dissolve) } : {}),
    kept: withReference(kept, clip.media),
  };
  if ((run?.backward ?? clip.backward) && speed) Object.assign(base, backwards(base, over(times(speed, own), edit.rate), source));
  const exact = exactSchema.safeParse(thawline);
  if (!exact.success || exact.data.inPicture >= source.pictures) return base;
  if (exact.data.curve && curveFault(exact.data.curve, source.pictures, true)) return base;
  // Our own metadata counts only as long as the standard fields still agree with it.
  const candidate: Clip = { ...base, ...exact.data, link: exact.data.link };
  const written = timesOf(candidate, { ...source, timecode: null, claimed: null }, edit, () => undefined);
  const sameSpeed = written.speed && clip.speed ? near(written.speed, clip.speed) : written.speed === clip.speed;
  const shift = plus(written.from, told);
  return sameSpeed && (sameExactSeconds(shift, clip.from) || closeTo(shift, clip.from, own)) ? candidate : base;
}

function comesIn({ before, after, kept }: NonNullable<EditClip['dissolve']>): Dissolve {
  return { before, after, ...(kept ? { kept } : {}) };
}

/** What is said of a medium that no file is, beside what else is kept of the clip. */
function withReference(kept: Kept, media: EditClip['media']): Kept {
  const reference = 'nested' in media ? null : media.kept;
  return reference?.OTIO_SCHEMA ? { ...kept, reference } : kept;
}

/** The stretch from the in picture on, shown from its end: a curve that runs evenly back. */
function backwards(clip: Clip, perFrame: Rate, source: Source): Partial<Clip> {
  if (clip.length < 2) return {};
  const last = source.pictures - 1;
  const from = Math.min(last, clip.inPicture + Math.max(0, Math.round((clip.length * perFrame.num) / perFrame.den) - 1));
  const to = Math.min(from, clip.inPicture);
  return {
    curve: [
      { frame: 0, picture: from, way: 'even' },
      { frame: clip.length - 1, picture: to, way: 'even' },
    ],
  };
}

/** Speeds are written as decimals: alike to ten digits is the same. */
function near(a: Rate, b: Rate): boolean {
  return sameRate(a, b) || Math.abs((a.num * b.den) / (a.den * b.num) - 1) < 1e-9;
}

function closeTo(a: ExactSeconds, b: ExactSeconds, r: Rate): boolean {
  const apart = minus(a, b);
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
