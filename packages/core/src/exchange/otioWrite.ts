import { type Rate, rateToNumber } from '../time/index.js';
import type { Edit, EditClip, EditLane, EditMark, EditMedia, Kept } from './edit.js';
import { type ExactSeconds, exactSecondsOf, framesAt, plus, scaled } from './exactSeconds.js';

/** Writes an edit as OpenTimelineIO JSON, indented. What was kept from the file it came from is given back. */
export function writeOtio(edit: Edit): string {
  return `${JSON.stringify(timelineOf(edit), null, 2)}\n`;
}

type Json = Record<string, unknown>;

function timelineOf(edit: Edit): Json {
  const { tracks, ...kept } = { tracks: null, ...edit.kept } as { tracks: Kept } & Json;
  const metadata = merged(kept.metadata, { thawline: factsOf(edit) });
  return {
    ...kept,
    OTIO_SCHEMA: 'Timeline.1',
    name: edit.name,
    metadata,
    global_start_time: time(edit.startFrame, edit.rate),
    tracks: { ...stackOf(edit), ...(tracks ?? {}), OTIO_SCHEMA: 'Stack.1', name: 'tracks' },
  };
}

/** What the standard's own fields have no place for. */
function factsOf({ dropFrame, fields, colour, size }: Edit): Json {
  return { dropFrame, ...(fields ? { fields } : {}), ...(colour ? { colour } : {}), ...size };
}

function stackOf(edit: Edit): Json {
  return {
    OTIO_SCHEMA: 'Stack.1',
    name: edit.name,
    metadata: {},
    source_range: null,
    effects: [],
    markers: edit.marks.map((mark) => markOf(mark, edit.rate)),
    enabled: true,
    children: edit.lanes.map((lane) => trackOf(lane, edit.rate)),
  };
}

/** A gap or a transition that a track came with. Frames. */
interface Between {
  readonly from: number;
  readonly to: number;
  readonly kept: Json;
}

function trackOf(lane: EditLane, rate: Rate): Json {
  const { gaps = [], transitions = [], ...kept } = (lane.kept ?? {}) as { gaps?: Between[]; transitions?: Between[] } & Json;
  const children: Json[] = [];
  let at = 0;
  const cut = (frame: number): void => {
    // Where there is no cut any more there is nothing to go over.
    for (const { from, kept: own } of transitions) if (from === frame) children.push(own);
  };
  for (const clip of lane.clips) {
    if (clip.start > at) {
      cut(at);
      const known = gaps.find((g) => g.from === at && g.to === clip.start);
      children.push({ ...gap(clip.start - at, rate), ...known?.kept });
    }
    cut(clip.start);
    if (clip.dissolve && clip.start === at && children.length > 0) children.push(dissolveOf(clip.dissolve, rate));
    children.push(itemOf(clip, rate));
    at = clip.start + clip.length;
  }
  cut(at);
  return {
    metadata: {},
    effects: [],
    ...kept,
    OTIO_SCHEMA: 'Track.1',
    name: lane.name,
    kind: lane.kind === 'sound' ? 'Audio' : 'Video',
    source_range: null,
    markers: [],
    enabled: !lane.off,
    children,
  };
}

function dissolveOf({ before, after, kept }: NonNullable<EditClip['dissolve']>, rate: Rate): Json {
  const common = { name: '', metadata: {}, transition_type: 'SMPTE_Dissolve', ...kept };
  return { ...common, OTIO_SCHEMA: 'Transition.1', in_offset: time(before, rate), out_offset: time(after, rate) };
}

function gap(length: number, rate: Rate): Json {
  const source_range = { OTIO_SCHEMA: 'TimeRange.1', start_time: time(0, rate), duration: time(length, rate) };
  return { OTIO_SCHEMA: 'Gap.1', name: '', metadata: {}, source_range, effects: [], markers: [], enabled: true };
}

