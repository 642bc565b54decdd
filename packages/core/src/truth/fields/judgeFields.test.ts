import { HEIGHT, landscape, random, seen, WIDTH } from '../measure/samples/landscape.fixture.js';
import { FieldMeter } from './fieldMeter.js';
import { judgeFields, type SaidFields } from './judgeFields.js';

const noise = random(5);
const land = landscape(3);

/** Moments that a picture's upper and lower lines show. */
type Moments = readonly [upper: number, lower: number];

/** What is found of pictures of something that moves so far from one moment to the next. */
function fieldsOf(pictures: readonly Moments[], said: SaidFields = 'progressive', across = 1.5, down = 0) {
  const meter = new FieldMeter(WIDTH, HEIGHT / 2, HEIGHT / 2);
  const place = (moment: number): readonly [number, number] => [20 + across * moment, 10 + down * moment];
  for (const [upper, lower] of pictures) {
    const woven = seen(land, ...place(upper), noise);
    const other = seen(land, ...place(lower), noise);
    for (let y = 1; y < HEIGHT; y += 2) woven.set(other.subarray(y * WIDTH, (y + 1) * WIDTH), y * WIDTH);
    meter.push(woven);
  }
  return judgeFields(meter, said);
}

const span = (count: number): number[] => Array.from({ length: count }, (_, k) => k);
const progressive = (count: number, from = 0): Moments[] => span(count).map((k) => [from + 2 * k, from + 2 * k]);
const interlaced = (count: number, from = 0): Moments[] => span(count).map((k) => [from + 2 * k, from + 2 * k + 1]);
/** Film pictures A B C D as AA BB BC CD DD. */
const film = (count: number, from = 0): Moments[] =>
  span(count).map((k) => {
    const of = (field: number): number =>
      from + 2.5 * (([0, 0, 1, 1, 1, 2, 2, 3, 3, 3][field % 10] as number) + 4 * Math.floor(field / 10));
    return [of(2 * k), of(2 * k + 1)];
  });
const turned = (pictures: readonly Moments[]): Moments[] => pictures.map(([a, b]) => [b, a]);

test.each([
  ['sideways', 1.5, 0],
  ['slowly', 0.25, 0],
  ['upwards', 0, 1],
  ['aslant', 2, -0.7],
])('pictures of one moment have no order, those of two the one that they were taken in: %s', (_, across, down) => {
  expect(fieldsOf(progressive(40), 'progressive', across, down)).toMatchObject({ kind: 'none', first: null, flag: 'right' });
  expect(fieldsOf(interlaced(40), 'top', across, down)).toMatchObject({ kind: 'interlaced', first: 'top', flag: 'right' });
  expect(fieldsOf(turned(interlaced(40)), 'bottom', across, down)).toMatchObject({ kind: 'interlaced', first: 'bottom' });
});

test.each(['top', 'bottom'] as const)('2:3 woven by fields is found with its order: %s first', (first) => {
  const found = fieldsOf(first === 'top' ? film(60) : turned(film(60)), first);
  expect(found).toMatchObject({ kind: 'pulldown', first, flag: 'right', breaks: [] });
  expect(found.certainty).toBeGreaterThan(0.95);
});

test.each(['top', 'bottom'] as const)(
  'so is 2:3 of pictures that have nothing in common, by the fields that come again: %s first',
  (first) => {
    // Every moment is far from the one before.
    const found = fieldsOf(first === 'top' ? film(60) : turned(film(60)), first, 37, 23);
    expect(found).toMatchObject({ kind: 'pulldown', first, breaks: [] });
    expect(found.certainty).toBeGreaterThan(0.95);
    expect(fieldsOf(progressive(60), 'progressive', 37, 23).kind).toBe('none');
    const padded = span(60).map((k): Moments => [2 * Math.floor(k / 2), 2 * Math.floor(k / 2)]);
    expect(fieldsOf(padded, 'progressive', 37, 23).kind).toBe('none');
  },
);

test('a flag that says otherwise is wrong where that is proved, and absent where the file says nothing', () => {
  expect(fieldsOf(interlaced(40), 'bottom').flag).toBe('wrong');
  expect(fieldsOf(interlaced(40), 'progressive').flag).toBe('wrong');
  expect(fieldsOf(progressive(40), 'top').flag).toBe('wrong');
  expect(fieldsOf(interlaced(40), null).flag).toBe('absent');
  // Where nothing moves nothing is proved.
  expect(
    fieldsOf(
      span(40).map(() => [0, 0]),
      'top',
    ).flag,
  ).toBe('right');
});

