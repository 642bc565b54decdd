import { clockTimecode, rate } from '@thawline/core/time';
import { rulerFrames } from './scale.js';

const drop = { rate: rate(30000, 1001), dropFrame: true, startFrame: 107_892 };
const names = (clock: typeof drop, apart: number, from: number, to: number): string[] =>
  rulerFrames(clock, apart, from, to).map((f) => clockTimecode(f, clock));

test('labels stay round in drop-frame, minute after minute', () => {
  expect(names(drop, 1500, 0, 12_000)).toEqual([
    '01:00:00;00',
    '01:01:00;02',
    '01:02:00;02',
    '01:03:00;02',
    '01:04:00;02',
    '01:05:00;02',
    '01:06:00;02',
  ]);
  expect(names(drop, 250, 16_000, 17_000)).toEqual(['01:08:50;00', '01:09:00;02', '01:09:10;00', '01:09:20;00']);
  expect(names(drop, 15_000, 0, 40_000)).toEqual(['01:00:00;00', '01:10:00;00', '01:20:00;00']);
});

test('they are round where a timeline begins between two, and within a second', () => {
  const odd = { rate: rate(25), dropFrame: false, startFrame: 90_013 };
  expect(names(odd, 20, 0, 60)).toEqual(['01:00:01:00', '01:00:02:00']);
  expect(names(odd, 8, 0, 40)).toEqual(['01:00:01:00', '01:00:01:10', '01:00:02:00']);
});