function itemOf(clip: EditClip, rate: Rate): Json {
  const nested = 'nested' in clip.media ? clip.media.nested : null;
  const { effects, ...kept } = { effects: [], ...clip.kept } as { effects: unknown[] } & Json;
  const base = 'nested' in clip.media ? clip.media.nested.rate : (clip.media.rate ?? rate);
  const common = {
    metadata: {},
    markers: (clip.marks ?? []).map((mark) => markOnClip(mark, clip, base, rate)),
    ...kept,
    source_range: range(clip.from, base, clip.length, rate),
    effects: [...warp(clip.speed, clip.backward ?? false), ...effects],
    enabled: !clip.off,
  };
  if (nested) {
    // A stack has no start timecode, size or name of drop-frame of its own: they stand beside it.
    const { tracks, ...own } = (nested.kept ?? {}) as { tracks?: Kept } & Json;
    return {
      ...stackOf(nested),
      ...tracks,
      ...own,
      ...common,
      metadata: merged(own.metadata, merged(kept.metadata, { thawline: factsOf(nested) })),
      markers: nested.marks.map((m) => markOf(m, nested.rate)),
      OTIO_SCHEMA: 'Stack.1',
      name: nested.name,
    };
  }
  const { media_references: others = {}, active_media_reference_key = 'DEFAULT_MEDIA' } = kept;
  const key = String(active_media_reference_key);
  return {
    ...common,
    OTIO_SCHEMA: 'Clip.2',
    name: clip.name,
    media_references: { ...(others as Json), [key]: referenceOf(clip.media as EditMedia) },
    active_media_reference_key: key,
  };
}

function referenceOf(media: EditMedia): Json {
  const available =
    media.seconds && media.rate ? range(media.start ?? { n: 0n, d: 1n }, media.rate, media.seconds, media.rate) : null;
  const common = { metadata: {}, ...media.kept, available_range: available, available_image_bounds: null };
  if (media.kept?.OTIO_SCHEMA) return common;
  if (media.url === null) return { ...common, OTIO_SCHEMA: 'MissingReference.1', name: media.name };
  return { ...common, OTIO_SCHEMA: 'ExternalReference.1', name: media.name, target_url: media.url };
}

function warp(speed: Rate | null, backward: boolean): Json[] {
  if (speed === null)
    return [
      { OTIO_SCHEMA: 'FreezeFrame.1', name: 'freeze', metadata: {}, effect_name: 'FreezeFrame', time_scalar: 0, enabled: true },
    ];
  if (speed.num === speed.den && !backward) return [];
  return [
    {
      OTIO_SCHEMA: 'LinearTimeWarp.1',
      name: 'speed',
      metadata: {},
      effect_name: 'LinearTimeWarp',
      time_scalar: rateToNumber(speed) * (backward ? -1 : 1),
      enabled: true,
    },
  ];
}

function markOf(mark: EditMark, rate: Rate): Json {
  return {
    metadata: {},
    color: 'ORANGE',
    ...mark.kept,
    OTIO_SCHEMA: 'Marker.2',
    name: mark.name,
    marked_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(mark.frame, rate), duration: time(mark.length, rate) },
  };
}

/** A mark on a clip stands at the moment of its media that the frame shows. */
function markOnClip(mark: EditMark, clip: EditClip, base: Rate, timeline: Rate): Json {
  const { onClip, ...kept } = (mark.kept ?? {}) as { onClip?: { frame: number; range: Json } } & Json;
  const plain = { ...mark, kept };
  if (onClip?.frame === mark.frame && onClip.range) return { ...markOf(plain, base), marked_range: onClip.range };
  const frame = clip.backward ? clip.length - 1 - mark.frame : mark.frame;
  const speed = clip.speed ?? { num: 1, den: 1 };
  const at = plus(clip.from, scaled(exactSecondsOf(frame, timeline), speed));
  return markOf({ ...plain, frame: framesAt(at, base) }, base);
}

/** Start in the media's rate, length in the timeline's (frames) or the media's own (a time). */
function range(from: ExactSeconds, base: Rate, length: number | ExactSeconds, lengthRate: Rate): Json {
  const duration = typeof length === 'number' ? length : framesAt(length, lengthRate);
  return {
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: time(framesAt(from, base), base),
    duration: time(duration, lengthRate),
  };
}

function time(value: number, rate: Rate): Json {
  return { OTIO_SCHEMA: 'RationalTime.1', rate: rateToNumber(rate), value };
}

function merged(a: unknown, b: unknown): Json {
  const [one, two] = [a ?? {}, b ?? {}] as [Json, Json];
  const inner = { ...((one.thawline as Json | undefined) ?? {}), ...((two.thawline as Json | undefined) ?? {}) };
  return { ...one, ...two, ...(Object.keys(inner).length > 0 ? { thawline: inner } : {}) };
}
