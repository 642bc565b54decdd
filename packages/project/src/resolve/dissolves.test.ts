import { SHARES } from '@thawline/core/cadence';
import { readEdl, readOtio, writeEdl, writeOtio } from '@thawline/core/exchange';
import { rate } from '@thawline/core/time';
import { base, madeSource, newId, place, run } from '../document/project.fixture.js';
import {
  beyondPictures,
  carriedTimeline,
  dissolveShare,
  dissolvesOf,
  flattened,
  fromEdit,
  type Layer,
  layersAt,
  lossesOf,
  noTiming,
  type PictureLayer,
  type Project,
  plainClip,
  segmentsOf,
  type Timeline,
  tallyFrames,
  toEdit,
} from '../index.js';

const added = run(base, {
  type: 'addSources',
  sources: [madeSource('slush', rate(25), 100), madeSource('moraine', rate(25), 100)],
});
const timelineOf = (p: Project): Timeline => p.timelines[0] as Timeline;
const only = (p: Project, name: string) => timelineOf(p).clips.find((c) => c.sourceId === name);

/** floes from its first frame to its 60th, then ridge from its 20th picture on. */
const cut = (() => {
  const floes = run(added, place(added, 'slush', 0));
  const shorter = run(floes, { type: 'trimClip', timelineId: 't', clipId: only(floes, 'slush')?.id ?? '', start: 0, end: 60 });
  const both = run(shorter, place(shorter, 'moraine', 100));
  const id = only(both, 'moraine')?.id ?? '';
  const trimmed = run(both, { type: 'trimClip', timelineId: 't', clipId: id, start: 120, end: 170 });
  return run(trimmed, { type: 'moveClips', timelineId: 't', clipIds: [id], byFrames: -60 });
})();
const second = only(cut, 'moraine')?.id ?? '';
const dissolved = run(cut, { type: 'setDissolve', timelineId: 't', clipId: second, before: 4, after: 6 });

/** Pictures of layers with their opacity and how much of the frame they are, were each to fill it. */
function weighed(layers: readonly Layer[]): { layer: PictureLayer; opacity: number; weight: number }[] {
  return layers.flatMap((layer, i) => {
    const left = layers.slice(i + 1).reduce((rest, above) => rest * (1 - above.opacity), layer.opacity);
    if (!('layers' in layer)) return [{ layer, opacity: layer.opacity, weight: left }];
    return weighed(layer.layers).map((one) => ({ ...one, weight: one.weight * left }));
  });
}

const shares = (p: Project, frame: number) =>
  weighed(layersAt(p, timelineOf(p), frame, noTiming)).map(({ layer, opacity }) => [
    layer.source?.id ?? 'black',
    layer.picture,
    Number(opacity.toFixed(4)),
  ]);

test('it begins and ends evenly on both sides of its cut, with pictures of both from beyond it', () => {
  expect(segmentsOf(timelineOf(dissolved)).map((s) => [s.from, s.to, s.clip?.sourceId, s.dissolve !== undefined])).toEqual([
    [0, 56, 'slush', false],
    [56, 60, 'slush', true],
    [60, 66, 'moraine', true],
    [66, 110, 'moraine', false],
  ]);
  expect(shares(dissolved, 55)).toEqual([['slush', 55, 1]]);
  expect(shares(dissolved, 56)).toEqual([
    ['slush', 56, 1],
    ['moraine', 16, 0.05],
  ]);
  expect(shares(dissolved, 61)).toEqual([
    ['slush', 61, 1],
    ['moraine', 21, 0.55],
  ]);
  expect(shares(dissolved, 65)).toEqual([
    ['slush', 65, 1],
    ['moraine', 25, 0.95],
  ]);
  expect(shares(dissolved, 66)).toEqual([['moraine', 26, 1]]);
  expect([0, 9].map((n) => dissolveShare({ from: 0, to: 10 }, n) / SHARES)).toEqual(
    [0.05, 0.95].map((s) => expect.closeTo(s, 4)),
  );
});

test('a frame of it is priced as blended, and a cut again costs nothing', () => {
  const known = tallyFrames(cut, timelineOf(cut), noTiming);
  expect(tallyFrames(dissolved, timelineOf(dissolved), noTiming)).toMatchObject({ real: known.real - 10, blended: 10, held: 0 });
  const back = run(dissolved, { type: 'setDissolve', timelineId: 't', clipId: second, before: 0, after: 0 });
  expect(back).toEqual(cut);
});

test('a picture that does not fill the frame comes in with black beside it, both as one', () => {
  const narrow = { ...madeSource('tall', rate(25), 100), width: 180, height: 360 };
  const more = run(cut, { type: 'removeClips', timelineId: 't', clipIds: [second] }, { type: 'addSources', sources: [narrow] });
  const placed = run(more, place(more, 'tall', 60));
  const clipId = only(placed, 'tall')?.id ?? '';
  const over = run(placed, { type: 'setDissolve', timelineId: 't', clipId, before: 0, after: 10 });
  const [out, into] = layersAt(over, timelineOf(over), 64, noTiming);
  expect(out).toMatchObject({ source: { id: 'slush' }, opacity: 1 });
  expect(into).toMatchObject({
    opacity: expect.closeTo(0.45, 4),
    layers: [
      { source: null, opacity: 1 },
      { source: { id: 'tall' }, opacity: 1 },
    ],
  });
});

