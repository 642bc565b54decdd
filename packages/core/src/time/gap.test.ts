import { rate, soundGap } from './index.js';

test('3000 pictures at 30 with 120 s of sound were 25', () => {
  expect(soundGap(3000, rate(30), 100, 120)).toEqual({ seconds: 20, impliedRate: rate(25) });
});

test('the padding of a sound file is no gap', () => {
  expect(soundGap(250, rate(25), 10, 10.043)).toBeNull();
  expect(soundGap(250, rate(25), 10, 9.95)).toBeNull();
});

test('no sound at all implies no rate', () => {
  expect(soundGap(250, rate(25), 10, 0)).toEqual({ seconds: -10, impliedRate: null });
});
