import type { FieldRun } from '@thawline/core/fields';
import { rate } from '@thawline/core/time';
import { madeSource, place, run } from '../../document/project.fixture.js';
import { apply, commandSchema, emptyProject, type Film, type Project } from '../../index.js';

const NTSC = rate(30000, 1001);
const field = (to: number): FieldRun[] => [{ way: 'one-a-field', from: 0, to, first: 'top' }];
const film = (to: number): FieldRun[] => [{ way: 'film', from: 0, to, first: 'top', beat: '2:3', passed: 0 }];
const read = (sourceId: string, runs: FieldRun[] | null) => ({
  type: 'readFields' as const,
  readings: [{ sourceId, reading: runs && { mediaId: `${sourceId}-read`, runs } }],
});

const base: Project = run(
  emptyProject('Ice-out'),
  { type: 'addSources', sources: [madeSource('tape', rate(25), 100), madeSource('reel', NTSC, 150)] },
  {
    type: 'addTimeline',
    timeline: { id: 't', name: 'Cut', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false },
  },
);
const placed = run(base, place(base, 'tape'));
const sourceOf = (project: Project, id: string): Film => {
  const found = project.sources.find((s) => s.id === id);
  if (found?.kind !== 'film') throw new Error(`no film ${id}`);
  return found;
};

test('25 interlaced becomes 50 pictures a second of the same length, found under media of their own', () => {
  const tape = sourceOf(run(base, read('tape', field(100))), 'tape');
  expect(tape).toMatchObject({ pictures: 200, measured: { rate: rate(50) }, seconds: 4, variable: false, mediaId: 'tape-read' });
  expect(tape.fieldsRead?.stored).toMatchObject({ pictures: 100, measured: { rate: rate(25) } });
});

test('film from pulldown: 29.97 becomes 23.976', () => {
  expect(sourceOf(run(base, read('reel', film(150))), 'reel')).toMatchObject({
    pictures: 120,
    measured: { rate: rate(24000, 1001) },
  });
});

test('stretches of different kinds are variable together, and the length stays', () => {
  const runs: FieldRun[] = [...film(50), { way: 'one-a-field', from: 50, to: 150, first: 'top' }];
  const reel = sourceOf(run(base, read('reel', runs)), 'reel');
  expect(reel).toMatchObject({ pictures: 240, variable: true });
  expect(reel.seconds).toBeCloseTo((150 * 1001) / 30000, 6);
});

test('as stored again gives back the very facts that were', () => {
  const back = run(base, read('tape', field(100)), read('tape', null));
  expect(back.sources).toEqual(base.sources);
});

test('clips keep place and length, and stay on the moments that they showed', () => {
  const trimmed = run(placed, {
    type: 'trimClip',
    timelineId: 't',
    clipId: placed.timelines[0]?.clips[0]?.id ?? '',
    start: 10,
    end: 60,
  });
  const [before] = trimmed.timelines[0]?.clips ?? [];
  const [now] = run(trimmed, read('tape', field(100))).timelines[0]?.clips ?? [];
  expect(now).toMatchObject({
    start: before?.start,
    length: before?.length,
    headTrim: before?.headTrim,
    inPicture: 2 * (before?.inPicture ?? 0),
  });
});

test('marks and what a person judged stay on their pictures; of two that fall on one the first stays', () => {
  const marked = run(
    base,
    { type: 'markPicture', sourceId: 'reel', picture: 2, note: 'crack' },
    { type: 'markPicture', sourceId: 'reel', picture: 3, note: 'splash' },
    { type: 'markPicture', sourceId: 'reel', picture: 100, note: 'end' },
    { type: 'judgePicture', sourceId: 'reel', picture: 100, as: 'new' },
  );
  const reel = sourceOf(run(marked, read('reel', film(150))), 'reel');
  expect(reel.marks?.at(-1)).toEqual({ picture: 80, note: 'end' });
  expect(new Set(reel.marks?.map((m) => m.picture)).size).toBe(reel.marks?.length);
  expect(reel.judged).toEqual([{ picture: 80, as: 'new' }]);
});

test('a reading at another rate goes on running as much faster or slower', () => {
  const slowed = run(base, {
    type: 'readAt',
    readings: [{ sourceId: 'tape', reading: { rate: rate(20), pictures: 'once', from: 'typed', sound: 'along' } }],
    uses: 'move',
  });
  expect(sourceOf(run(slowed, read('tape', field(100))), 'tape').readAt).toMatchObject({ rate: rate(40), pictures: 'once' });
});

test.each([
  ['runs that do not end with the file', 'tape', field(90), 'fields-end'],
  ['a source that is not there', 'none', field(100), 'unknown-source'],
])('%s are refused', (_, id, runs, code) => {
  expect(apply(base, commandSchema.parse(read(id, runs)))).toMatchObject({ ok: false, code });
});

test('where held pictures are left out, all have to be read first', () => {
  const rebuilt = run(base, { type: 'rebuildSource', sourceId: 'tape', held: [4, 9] });
  expect(apply(rebuilt, commandSchema.parse(read('tape', field(100))))).toMatchObject({ ok: false, code: 'held-left-out' });
});

test('a file that changed is read as it is stored: which fields make which picture was said of the one before', () => {
  const renewed = { ...madeSource('tape', rate(25), 80), mediaId: 'newer' };
  const now = sourceOf(run(base, read('tape', field(100)), { type: 'renewSource', source: renewed }), 'tape');
  expect(now).toMatchObject({ pictures: 80, mediaId: 'newer' });
  expect(now.fieldsRead).toBeUndefined();
});
