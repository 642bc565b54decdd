import type { Fit } from '@thawline/core/cadence';
import { frameContent } from '@thawline/core/cadence';
import { rate } from '@thawline/core/time';
import { madeSource, newId, run } from '../document/project.fixture.js';
import { atFieldRate, clipsFor, emptyProject, mappingOf, noTiming, type Project, segmentsOf, tallyFrames } from '../index.js';

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
    ...{ speed: rate(1, 4), follow: 'move' as const },
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
