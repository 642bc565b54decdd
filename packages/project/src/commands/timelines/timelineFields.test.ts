import { readOtio, writeOtio } from '@thawline/core/exchange';
import { rate } from '@thawline/core/time';
import { base, newId, place, run } from '../../document/project.fixture.js';
import {
  apply,
  asSeen,
  cadenceAsSeen,
  clipsFor,
  fromEdit,
  layersAt,
  lossesOf,
  noTiming,
  type Project,
  picturesOfLayers,
  renderedAt,
  reportCarry,
  sourceOf,
  tallyFrames,
  timelineAsSource,
  toEdit,
} from '../../index.js';

/** Timelines whose frames are of two fields. */
const inFields = run(base, {
  type: 'setTimelineFormat',
  timelineId: 't',
  rate: rate(25),
  width: 640,
  height: 360,
  fields: 'top',
});
const SECOND = { id: 'u', name: 'Outer', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false };

function nested(project: Project, outer: Partial<typeof SECOND> & { fields?: 'top' | 'bottom' }): Project {
  const made = run(project, { type: 'addTimeline', timeline: { ...SECOND, ...outer } });
  const [inner, timeline] = made.timelines;
  if (!inner || !timeline) throw new Error('no timelines');
  const clips = clipsFor({ timeline, source: timelineAsSource(made, inner), fit: 'nearest', newId }, noTiming);
  return run(made, { type: 'placeClips', timelineId: 'u', clips });
}

/** The pictures of files that frames of the outer timeline show, by its moments. */
function shown(project: Project, moments: number): (number | undefined)[] {
  const timeline = project.timelines.at(-1);
  if (!timeline) throw new Error('no timeline');
  return Array.from(
    { length: moments },
    (_, n) => picturesOfLayers(layersAt(project, asSeen(timeline), n, noTiming))[0]?.picture,
  );
}

test('its moments are its fields: none of a 50 is lost, and undoing gives whole pictures back', () => {
  const project = run(inFields, place(inFields, 'floes'));
  const [timeline] = project.timelines;
  const clip = timeline?.clips.find((c) => c.laneId === 'p1');
  if (!timeline || !clip) throw new Error('nothing placed');
  expect(timeline.fields).toBe('top');
  expect([...(cadenceAsSeen(project, timeline, clip, noTiming)?.map.pictures.slice(0, 5) ?? [])]).toEqual([0, 1, 2, 3, 4]);
  expect(tallyFrames(project, asSeen(timeline), noTiming)).toMatchObject({ frames: 400, real: 400, held: 0 });
  const whole = run(project, {
    type: 'setTimelineFormat',
    timelineId: 't',
    rate: rate(25),
    width: 640,
    height: 360,
    fields: null,
  });
  expect(whole.timelines[0]).not.toHaveProperty('fields');
  expect(tallyFrames(whole, asSeen(whole.timelines[0] as never), noTiming).frames).toBe(200);
});

test('what is not said of fields stays; frames too quick for two of them are refused', () => {
  const same = run(inFields, { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 720, height: 576 });
  expect(same.timelines[0]?.fields).toBe('top');
  const quick = { type: 'setTimelineFormat' as const, timelineId: 't', rate: rate(50), width: 640, height: 360 };
  expect(apply(inFields, quick)).toMatchObject({ ok: false, code: 'fields-too-quick', facts: { rate: '50' } });
  expect(apply(inFields, { ...quick, fields: null })).toMatchObject({ ok: true });
});

test('placed in another one, its fields are the pictures: all of them where that has fields, too, every second one where not', () => {
  const inner = run(inFields, place(inFields, 'floes'));
  expect(sourceOf(inner, 't')).toMatchObject({ pictures: 400, measured: { rate: rate(50) } });
  expect(shown(nested(inner, { fields: 'bottom' }), 6)).toEqual([0, 1, 2, 3, 4, 5]);
  expect(shown(nested(inner, {}), 4)).toEqual([0, 2, 4, 6]);
  expect(shown(nested(inner, { rate: rate(50) }), 4)).toEqual([0, 1, 2, 3]);
});

test('while it is placed, whether it has fields does not change: its pictures are counted there', () => {
  const project = nested(run(inFields, place(inFields, 'floes')), {});
  const set = { type: 'setTimelineFormat' as const, timelineId: 't', rate: rate(25), width: 640, height: 360 };
  expect(apply(project, { ...set, fields: null })).toMatchObject({ ok: false, code: 'timeline-in-use' });
  expect(apply(project, { ...set, fields: 'bottom' })).toMatchObject({ ok: true });
});

test('carried or rendered at another rate it keeps its fields as long as they fit into it', () => {
  const placed = run(inFields, place(inFields, 'floes'));
  const to = (perSecond: number) =>
    run(placed, { type: 'carryTimeline', timelineId: 't', newId: 'c', name: 'Carried', rate: rate(perSecond) }).timelines.find(
      (t) => t.id === 'c',
    )?.fields;
  expect([to(30), to(50)]).toEqual(['top', undefined]);
  const [timeline] = placed.timelines;
  if (!timeline) throw new Error('no timeline');
  // Hitches are those of the moments that are seen: of 50 none on 25 in fields, as at 50.
  const { clips } = reportCarry(placed, timeline, rate(50), noTiming);
  expect(clips.map((c) => [c.hitchesBefore, c.hitches])).toEqual([[0, 0]]);
  const uneven = run(inFields, place(inFields, 'pan'));
  const [at25] = uneven.timelines;
  const pan = at25?.clips.find((c) => c.laneId === 'p1');
  if (!at25 || !pan) throw new Error('nothing placed');
  const seen = cadenceAsSeen(uneven, at25, pan, noTiming)?.map.hitches.length ?? 0;
  expect(seen).toBeGreaterThan(0);
  expect(reportCarry(uneven, at25, rate(50), noTiming).clips[0]?.hitchesBefore).toBe(seen);
  const at = (perSecond: number) => renderedAt(placed, timeline, { rate: rate(perSecond), way: 'nearest' });
  expect(at(30).timeline.fields).toBe('top');
  const whole = at(50);
  expect(whole.timeline).not.toHaveProperty('fields');
  const pictures = [0, 1, 2, 3].map((n) => picturesOfLayers(layersAt(whole.project, whole.timeline, n, noTiming))[0]?.picture);
  expect(pictures).toEqual([0, 1, 2, 3]);
});

test('an OTIO file holds its fields, also of one that is placed; a list says that it does not', () => {
  const project = nested(run(inFields, place(inFields, 'floes')), { fields: 'bottom' });
  const outer = project.timelines.at(-1);
  if (!outer) throw new Error('no timeline');
  const { edits } = readOtio(writeOtio(toEdit(project, outer, { known: noTiming, urlOf: (s) => `file:///${s.name}.mov` })));
  const find = (media: { name: string }) => project.sources.find((s) => media.name.startsWith(s.name)) ?? null;
  const opened = fromEdit(edits[0] as never, { sources: project.sources, find, newId });
  expect(opened.timelines.map((t) => [t.name, t.fields])).toEqual([
    ['Cut', 'top'],
    ['Outer', 'bottom'],
  ]);
  const again = { ...project, timelines: [...opened.timelines] };
  expect(shown(again, 6)).toEqual([0, 1, 2, 3, 4, 5]);
  expect(lossesOf(project, outer, 'edl')).toContainEqual(expect.stringMatching(/two fields is left out/));
  expect(lossesOf(project, outer, 'otio').filter((l) => /fields/.test(l))).toEqual([]);
});
