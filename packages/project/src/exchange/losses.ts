import { EDL_SOUNDS, type Edit, type EditClip, edlHoldsRate, exactSecondsOf, plus, scaled } from '@thawline/core/exchange';
import type { Clip, Project, Timeline } from '../document/document.js';
import { beyondPictures, type Dissolving } from '../resolve/dissolves.js';
import { segmentsOf } from '../resolve/plan.js';
import { isOff, sourceOf } from '../resolve/sources.js';
import { clipEnd, noTiming, type TimingOf } from '../timing/mapping.js';
import { type SaveOptions, toEdit, toEditClip } from './edits.js';

export const EDIT_FORMS = ['otio', 'edl'] as const;
export type EditForm = (typeof EDIT_FORMS)[number];

/** What a form cannot say of a timeline, one sentence each, before it is saved. Empty: nothing is lost. */
export function lossesOf(project: Project, timeline: Timeline, form: EditForm): string[] {
  const pictures = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  const shown = timeline.clips.filter((c) => pictures.has(c.laneId));
  const losses: string[] = [];
  const tell = (clips: readonly Clip[], one: string, many: string): void => {
    if (clips.length > 0) losses.push(clips.length === 1 ? `1 clip ${one}` : `${clips.length} clips ${many}`);
  };
  const readers =
    form === 'otio' ? 'Thawline reads it back, others show the nearest picture.' : 'The nearest pictures are meant.';
  tell(
    shown.filter((c) => c.fit === 'blend'),
    `is blended. ${readers}`,
    `are blended. ${readers}`,
  );
  tell(
    shown.filter((c) => c.fit === 'motion'),
    `has pictures made by motion. ${readers}`,
    `have pictures made by motion. ${readers}`,
  );
  const curves = form === 'otio' ? 'Thawline reads it back, others run it evenly.' : 'That is left out.';
  tell(
    shown.filter((c) => c.curve),
    `has a time curve. ${curves}`,
    `have time curves. ${curves}`,
  );
  tell(
    shown.filter((c) => c.shutter > 0),
    `has an open shutter. ${frames(form)}`,
    `have an open shutter. ${frames(form)}`,
  );
  tell(
    shown.filter((c) => c.opacity !== undefined),
    `is seen through. ${frames(form)}`,
    `are seen through. ${frames(form)}`,
  );
  const framed = shown.filter((c) => c.framing !== 'inside');
  tell(
    framed,
    `fills the frame, is stretched or lies pixel for pixel. ${frames(form)}`,
    `fill the frame, are stretched or lie pixel for pixel. ${frames(form)}`,
  );
  tell(
    shown.filter((c) => c.pose),
    `is laid by hand. ${frames(form)}`,
    `are laid by hand. ${frames(form)}`,
  );
  const sounds = timeline.clips.filter((c) => !pictures.has(c.laneId) && sourceOf(project, c.sourceId)?.readAt);
  tell(
    sounds,
    'of sound has a source read at another rate: what its sound does is left out.',
    'of sound have sources read at another rate: what their sound does is left out.',
  );
  if (timeline.range) losses.push('In and out are left out.');
  const onClips = timeline.marks.filter((m) => m.kept?.onClip).length;
  if (form === 'edl' && onClips > 0)
    losses.push(`${onClips} ${onClips === 1 ? 'mark of a clip becomes one' : 'marks of clips become marks'} of the timeline.`);
  return form === 'edl' ? [...losses, ...edlLosses(project, timeline, shown)] : losses;
}

function frames(form: EditForm): string {
  return form === 'otio' ? 'Only Thawline reads that back.' : 'That is left out.';
}