test('stretches differ, and each has its kind and its first picture', () => {
  const found = fieldsOf([...progressive(50), ...interlaced(50, 100)]);
  expect(found).toMatchObject({ kind: 'mixed', first: 'top' });
  expect(found.stretches.map((s) => [s.from, s.to, s.kind])).toEqual([
    [0, 50, 'none'],
    [50, 100, 'interlaced'],
  ]);
  const reel = fieldsOf([...film(60), ...interlaced(40, 120)]);
  // The picture between both is of both.
  expect(reel.stretches.map((s) => s.kind)).toEqual(['pulldown', 'interlaced']);
  expect(Math.abs((reel.stretches[1]?.from ?? 0) - 60)).toBeLessThanOrEqual(1);
});

test('a still start says nothing against what comes', () => {
  const found = fieldsOf([...span(30).map((): Moments => [0, 0]), ...interlaced(40)]);
  expect(found).toMatchObject({ kind: 'interlaced', stretches: [{ from: 0, to: 70 }] });
});

test('where a still breathes with its coder, what begins to move elsewhere is looked at all the same', () => {
  const meter = new FieldMeter(WIDTH, HEIGHT / 2, HEIGHT / 2);
  const still = seen(land, 60, 40, () => 0.5);
  span(60).forEach((k) => {
    const picture = still.slice();
    // Every sixth picture the left is one step lighter.
    if (k % 6 === 0) for (let i = 0; i < picture.length; i++) if (i % WIDTH < WIDTH / 3) picture[i] = (picture[i] as number) + 1;
    const moment = Math.max(0, k - 30);
    for (const parity of [0, 1]) {
      const moved = seen(land, 20 + 3 * (2 * moment + parity), 10, () => 0.5);
      for (let y = parity; y < HEIGHT; y += 2)
        picture.set(moved.subarray(y * WIDTH + (WIDTH >> 1), (y + 1) * WIDTH), y * WIDTH + (WIDTH >> 1));
    }
    meter.push(picture);
  });
  expect(judgeFields(meter, 'top')).toMatchObject({ kind: 'interlaced', first: 'top' });
});

test('a beat that breaks has a place', () => {
  const found = fieldsOf(film(80).filter((_, k) => k !== 42 && k !== 43));
  expect(found).toMatchObject({ kind: 'pulldown', first: 'top' });
  expect(found.breaks).toHaveLength(1);
  expect(Math.abs((found.breaks[0] as number) - 42)).toBeLessThanOrEqual(1);
});

test('fields that a coder has nearly made one are told with doubt', () => {
  const merged = fieldsOf(span(60).map((k): Moments => [2 * k, 2 * k + 0.4]));
  expect(merged.certainty).toBeLessThan(0.8);
  expect(fieldsOf(progressive(60)).certainty).toBeGreaterThan(0.99);
});

test('what jumps now and then is not surely film, though all its jumps fit the beat', () => {
  // Something new every five fields: each time where a beat of 2:3 lets it.
  const moment = (field: number): number => Math.floor(field / 5);
  const jumps = span(100).map((k): Moments => [moment(2 * k + 1), moment(2 * k)]);
  const found = fieldsOf(jumps, 'bottom', 2);
  expect(found.kind === 'pulldown' && found.certainty >= 0.9).toBe(false);
});

test.each([
  ['whole', 'none', null],
  ['fields', 'interlaced', 'top'],
] as const)('a smooth shade that sinks is told by less than a step from line to line: %s', (way, kind, first) => {
  // Fields were made smaller: their lines lie apart by less than half a line of theirs.
  const smaller = 2.8;
  const meter = new FieldMeter(WIDTH, HEIGHT / 2, (HEIGHT / 2) * smaller);
  const light = (x: number, line: number, moment: number): number => {
    const [across, down] = [x - WIDTH / 2, line - HEIGHT / 6 - 0.35 * moment];
    return Math.round(60 + 130 * Math.exp(-(across * across + 4 * down * down) / (2 * 40 ** 2)));
  };
  for (let k = 0; k < 40; k++) {
    const woven = new Uint8Array(WIDTH * HEIGHT);
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        const isLower = y % 2 === 1;
        woven[y * WIDTH + x] = light(x, (y >> 1) + (isLower ? 0.5 / smaller : 0), k + (way === 'fields' && isLower ? 0.5 : 0));
      }
    meter.push(woven);
  }
  expect(judgeFields(meter, null)).toMatchObject({ kind, first });
});
