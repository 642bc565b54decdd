import { rate } from '../time/index.js';
import { type Edit, readEdl, secondsIn, troubleSentence, writeEdl } from './index.js';

const LIST = `TITLE: ICE OUT
FCM: NON-DROP FRAME

001  FLOES    V     C        00:00:02:00 00:00:06:00 01:00:00:00 01:00:04:00
* FROM CLIP NAME: floe-drift
* LOC: 01:00:01:12 RED     look here
002  TALK     AA/V  C        00:00:00:00 00:00:02:00 01:00:04:00 01:00:06:00
* FROM CLIP NAME: warden-interview
003  BL       V     C        00:00:00:00 00:00:01:00 01:00:06:00 01:00:07:00
004  RIDGE    V     C        00:00:01:00 00:00:02:00 01:00:07:00 01:00:09:00
M2   RIDGE    012.5                00:00:01:00
`;
const read = (text: string, r = rate(25)): Edit => {
  const { edits, troubles } = readEdl(text, r);
  expect(troubles).toEqual([]);
  return edits[0] as Edit;
};
const codes = (text: string, r = rate(25)) => readEdl(text, r).troubles.map((t) => [t.place, t.code]);
const event = (number: string, record: string, source = '00:00:00:00 00:00:01:00', rest = 'V     C  ') =>
  `${number}  FLOES    ${rest}      ${source} ${record}\n`;

test('events lie at their record time, the hour is the start', () => {
  const edit = read(LIST);
  expect(edit).toMatchObject({ name: 'ICE OUT', startFrame: 90_000, dropFrame: false });
  expect(edit.lanes.map((l) => [l.name, l.clips.map((c) => [c.name, c.start, c.length])])).toEqual([
    [
      'Picture 1',
      [
        ['floe-drift', 0, 100],
        ['warden-interview', 100, 50],
        ['RIDGE', 175, 50],
      ],
    ],
    ['Sound 1', [['warden-interview', 100, 50]]],
    ['Sound 2', [['warden-interview', 100, 50]]],
  ]);
  expect(edit.lanes[0]?.clips.map((c) => [secondsIn(c.from), c.speed])).toEqual([
    [2, rate(1)],
    [0, rate(1)],
    [1, rate(1, 2)],
  ]);
  expect(edit.marks).toEqual([{ frame: 37, length: 0, name: 'look here', kept: { color: 'RED' } }]);
});

test('CRLF, no last newline, a byte order mark and a thousand lines of comments change nothing', () => {
  const comments = Array.from({ length: 1000 }, (_, i) => `* NOTE ${i}`).join('\n');
  const messy = `\uFEFF${LIST.replace('* LOC', `${comments}\n* LOC`).trimEnd()}`.replace(/\n/g, '\r\n');
  const plain = (of: Edit) => of.lanes.map((l) => l.clips.map(({ kept: _, place: __, ...clip }) => clip));
  expect(plain(read(messy))).toEqual(plain(read(LIST)));
});

test('what is written is read again as the same clips', () => {
  const edit = read(LIST);
  const again = read(writeEdl(edit));
  const placed = (of: Edit) => of.lanes.map((l) => l.clips.map(({ place: _, ...clip }) => clip));
  expect(placed(again)).toEqual(placed(edit));
  expect(again.marks).toEqual(edit.marks);
  expect(writeEdl(again)).toBe(writeEdl(edit));
});

test('drop-frame: record and source times count without the dropped numbers, both ways', () => {
  const list = `FCM: DROP FRAME\n${event('001', '01:00:00;00 01:01:00;02', '00:00:00;00 00:01:00;02')}`;
  const edit = read(list, rate(30000, 1001));
  expect(edit).toMatchObject({ dropFrame: true, startFrame: 107_892 });
  expect(edit.lanes[0]?.clips[0]?.length).toBe(1800);
  expect(writeEdl(edit)).toContain('01:00:00;00 01:01:00;02');
});

test('a dissolve comes in over the clip that ends there, wipes and dissolves of sound are told', () => {
  const list = `001  FLOES    V     C        00:00:00:00 00:00:02:00 00:00:00:00 00:00:02:00
002  FLOES    V     C        00:00:02:00 00:00:02:00 00:00:02:00 00:00:02:00
002  RIDGE    V     D    025 00:00:00:00 00:00:02:00 00:00:02:00 00:00:04:00
003  JETTY    AA/V  D    300 00:00:00:00 00:00:01:00 00:00:04:00 00:00:05:00
004  SKIFF    V     W001 010 00:00:00:00 00:00:01:00 00:00:05:00 00:00:06:00
`;
  const { edits, troubles } = readEdl(list, rate(25));
  const [picture, ...sounds] = edits[0]?.lanes ?? [];
  // No longer than the clip that comes in.
  expect(picture?.clips.map((c) => c.dissolve?.after ?? 0)).toEqual([0, 25, 25, 0]);
  expect(sounds.flatMap((l) => l.clips.map((c) => c.dissolve))).toEqual([undefined, undefined]);
  expect(troubles.map((t) => [t.place, t.detail])).toEqual([
    ['line 5', 'A wipe or key'],
    ['line 4', 'A dissolve of sound'],
  ]);
});

