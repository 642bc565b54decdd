import type { Fit } from '@thawline/core/cadence';
import { frameContent } from '@thawline/core/cadence';
import { filmOfField, framesOfFilm } from '@thawline/core/fields';
import { rate } from '@thawline/core/time';
import { madeSource, newId, run } from '../document/project.fixture.js';
import {
  asSeen,
  atFieldRate,
  clipsFor,
  emptyProject,
  filmRate,
  formSchema,
  formWords,
  mappingOf,
  noTiming,
  type Project,
  renderedAt,
  segmentsOf,
  settledForm,
  sourceOf,
  type Timeline,
  tallyFrames,
  unheldBy,
} from '../index.js';

const base = run(
  emptyProject('Ice-out'),
  {
    type: 'addSources',
    sources: [madeSource('floes', rate(50), 400), madeSource('talk', rate(25), 400), madeSource('pan', rate(30000, 1001), 240)],
  },
  {
    type: 'addTimeline',
    timeline: { id: 't', name: 'Cut', rate: rate(25), width: 640, height: 360, startFrame: 90_000, dropFrame: false },
  },
);
function placed(name: string, fit: Fit, project: Project = base): Project {
  const [timeline] = project.timelines;
  const source = project.sources.find((s) => s.id === name);
  if (!timeline || !source) throw new Error('nothing to place');
  return run(project, { type: 'placeClips', timelineId: 't', clips: clipsFor({ timeline, source, fit, newId }, noTiming) });
}
const only = (project: Project) => {
  const [timeline] = project.timelines;
  if (!timeline) throw new Error('no timeline');
  return timeline;
};
/** Which picture each frame shows. */
function shown(project: Project, timeline = only(project)): number[] {
  const [clip] = timeline.clips;
  const source = project.sources.find((s) => s.id === clip?.sourceId);
  if (!clip || !source) throw new Error('no clip');
  const mapping = mappingOf(clip, source, timeline, noTiming);
  return Array.from({ length: clip.length }, (_, n) => frameContent(mapping, n).parts[0]?.picture ?? -1);
}

test.each([
  ['floes', 'nearest'],
  ['talk', 'nearest'],
  ['pan', 'nearest'],
  ['floes', 'pictures'],
  ['pan', 'pictures'],
  ['talk', 'freeze'],
] as const)('the first field of a frame shows what the frame does: %s, %s', (name, fit) => {
  const project = placed(name, fit);
  const [frames, fields] = [shown(project), shown(project, atFieldRate(only(project)))];
  expect(fields).toHaveLength(2 * frames.length);
  expect(frames).toEqual(frames.map((_, n) => fields[2 * n]));
});

test('50 loses nothing, 25 shows each picture in both fields, and where each fills a frame it fills both of its fields', () => {
  const of = (name: string, fit: Fit): number[] => shown(placed(name, fit), atFieldRate(only(placed(name, fit)))).slice(0, 6);
  expect(of('floes', 'nearest')).toEqual([0, 1, 2, 3, 4, 5]);
  expect(of('talk', 'nearest')).toEqual([0, 0, 1, 1, 2, 2]);
  expect(of('floes', 'pictures')).toEqual([0, 0, 1, 1, 2, 2]);
});

test('slow motion gets pictures made for each field', () => {
  const project = placed('talk', 'motion');
  const slow = run(project, {
    type: 'retimeClip',
    timelineId: 't',
    clipId: only(project).clips[0]?.id ?? '',
    speed: rate(1, 4),
    follow: 'move' as const,
  });
  const fields = atFieldRate(only(slow));
  expect(tallyFrames(slow, fields, noTiming).made).toBeGreaterThan(1.9 * tallyFrames(slow, only(slow), noTiming).made);
});

test('cuts stay on frames: no segment begins between the fields of one', () => {
  const project = placed('talk', 'nearest', placed('pan', 'nearest', placed('floes', 'nearest')));
  const fields = atFieldRate(only(project));
  expect(fields).toMatchObject({ rate: rate(50), startFrame: 180_000 });
  expect(segmentsOf(fields).map((s) => [s.from, s.to])).toEqual(segmentsOf(only(project)).map((s) => [2 * s.from, 2 * s.to]));
});

describe('film spread over fields by 2:3', () => {
  const film = run(
    base,
    { type: 'addSources', sources: [madeSource('reel', rate(24000, 1001), 240), madeSource('tail', rate(24000, 1001), 240)] },
    {
      type: 'addTimeline',
      timeline: { id: 'f', name: 'Film', rate: rate(24000, 1001), width: 640, height: 360, startFrame: 0, dropFrame: false },
    },
  );
  const cut = ['reel', 'tail'].reduce((project, name) => {
    const timeline = project.timelines.at(-1) as Timeline;
    const source = project.sources.find((s) => s.id === name);
    const clips = source ? clipsFor({ timeline, source, fit: 'nearest', newId }, noTiming) : [];
    return run(project, { type: 'placeClips', timelineId: 'f', clips: clips.map((c) => ({ ...c, length: 37 })) });
  }, film);
  const timeline = cut.timelines.at(-1) as Timeline;
  const fields = { order: 'bottom', lowPass: 'off', pulldown: true } as const;
  const form = settledForm(formSchema.parse({ kind: 'mp4', fields }));
  const framesShown = (range: { from: number; to: number } | null) => {
    const { project, timeline: outer, range: written } = renderedAt(cut, timeline, form, range);
    const clip = asSeen(outer).clips.find((c) => c.laneId === 'pictures');
    const source = sourceOf(project, 'f');
    if (!clip || !source) throw new Error('nothing to render');
    const mapping = mappingOf(clip, source, asSeen(outer), noTiming);
    return {
      outer,
      written,
      shown: Array.from({ length: 2 * written.to }, (_, n) => frameContent(mapping, n).parts[0]?.picture),
    };
  };

  test('pictures stay two fields and three in turn, over cuts as everywhere', () => {
    const { outer, written, shown: found } = framesShown(null);
    expect(outer).toMatchObject({ rate: rate(30000, 1001), fields: 'bottom' });
    expect(written).toEqual({ from: 0, to: framesOfFilm(74) });
    expect(found).toEqual(found.map((_, field) => filmOfField(field)));
  });

  test('of a range the beat begins with its first frame, which keeps its label', () => {
    const { outer, shown: found } = framesShown({ from: 30, to: 60 });
    expect(outer.startFrame).toBe(38);
    expect(found).toEqual(found.map((_, field) => 30 + filmOfField(field)));
  });

  test('what is no film, or has fields already, is not spread; a form says why', () => {
    expect(filmRate({ rate: rate(24) })).toEqual(rate(30));
    expect(filmRate({ rate: rate(24), fields: 'top' })).toBeNull();
    expect(unheldBy(form, timeline)).toBeNull();
    expect(unheldBy(form, { ...timeline, rate: rate(25) })).toMatch(/needs 23\.976 or 24 frames a second, and this is 25\.$/);
    expect(unheldBy(form, { ...timeline, fields: 'top' })).toMatch(/in fields already/);
    expect(formWords(form, timeline)).toMatch(/film by 2:3, bottom field first/);
  });
});
