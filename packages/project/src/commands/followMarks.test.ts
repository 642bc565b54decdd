import { rate } from '@thawline/core/time';
import { base, newId, place, run } from '../document/project.fixture.js';
import { apply, applyDifference, type Command, noTiming, type Project, previewReadAt, shownAt, type Timeline } from '../index.js';

/** pan (29.97), then talk, then floes (50) on a timeline of 25, with marks on pictures of each, and in and out within. */
const first = run(base, place(base, 'talk', 0));
const second = run(first, place(first, 'pan', 420));
const cut = run(
  run(second, place(second, 'floes', 700)),
  {
    type: 'markFrames',
    marks: [
      { timelineId: 't', frame: 10, length: 0, name: 'early' },
      { timelineId: 't', frame: 500, length: 5, name: 'in the pan' },
      { timelineId: 't', frame: 640, length: 0, name: 'in the gap' },
      { timelineId: 't', frame: 750, length: 0, name: 'a floe' },
    ],
  },
  { type: 'setRange', timelineId: 't', range: { from: 480, to: 760 } },
);
const timeline = (project: Project): Timeline => project.timelines[0] as Timeline;
const shows = (project: Project, frame: number) => {
  const shown = shownAt(project, timeline(project), frame, noTiming);
  return shown && [shown.source.id, shown.picture];
};
const markOf = (project: Project, name: string) =>
  timeline(project).marks.find((m) => m.name === name) as Timeline['marks'][number];

const readPan: Command = {
  type: 'readAt',
  readings: [{ sourceId: 'pan', reading: { rate: rate(25), pictures: 'once', from: 'typed', sound: 'along' } }],
  uses: 'move',
  except: [],
};

test('read at another rate, marks, in and out stay on their pictures, and what follows takes its marks along', () => {
  const read = run(cut, readPan);
  for (const name of ['early', 'in the pan', 'a floe'])
    expect(shows(read, markOf(read, name).frame)).toEqual(shows(cut, markOf(cut, name).frame));
  expect(markOf(read, 'in the pan').frame).toBeGreaterThan(500);
  // Behind the pan the gap keeps its length: what marks it goes with what comes next.
  const shift = markOf(read, 'a floe').frame - 750;
  expect(shift).toBeGreaterThan(30);
  expect(markOf(read, 'in the gap').frame).toBe(640 + shift);
  const { range } = timeline(read);
  expect(shows(read, range?.from ?? 0)).toEqual(shows(cut, 480));
  expect(shows(read, (range?.to ?? 1) - 1)).toEqual(shows(cut, 759));
  expect(markOf(read, 'in the pan').id).toBe(`mark-${markOf(read, 'in the pan').frame}`);
});

test('a retimed clip keeps its marks on its pictures, closing gaps moves marks with what moves, and one undo takes all of it back', () => {
  const pan = timeline(cut).clips.find((c) => c.sourceId === 'pan' && c.laneId === 'p1')?.id ?? '';
  for (const command of [
    { type: 'retimeClip', timelineId: 't', clipId: pan, speed: rate(1, 2), backward: false, follow: 'move' },
    { type: 'closeGaps', timelineId: 't', laneId: null },
  ] as const) {
    const applied = apply(cut, command);
    if (!applied.ok) throw new Error(applied.code);
    for (const name of ['in the pan', 'a floe'])
      expect(shows(applied.project, markOf(applied.project, name).frame)).toEqual(shows(cut, markOf(cut, name).frame));
    expect(applyDifference(applied.project, applied.difference.backward)).toEqual(cut);
    expect(applyDifference(cut, applied.difference.forward)).toEqual(applied.project);
  }
});

test('clips that are moved by hand leave marks where they are', () => {
  const moved = run(cut, { type: 'moveClips', timelineId: 't', clipIds: timeline(cut).clips.map((c) => c.id), byFrames: 30 });
  expect(timeline(moved).marks).toEqual(timeline(cut).marks);
});

describe('what a Read at leaves behind is named before', () => {
  test('a timeline that holds the one which becomes longer', () => {
    const outer = { id: 'o', name: 'Film', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false };
    const holding = run(cut, { type: 'addTimeline', timeline: outer });
    const length = 900;
    const lane = holding.timelines[1]?.lanes[0]?.id ?? '';
    const plain = timeline(cut).clips[0];
    const film = run(holding, {
      type: 'placeClips',
      timelineId: 'o',
      clips: [
        { ...(plain as NonNullable<typeof plain>), id: newId(), link: null, sourceId: 't', laneId: lane, start: 0, length },
      ],
    });
    const preview = previewReadAt(film, readPan as never, noTiming);
    expect(preview.holding.map((h) => [h.timeline.name, h.inner.name])).toEqual([['Film', 'Cut']]);
    expect(preview.holding[0]?.lacks).toBeGreaterThan(30);
  });

  test('sound that runs out before its pictures do', () => {
    const own = {
      ...readPan,
      readings: [{ sourceId: 'pan', reading: { rate: rate(25), pictures: 'once', from: 'typed', sound: 'own' } }],
    };
    const { touched } = previewReadAt(cut, own as never, noTiming);
    // 240 pictures of 29.97 run 8.008 s; at 25 they run 9.6 s: 39 frames and a bit without sound.
    expect(touched.find((t) => t.source.id === 'pan')?.silent).toBe(39);
    expect(previewReadAt(cut, readPan as never, noTiming).touched.find((t) => t.source.id === 'pan')?.silent).toBe(0);
  });
});