test('a dissolve from black opens as a cut and takes its name from what it goes to', () => {
  const list = `001  FLOES    V     C        00:00:01:00 00:00:01:00 00:00:02:00 00:00:02:00
001  RIDGE    V     D    025 00:00:00:00 00:00:02:00 00:00:02:00 00:00:04:00
* FROM CLIP NAME: floe-drift
* TO CLIP NAME: ridge-stock
`;
  const { edits, troubles } = readEdl(list, rate(25));
  expect(edits[0]?.lanes[0]?.clips.map((c) => [c.name, c.start, c.length])).toEqual([['ridge-stock', 50, 50]]);
  expect(troubles).toMatchObject([{ code: 'transition', place: 'line 2', detail: 'A dissolve from black' }]);
});

test('M2 rounds to a tenth: the lengths tell the finer speed', () => {
  const list = `${event('001', '00:00:00:00 00:01:00:00', '00:00:00:00 00:01:11:23')}M2   FLOES    029.9      00:00:00:00\n`;
  const { edits } = readEdl(list, rate(25));
  const speed = edits[0]?.lanes[0]?.clips[0]?.speed;
  expect(speed && (speed.num / speed.den) * 25).toBeCloseTo(29.967, 3);
});

describe('what is wrong is told with its line, and the rest opens', () => {
  test('a wrong event', () => {
    expect(
      codes(`${event('001', '00:00:00:00 00:00:01:00')}002  garbage here\n${event('003', '00:00:01:00 00:00:02:00')}`),
    ).toEqual([['line 2', 'bad-event']]);
    expect(codes(event('001', '00:00:01:00 00:00:01:00') + event('002', '00:00:00:00 00:00:01:00'))).toEqual([
      ['line 1', 'bad-event'],
    ]);
    expect(
      codes(event('001', '00:00:00:00 00:00:01:00', undefined, 'Q9    C  ') + event('002', '00:00:00:00 00:00:01:00')),
    ).toEqual([['line 1', 'bad-event']]);
  });

  test('a timecode that names no frame', () => {
    const opened = readEdl(event('001', '00:00:00:30 00:00:01:00') + event('002', '00:00:00:00 00:00:01:00'), rate(25));
    expect(opened.troubles).toEqual([{ place: 'line 1', code: 'bad-timecode', detail: '00:00:00:30' }]);
    expect(opened.edits[0]?.lanes[0]?.clips).toHaveLength(1);
    expect(troubleSentence(opened.troubles[0] as never)).toBe(
      'Line 1: 00:00:00:30 is no timecode at this rate. The event was left out.',
    );
  });

  test('overlapping events go to a lane above', () => {
    const opened = readEdl(
      event('001', '00:00:00:00 00:00:02:00', '00:00:00:00 00:00:02:00') + event('002', '00:00:01:00 00:00:02:00'),
      rate(25),
    );
    expect(opened.troubles).toEqual([{ place: 'line 2', code: 'overlap', detail: 'Event 002' }]);
    expect(opened.edits[0]?.lanes.map((l) => l.clips.length)).toEqual([1, 1]);
  });

  test('mixed drop-frame flags', () => {
    const list = `FCM: NON-DROP FRAME\n${event('001', '00:00:00:00 00:01:00:00', '00:00:00:00 00:01:00:00')}FCM: DROP FRAME\n${event('002', '00:01:00;02 00:01:01;02')}`;
    const { edits, troubles } = readEdl(list, rate(30000, 1001));
    expect(troubles.map((t) => [t.place, t.code])).toEqual([['line 3', 'mixed-drop-frame']]);
    expect(edits[0]?.lanes[0]?.clips.map((c) => c.start)).toEqual([0, 1800]);
  });

  test('nothing that is an event', () => {
    expect(readEdl('a shopping list\n', rate(25))).toMatchObject({ edits: [], troubles: [{ code: 'not-an-edit' }] });
    expect(readEdl('', rate(25)).edits).toEqual([]);
  });
});

test('an event further out than a timeline goes is left out, and told', () => {
  const far = event('002', '200:00:00:00 200:00:01:00');
  const { edits, troubles } = readEdl(`TITLE: FAR\n\n${event('001', '01:00:00:00 01:00:01:00')}${far}`, rate(25));
  expect(edits[0]?.lanes[0]?.clips).toHaveLength(1);
  expect(troubles.map(troubleSentence)).toEqual([
    'Line 4: Event 002 ends further out than the 10000000 frames that a timeline may have from a file; it was left out.',
  ]);
});