test('it wants a clip that ends there, and rests where that goes away', () => {
  const clipId = only(cut, 'slush')?.id ?? '';
  expect(() => run(cut, { type: 'setDissolve', timelineId: 't', clipId, before: 1, after: 1 })).toThrow('nothing-before');
  const apart = run(dissolved, { type: 'moveClips', timelineId: 't', clipIds: [second], byFrames: 5 });
  expect(segmentsOf(timelineOf(apart)).some((s) => s.dissolve)).toBe(false);
  const again = run(apart, { type: 'moveClips', timelineId: 't', clipIds: [second], byFrames: -5 });
  expect(again).toEqual(dissolved);
  // The second half of a clip that is split comes in by a cut.
  const split = run(dissolved, { type: 'splitClips', timelineId: 't', clipIds: [second], frame: 80, seed: 's' });
  expect(segmentsOf(timelineOf(split)).filter((s) => s.dissolve)).toHaveLength(2);
});

test('dissolves never overlap, and what a source lacks is told', () => {
  const short = run(dissolved, { type: 'setDissolve', timelineId: 't', clipId: second, before: 90, after: 90 });
  const [dissolve] = dissolvesOf(timelineOf(short).clips);
  // As long as both clips are there; ridge has twenty pictures before its first, floes forty after its last.
  expect(dissolve).toMatchObject({ from: 0, to: 110 });
  expect(dissolve && beyondPictures(short, timelineOf(short), dissolve, noTiming)).toEqual({ into: 40, out: 10 });
  expect(shares(short, 0)[1]?.slice(0, 2)).toEqual(['moraine', 0]);
  expect(shares(short, 109)[0]?.slice(0, 2)).toEqual(['slush', 99]);
});

test('at another rate it lasts as long', () => {
  const carried = carriedTimeline(dissolved, timelineOf(dissolved), { id: 'u', name: 'U', rate: rate(50) }, noTiming);
  expect(carried.clips.find((c) => c.sourceId === 'moraine')?.dissolve).toEqual({ before: 8, after: 12, kept: null });
});

const options = { known: noTiming, urlOf: () => null };
const opened = (p: Project, edit: Parameters<typeof fromEdit>[0]): Project => {
  const find = (m: { name: string }) => p.sources.find((s) => s.name === m.name) ?? null;
  const found = fromEdit(edit, { sources: p.sources, newId, find });
  return { ...p, timelines: [...found.timelines] };
};

test('OpenTimelineIO holds it as a transition, and gives it back', () => {
  const text = writeOtio(toEdit(dissolved, timelineOf(dissolved), options));
  expect(JSON.parse(text).tracks.children[0].children[1]).toMatchObject({
    OTIO_SCHEMA: 'Transition.1',
    transition_type: 'SMPTE_Dissolve',
    in_offset: { value: 4, rate: 25 },
    out_offset: { value: 6, rate: 25 },
  });
  const { edits, troubles } = readOtio(text);
  expect(troubles).toEqual([]);
  expect(edits[0]?.lanes[0]?.clips[1]?.dissolve).toMatchObject({ before: 4, after: 6 });
});

test('a list holds it as the two halves of an event, and shows the same frames when it is read', () => {
  const text = writeEdl(flattened(dissolved, timelineOf(dissolved), options));
  expect(text.split('\r\n').filter((l) => /^\d/.test(l))).toEqual([
    '001  SLUSH    V     C        00:00:00:00 00:00:02:06 00:00:00:00 00:00:02:06',
    '002  SLUSH    V     C        00:00:02:06 00:00:02:06 00:00:02:06 00:00:02:06',
    '002  MORAINE  V     D    010 00:00:00:16 00:00:02:20 00:00:02:06 00:00:04:10',
  ]);
  expect(text).toContain('* FROM CLIP NAME: slush\r\n* TO CLIP NAME: moraine');
  const { edits, troubles } = readEdl(text, rate(25));
  expect(troubles).toEqual([]);
  const again = edits[0] && opened(dissolved, edits[0]);
  for (const frame of [0, 55, 56, 60, 65, 66, 109]) expect(again && shares(again, frame)).toEqual(shares(dissolved, frame));
});

test('a list of a dissolve that begins before a source does begins with the first picture there is, and that is said before', () => {
  const early = run(dissolved, { type: 'setDissolve', timelineId: 't', clipId: second, before: 30, after: 6 });
  const text = writeEdl(flattened(early, timelineOf(early), options));
  expect(text.split('\r\n').filter((l) => /^002/.test(l))[1]).toBe(
    '002  MORAINE  V     D    026 00:00:00:00 00:00:02:20 00:00:01:15 00:00:04:10',
  );
  expect(lossesOf(early, timelineOf(early), 'edl')).toContainEqual(expect.stringContaining('before its source does'));
  expect(lossesOf(dissolved, timelineOf(dissolved), 'edl')).toEqual([]);
});

test('in a timeline that is blended itself both clips weigh what they should', () => {
  const inner = timelineOf(dissolved);
  const outer: Timeline = { ...inner, id: 'o', rate: rate(50), clips: [] };
  const holds: Project = { ...dissolved, timelines: [...dissolved.timelines, outer] };
  const source = { ...plainClip(inner.id), id: 'n', laneId: 'p1', start: 0, length: 200, fit: 'blend' as const };
  const placed: Project = { ...holds, timelines: [inner, { ...outer, clips: [source] }] };
  // Frame 121 lies half way between 60 and 61 of the inner one: the shares there are 45 and 55 %.
  const weights = new Map<string, number>();
  for (const { layer, weight } of weighed(layersAt(placed, placed.timelines[1] as Timeline, 121, noTiming))) {
    const key = `${layer.source?.id} ${layer.picture}`;
    weights.set(key, (weights.get(key) ?? 0) + weight);
  }
  const near = (n: number) => expect.closeTo(n, 4);
  expect(Object.fromEntries(weights)).toEqual({
    'slush 60': near(0.275),
    'moraine 20': near(0.225),
    'slush 61': near(0.225),
    'moraine 21': near(0.275),
  });
});
