import { rate, soundGap } from './index.js';

test('3000 pictures at 30 with 120 s of sound were 25', () => {
  expect(soundGap(3000, rate(30), 100, 120)).toEqual({ seconds: 20, impliedRate: rate(25), standard: true });
});

test('the padding of a sound file is no gap', () => {
  expect(soundGap(250, rate(25), 10, 10.043)).toBeNull();
  expect(soundGap(250, rate(25), 10, 9.95)).toBeNull();
});

test('no sound at all implies no rate', () => {
  expect(soundGap(250, rate(25), 10, 0)).toEqual({ seconds: -10, impliedRate: null, standard: false });
});

test('a rate that the sound implies is standard only where it is near one', () => {
  // 250 pictures over 18 s of sound: nobody takes 13.889 pictures a second.
  expect(soundGap(250, rate(25), 10, 18)).toMatchObject({ impliedRate: rate(250_000, 18_000), standard: false });
  // A codec's last block more is still 25; 30 and 29.97 are told apart.
  expect(soundGap(3000, rate(30), 100, 120.04)).toMatchObject({ impliedRate: rate(25), standard: true });
  expect(soundGap(3000, rate(25), 120, 100.1)).toMatchObject({ impliedRate: rate(30000, 1001), standard: true });
});

test('however short the sound, its rate is none that lies percents away', () => {
  // 29 pictures a second are no 30, however little the sound is.
  expect(soundGap(58, rate(25), 2.32, 2)).toMatchObject({ impliedRate: rate(29), standard: false });
});
