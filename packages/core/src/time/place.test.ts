import { clockTimecode, placeWords, rate, readLength, readPlace } from './index.js';

const pal = { rate: rate(25), dropFrame: false, startFrame: 0 };
const hour = { rate: rate(25), dropFrame: false, startFrame: 90_000 };
const drop = { rate: rate(30000, 1001), dropFrame: true, startFrame: 0 };

test.each([
  ['1:2:3:4', 93_079, 'timecode'],
  ['01020304', 93_079, 'timecode'],
  ['1020304', 93_079, 'timecode'],
  ['120', 120, 'frame'],
  ['2.5s', 63, 'seconds'],
  ['+12', 112, 'by-frames'],
  ['-1s', 75, 'by-seconds'],
  ['- 1 s', 75, 'by-seconds'],
  ['+1:00', 125, 'by-timecode'],
  ['-120', -20, 'by-frames'],
])('%s at 25, standing on 100, is frame %i', (text, frame, kind) => {
  expect(readPlace(text, pal, 100)).toEqual({ ok: true, kind, frame });
});

test('a timecode counts from what the first frame is called, a frame number from 0', () => {
  expect(readPlace('1:00:01:00', hour, 0)).toMatchObject({ ok: true, frame: 25 });
  expect(readPlace('25', hour, 0)).toMatchObject({ ok: true, frame: 25 });
  expect(clockTimecode(25, hour)).toBe('01:00:01:00');
});

test('on a drop-frame clock a colon means drop-frame, too', () => {
  expect(readPlace('1:00:02', drop, 0)).toMatchObject({ ok: true, frame: 1800 });
  expect(readPlace('00010002', drop, 0)).toMatchObject({ ok: true, frame: 1800 });
  expect(readPlace('1:00:00', drop, 0)).toEqual({ ok: false, why: 'dropped' });
});

test.each([
  ['', 'empty'],
  ['soon', 'not-a-place'],
  ['1:2:3:4:5', 'not-a-place'],
  ['1:75:00', 'no-such-frame'],
  ['0:25', 'no-such-frame'],
  ['--4', 'not-a-place'],
  ['1e3', 'not-a-place'],
])('%p is refused: %s', (text, why) => {
  expect(readPlace(text, pal, 0)).toEqual({ ok: false, why });
});

test('what was understood is said', () => {
  expect(placeWords(readPlace('-1s', pal, 100), pal, 100)).toBe('00:00:03:00, frame 75: 25 back');
  expect(placeWords(readPlace('0:25', pal, 0), pal, 0)).toContain('frames to 24');
});

test('a number that drop-frame leaves out is told as that', () => {
  const place = readPlace('10:01:00;00', drop, 0);
  expect(place).toEqual({ ok: false, why: 'dropped' });
  expect(placeWords(place, drop, 0)).toMatch(/^drop-frame has no such number: .* goes on with ;02$/);
  expect(readPlace('10:01:00;30', drop, 0)).toEqual({ ok: false, why: 'no-such-frame' });
});

test('lengths are frames, seconds or timecode; a move is none', () => {
  const at25 = { rate: rate(25), dropFrame: false };
  expect(['120', '8s', '2.5s', '0:10', '8:00', '1:00:00', '0', '+5', 'x'].map((t) => readLength(t, at25))).toEqual([
    ...[120, 200, 63, 10, 200, 1500],
    ...[null, null, null],
  ]);
});
