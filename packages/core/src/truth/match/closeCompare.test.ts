import { codingError, type LumaPicture, lookClosely, onTheWay } from './closeCompare.js';

const [WIDTH, HEIGHT] = [160, 96];
type Sample = (x: number, y: number) => number;

const picture = (sample: Sample): LumaPicture => {
  const data = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++) for (let x = 0; x < WIDTH; x++) data[y * WIDTH + x] = sample(x, y);
  return { width: WIDTH, height: HEIGHT, data };
};

/** As a coder leaves it: each sample off by up to so many steps. */
function coded({ width, height, data }: LumaPicture, steps: number): LumaPicture {
  let state = 99;
  return {
    width,
    height,
    data: data.map((value) => {
      state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
      return Math.max(0, Math.min(255, value + (Math.floor((state / 2 ** 32) * (2 * steps + 1)) - steps)));
    }),
  };
}

const slope: Sample = (x, y) => 60 + (x >> 1) + (y >> 2);
/** A square of 12 samples that moves by two a frame. */
const dot = (k: number): LumaPicture =>
  picture((x, y) => (x >= 20 + 2 * k && x < 32 + 2 * k && y >= 40 && y < 52 ? 235 : slope(x, y)));
const others = new Map([-3, -2, -1, 1, 2, 3].map((k) => [10 + k, dot(10 + k)]));
const usualOf = (written: LumaPicture, own: LumaPicture): number => codingError(written, own);

test.each([0, 1, 4, 8])('a frame that is as asked is its own, whatever %p steps of coding did to it', (steps) => {
  const own = dot(10);
  const written = coded(own, steps);
  expect(lookClosely(written, own, others, usualOf(written, own))).toEqual({ shows: 'own' });
});

test.each([0, 1, 4])('a thing of a few samples one frame further is that frame, through %p steps of coding', (steps) => {
  const usual = usualOf(coded(dot(10), steps), dot(10));
  for (const k of [7, 9, 11, 13])
    expect(lookClosely(coded(dot(k), steps), dot(10), others, usual)).toEqual({ shows: 'other', frame: k });
});

test('what coding does not keep is not called wrong, and said to be alike', () => {
  const own = picture(slope);
  const faint = picture((x, y) => slope(x, y) + (x < 20 && y < 10 ? 3 : 0));
  const written = coded(faint, 2);
  expect(lookClosely(written, own, new Map([[11, faint]]), usualOf(coded(own, 2), own))).toEqual({ shows: 'alike', frame: 11 });
});

test('faint pictures smeared half into the one before are not that one', () => {
  const own = picture(slope);
  const before = picture((x, y) => slope(x, y) + (y < 16 ? 9 : 0));
  // On most samples nearly the one before, on others neither.
  const smeared = picture((x, y) => slope(x, y) + (y < 16 ? (x % 4 === 0 ? 18 : 4) : 0));
  expect(lookClosely(smeared, own, new Map([[9, before]]), 0.5).shows).not.toBe('other');
});

test('a torn band, a block of another picture, and a picture of nothing are strange', () => {
  const own = dot(10);
  const torn = picture((x, y) => (y >= 30 && y < 62 ? 20 + ((x * 37 + y * 91) % 200) : slope(x, y)));
  const block = picture((x, y) => (x >= 96 && x < 112 && y >= 16 && y < 32 ? 200 : slope(x, y)));
  const nothing = picture(() => 16);
  for (const written of [torn, block, nothing]) expect(lookClosely(written, own, others, 0.8)).toEqual({ shows: 'strange' });
});

test('a texture whose detail a coder took away is still itself; one that lost all of it is not', () => {
  const texture = picture((x, y) => 128 + (((x >> 1) + (y >> 1)) % 2 ? 60 : -60));
  const soft = picture((x, y) => 128 + (((x >> 1) + (y >> 1)) % 2 ? 30 : -30));
  const flat = picture(() => 128);
  expect(lookClosely(soft, texture, new Map(), 5)).toEqual({ shows: 'own' });
  expect(lookClosely(flat, texture, new Map(), 1)).toEqual({ shows: 'strange' });
});

test('how far a picture lies on the way to another one, whatever else coding did to it', () => {
  const plane = (value: (i: number) => number) => ({
    width: 32,
    height: 16,
    data: Uint8Array.from({ length: 512 }, (_, i) => value(i)),
  });
  const own = plane((i) => 60 + (i % 40));
  const other = plane((i) => 60 + (i % 40) + (i < 256 ? 10 : 0));
  const noisy = plane((i) => 60 + (i % 40) + (i < 256 ? 10 : 0) + ((i * 7919) % 7) - 3);
  expect(onTheWay(own, own, other)).toEqual({ share: 0, apart: 10 });
  expect(onTheWay(other, own, other).share).toBe(1);
  expect(onTheWay(noisy, own, other).share).toBeCloseTo(1, 1);
  expect(onTheWay(noisy, own, own)).toEqual({ share: 0, apart: 0 });
});
