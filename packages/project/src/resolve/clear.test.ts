import { rate } from '@thawline/core/time';
import { base, madeSource, newId, place, run } from '../document/project.fixture.js';
import {
  type CommandInput,
  clipsFor,
  layersAt,
  noTiming,
  type PictureLayer,
  type Project,
  seesThrough,
  type Timeline,
  timelineAsSource,
} from '../index.js';

/** Timelines placed in others: what they leave free is seen through. */
const added = run(base, {
  type: 'addSources',
  sources: [madeSource('slush', rate(25), 100), { ...madeSource('tall', rate(25), 100), width: 180, height: 360 }],
});
const inner = (p: Project): Timeline => p.timelines[0] as Timeline;
const isThrough = (p: Project): boolean => seesThrough(p, timelineAsSource(p, inner(p)));
const idOf = (p: Project, name: string): string => inner(p).clips.find((c) => c.sourceId === name)?.id ?? '';
const full = run(added, place(added, 'slush', 0));

test('a timeline that is filled hides all; a gap, a narrow picture or an opacity opens it', () => {
  expect(isThrough(full)).toBe(false);
  const moved = run(full, { type: 'moveClips', timelineId: 't', clipIds: [idOf(full, 'slush')], byFrames: 5 });
  expect(isThrough(moved)).toBe(true);
  expect(isThrough(run(added, place(added, 'tall', 0)))).toBe(true);
  const half: CommandInput = { type: 'setOpacity', timelineId: 't', clipIds: [idOf(full, 'slush')], opacity: 0.5 };
  expect(isThrough(run(full, half))).toBe(true);
});

test('what lies beneath an open clip in it closes it again, as long as it does', () => {
  const over = run(full, place(full, 'tall', 0, 'p2'));
  expect(isThrough(over)).toBe(false);
  const longer = run(over, { type: 'trimClip', timelineId: 't', clipId: idOf(over, 'slush'), start: 0, end: 60 });
  expect(isThrough(longer)).toBe(true);
});

test('in the frames of the outer timeline what lies beneath is there where the inner one has nothing', () => {
  const moved = run(full, { type: 'moveClips', timelineId: 't', clipIds: [idOf(full, 'slush')], byFrames: 5 });
  const outer = { id: 'o', name: 'Outer', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false };
  const empty = run(moved, { type: 'addTimeline', timeline: outer });
  const onto = (p: Project, source: Parameters<typeof clipsFor>[0]['source'], laneId: string) => {
    const timeline = p.timelines.find((t) => t.id === 'o') as Timeline;
    const clips = clipsFor({ timeline, source, fit: 'nearest', start: 0, laneId, newId }, noTiming);
    return run(p, { type: 'placeClips', timelineId: 'o', clips });
  };
  const below = onto(empty, empty.sources.find((s) => s.id === 'talk') as Project['sources'][number], 'p1');
  const both = onto(below, timelineAsSource(below, inner(below)), 'p2');
  const shown = (frame: number) =>
    layersAt(both, both.timelines[1] as Timeline, frame, noTiming).map((layer) => (layer as PictureLayer).source?.id);
  expect(shown(2)).toEqual(['talk']);
  expect(shown(7)).toEqual(['talk', 'slush']);
});
