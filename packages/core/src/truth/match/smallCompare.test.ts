import { SequenceComparer } from './smallCompare.js';

const [WIDTH, HEIGHT] = [16, 9];

/** A picture that moves on with its number, with noise of its own. */
function picture(k: number, noise = 0, seed = 1): Uint8Array {
  const out = new Uint8Array(WIDTH * HEIGHT);
  let state = (seed * 2654435761 + k * 97) >>> 0;
  for (let i = 0; i < out.length; i++) {
    state = (state * 1664525 + 1013904223) >>> 0;
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const shade = 120 + 60 * Math.sin((x + k * 0.8) * 0.7) + 30 * Math.cos(y * 0.9 + k * 0.3);
    out[i] = Math.max(0, Math.min(255, shade + noise * (state / 2 ** 32 - 0.5)));
  }
  return out;
}

/** Asked for are the pictures from 0 on; written are those of these numbers, with noise. */
function shown(asked: number, written: readonly number[], noise = 3) {
  const meter = new SequenceComparer();
  for (let n = 0; n < Math.max(asked, written.length); n++) {
    if (n < asked) meter.ask(picture(n));
    const k = written[n];
    if (k !== undefined) meter.write(k < 0 ? picture(-k, 0, 5).map((v) => 255 - v) : picture(k, noise, 9));
  }
  return meter.finish();
}
const COUNT = Array.from({ length: 200 }, (_, n) => n);

test('frames that are as asked are so, whatever coding did to them', () => {
  for (const noise of [0, 3, 20]) expect(shown(200, COUNT, noise)).toMatchObject({ wrong: [], alike: 0 });
});

test('a held, a strange and a swapped picture are found at their places', () => {
  const written = COUNT.map((n) => (n === 30 ? 29 : n === 90 ? -5 : n === 140 ? 141 : n === 141 ? 140 : n));
  expect(shown(200, written).wrong).toEqual([
    { frame: 30, frames: 1, shows: 29 },
    { frame: 90, frames: 1, shows: null },
    { frame: 140, frames: 1, shows: 141 },
    { frame: 141, frames: 1, shows: 140 },
  ]);
});

test('what is left out shifts all that follows: one finding, however much it is', () => {
  for (const lost of [1, 5, 40]) {
    const { wrong } = shown(200, [...COUNT.slice(0, 50), ...COUNT.slice(50 + lost)]);
    expect(wrong).toEqual([{ frame: 50, frames: 150 - lost, shows: 50 + lost }]);
  }
});

test('another film altogether shows nothing of what was asked', () => {
  const meter = new SequenceComparer();
  for (let n = 0; n < 60; n++) {
    meter.ask(picture(n));
    meter.write(picture(n, 250, 77).map((v, i) => (i % 3 === 0 ? 255 - v : v)));
  }
  expect([...meter.finish().shows].filter((n) => n >= 0)).toEqual([]);
});

test('pictures that do not move cannot be told apart, and are none of them wrong', () => {
  const meter = new SequenceComparer();
  for (let n = 0; n < 20; n++) {
    meter.ask(picture(3));
    meter.write(picture(3, 2, n));
  }
  expect(meter.finish().wrong).toEqual([]);
});

test('more frames than were asked for are shown as what they are', () => {
  const { wrong } = shown(50, [...COUNT.slice(0, 50), 48, 49]);
  expect(wrong).toEqual([{ frame: 50, frames: 2, shows: 48 }]);
});