function edlLosses(project: Project, timeline: Timeline, shown: readonly Clip[]): string[] {
  const losses: string[] = [];
  if (timeline.colour) losses.push('What its pictures are composed in is left out.');
  if (timeline.fields) losses.push('That its frames are of two fields is left out: the list counts frames.');
  if (!edlHoldsRate(timeline.rate)) losses.push('Timecode of more than 100 frames a second is not read by others.');
  const seen = new Set(segmentsOf(timeline).map((s) => s.clip?.id));
  const hidden = shown.filter((c) => !seen.has(c.id) && !isOff(timeline, c)).length;
  const lanes = timeline.lanes.filter(
    (l) => l.kind === 'picture' && timeline.clips.some((c) => c.laneId === l.id && !isOff(timeline, c)),
  );
  if (lanes.length > 1) losses.push(`${lanes.length} picture lanes become one: what lies above is cut into what lies beneath.`);
  const off = timeline.clips.filter((c) => isOff(timeline, c)).length;
  if (off > 0)
    losses.push(`${off} ${off === 1 ? 'clip that is' : 'clips that are'} switched off ${off === 1 ? 'is' : 'are'} left out.`);
  if (hidden > 0)
    losses.push(
      `${hidden} ${hidden === 1 ? 'clip that others hide is' : 'clips that others hide are'} left out: a list has one picture lane.`,
    );
  const dissolves = [...dissolvesSeen(timeline)];
  const early = dissolves.filter(([d]) => beyondPictures(project, timeline, d, noTiming).into > 0).length;
  if (early > 0)
    losses.push(
      `${early} ${early === 1 ? 'dissolve begins before its source does: it is' : 'dissolves begin before their sources do: they are'} shortened.`,
    );
  const covered = dissolves.filter(([{ from, to }, frames]) => frames < to - from).length;
  if (covered > 0)
    losses.push(
      `${covered} ${covered === 1 ? 'dissolve that something covers becomes a cut' : 'dissolves that something covers become cuts'}.`,
    );
  const soundLanes = timeline.lanes.filter((l) => l.kind === 'sound' && timeline.clips.some((c) => c.laneId === l.id)).length;
  if (soundLanes > EDL_SOUNDS)
    losses.push(`${soundLanes - EDL_SOUNDS} of ${soundLanes} sound lanes are left out: a list has ${EDL_SOUNDS}.`);
  const nested = shown.filter((c) => sourceOf(project, c.sourceId)?.kind === 'timeline').length;
  if (nested > 0)
    losses.push(
      `${nested} placed ${nested === 1 ? 'timeline is' : 'timelines are'} named, but what is in ${nested === 1 ? 'it' : 'them'} is left out. Unpack first.`,
    );
  const free = timeline.marks.filter(
    (m) => !timeline.clips.some((c) => m.frame >= c.start && m.frame < c.start + c.length),
  ).length;
  if (free > 0)
    losses.push(
      `${free} ${free === 1 ? 'mark that stands' : 'marks that stand'} over no clip ${free === 1 ? 'is' : 'are'} left out.`,
    );
  const tenths = shown.filter((c) => {
    const source = sourceOf(project, c.sourceId);
    if (!source || c.fit === 'freeze') return false;
    const { speed } = toEditClip(project, timeline, { clip: c, source, options: { known: () => undefined, urlOf: () => null } });
    const pace = speed ? (speed.num / speed.den) * (timeline.rate.num / timeline.rate.den) * 10 : 0;
    return speed !== null && speed.num !== speed.den && Math.abs(pace - Math.round(pace)) > 1e-6;
  }).length;
  if (tenths > 0) losses.push(`${tenths} ${tenths === 1 ? 'speed is' : 'speeds are'} cut to a tenth of a picture a second.`);
  return losses;
}

interface SeenRun {
  readonly from: number;
  readonly to: number;
  readonly clip: Clip;
  /** Frames of the dissolve that it comes in by, from its first one on; 0: a cut. */
  readonly over: number;
}

/** Dissolves and how many of their frames are seen. */
function dissolvesSeen(timeline: Timeline): Map<Dissolving, number> {
  const seen = new Map<Dissolving, number>();
  for (const { from, to, dissolve } of segmentsOf(timeline))
    if (dissolve) seen.set(dissolve, (seen.get(dissolve) ?? 0) + to - from);
  return seen;
}

/**
 * Runs of frames that show a clip. A dissolve that is seen from its first frame to its last belongs to the clip that comes in, as far as
 * that has pictures: a list has no label for those before the first.
 */
function seenRuns(project: Project, timeline: Timeline, known: TimingOf): SeenRun[] {
  const segments = segmentsOf(timeline);
  const seen = dissolvesSeen(timeline);
  const runs: SeenRun[] = [];
  const show = (from: number, to: number, clip: Clip, over: number): void => {
    const last = runs.at(-1);
    if (to <= from) return;
    if (last?.clip === clip && last.to === from) runs[runs.length - 1] = { ...last, to };
    else runs.push({ from, to, clip, over });
  };
  for (const { from, to, clip, dissolve } of segments) {
    if (!dissolve || seen.get(dissolve) !== dissolve.to - dissolve.from) {
      if (clip) show(from, to, clip, 0);
      continue;
    }
    const begins = dissolve.from + beyondPictures(project, timeline, dissolve, known).into;
    show(from, Math.min(to, begins), dissolve.out, 0);
    show(Math.max(from, begins), to, dissolve.into, dissolve.to - begins);
  }
  return runs;
}

/** The edit with one picture lane: what is seen, cut where something else covers it. For forms that have no more. */
export function flattened(project: Project, timeline: Timeline, options: SaveOptions): Edit {
  const edit = toEdit(project, timeline, options);
  const clips = seenRuns(project, timeline, options.known).flatMap(({ from, to, clip, over: frames }): EditClip[] => {
    const source = sourceOf(project, clip.sourceId);
    if (!source) return [];
    const { dissolve: _, ...whole } = toEditClip(project, timeline, { clip, source, options });
    const over = frames > 0 ? { dissolve: { before: 0, after: frames, kept: null } } : {};
    // What runs backward begins with its end.
    const before = whole.backward ? clipEnd(clip) - to : from - clip.start;
    const start = whole.speed ? plus(whole.from, scaled(exactSecondsOf(before, timeline.rate), whole.speed)) : whole.from;
    return [{ ...whole, ...over, start: from, length: to - from, from: start }];
  });
  const lane = { kind: 'picture' as const, name: 'Picture 1', clips, kept: null };
  return {
    ...edit,
    lanes: [
      lane,
      ...edit.lanes
        .filter((l) => l.kind === 'sound' && !l.off)
        .map((l) => ({ ...l, clips: l.clips.filter((c) => !c.off) }))
        .filter((l) => l.clips.length > 0),
    ],
  };
}
