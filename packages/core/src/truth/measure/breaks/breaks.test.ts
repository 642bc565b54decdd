import { judge, type Verdict } from '../../verdict/verdict.js';
import { ChangeMeter } from '../changeMeter.js';
import { HEIGHT, landscape, random, seen, WIDTH } from '../samples/landscape.fixture.js';

const [shore, forest, ice] = [landscape(1), landscape(2), landscape(3)];

/** A shot of the shore that moves by so much a picture. */
const pan =
  (by: number, noise: () => number, of = shore) =>
  (k: number): Uint8Array =>
    seen(of, k * by, 40, noise);

function judged(count: number, picture: (k: number) => Uint8Array): Verdict {
  const meter = new ChangeMeter(WIDTH, HEIGHT);
  for (let k = 0; k < count; k++) meter.push(picture(k));
  return judge(meter.finish(), 25);
}
const told = ({ cuts, faults, jumps, held, blends, kind }: Verdict) => ({
  cuts,
  faults: faults.map((f) => `${f.picture} ${f.kind}`),
  jumps,
  held: held.length,
  blends: blends.length,
  kind,
});
const nothing = { cuts: [], faults: [], jumps: [], held: 0, blends: 0, kind: 'new' };
const flat = (luma: number) => new Uint8Array(WIDTH * HEIGHT).fill(luma);

test.each([0.6, 2, 5, 9])('a pan of %d samples a picture has nothing in it', (by) => {
  expect(told(judged(60, pan(by, random(1))))).toEqual(nothing);
});

test.each([8, 12])('a cut every %i pictures is a cut and nothing else', (every) => {
  const noise = random(2);
  const places = [shore, forest, ice];
  const verdict = judged(60, (k) => {
    const shot = Math.floor(k / every);
    return seen(places[shot % 3] ?? shore, 90 * shot + k * (1 + (shot % 3)), 20 * shot, noise);
  });
  const cuts = Array.from({ length: Math.ceil(60 / every) - 1 }, (_, i) => (i + 1) * every);
  expect(told(verdict)).toEqual({ ...nothing, cuts });
});

test.each([
  ['black', () => flat(16)],
  ['white', () => flat(235)],
  ['foreign', () => seen(forest, 300, 300, random(9))],
] as const)('a %s picture is told with its place, and those beside it are as they were', (kind, fault) => {
  const shot = pan(2, random(3));
  const verdict = judged(60, (k) => (k === 20 || k === 41 ? fault() : shot(k)));
  expect(told(verdict)).toEqual({ ...nothing, faults: [`20 ${kind}`, `41 ${kind}`] });
});

test('a scrambled band is damage', () => {
  const shot = pan(2, random(4));
  const verdict = judged(60, (k) => {
    const picture = shot(k);
    if (k === 30) for (let i = 56 * WIDTH; i < 76 * WIDTH; i++) picture[i] = (i * 73 + (((i >> 5) * 151) % 97)) & 255;
    return picture;
  });
  expect(told(verdict)).toEqual({ ...nothing, faults: ['30 damaged'] });
});

test('two pictures that are exchanged, and one that comes again from five before', () => {
  const shot = pan(2, random(5));
  const swapped = judged(60, (k) => shot(k === 30 ? 31 : k === 31 ? 30 : k));
  expect(told(swapped)).toEqual({ ...nothing, faults: ['30 swapped'] });
  const backward = judged(60, (k) => shot(k === 30 ? 25 : k));
  expect(told(backward)).toEqual({ ...nothing, faults: ['30 backward'] });
});

test.each([9, 12])(
  'one that comes again in a quick pan of %d samples, coded anew, is an earlier one and not a foreign one',
  (by) => {
    const noise = random(5);
    const shot = pan(by, noise);
    const verdict = judged(60, (k) =>
      k === 30 ? shot(25).map((luma) => Math.max(0, Math.min(255, luma + 14 * (noise() - 0.5)))) : shot(k),
    );
    expect(told(verdict).faults).toEqual(['30 backward']);
  },
);

test('a clip that runs round shows each picture again, and that is no fault', () => {
  const shot = pan(3, random(6));
  expect(told(judged(60, (k) => shot(k % 5))).faults).toEqual([]);
});

test('a fade to black and back is neither a fault nor a hold, and mixes nothing', () => {
  const shot = pan(1.5, random(7));
  const verdict = judged(70, (k) => {
    const light = k < 20 ? 1 : k < 30 ? (30 - k) / 10 : k < 38 ? 0 : k < 50 ? (k - 38) / 12 : 1;
    return shot(k).map((luma) => 16 + (luma - 16) * light);
  });
  expect({ ...told(verdict), blends: 0 }).toEqual(nothing);
  expect(verdict.trueRate).toBe(25);
});

test.each([2, 4, 8])('pictures missing from a pan of %d samples are found, and how many', (by) => {
  const shot = pan(by, random(8));
  const verdict = judged(80, (k) => shot(k + (k >= 20 ? 1 : 0) + (k >= 55 ? 2 : 0)));
  expect(told(verdict)).toEqual({ ...nothing, jumps: [20, 55] });
  if (by < 8) expect(verdict.missing).toEqual([1, 2]);
});

test('a picture that is lost behind a hold is both: the hold, and the step over it', () => {
  const shot = pan(3, random(10));
  const lost = judged(70, (k) => shot(k === 30 ? 29 : k));
  expect([lost.held, lost.jumps]).toEqual([[30], [31]]);
  const late = judged(70, (k) => shot(k < 30 ? k : k - 1));
  expect([late.held, late.jumps]).toEqual([[30], []]);
});

test('pictures without anything moving are the same samples, and have no rate', () => {
  const steady = seen(shore, 0, 0, random(11));
  const other = seen(shore, 8, 0, random(12));
  const verdict = judged(80, (k) => (k < 31 ? steady : k < 33 ? other : steady));
  expect(verdict.unchanged).toHaveLength(77);
  expect(verdict.kind).toBe('still');
  expect(verdict.stretches.every((s) => s.trueRate === null)).toBe(true);
});

/** A shot as worn film shows it: it weaves, flickers and has other dust in each picture. */
function worn(shot: (k: number, dx: number, dy: number) => Uint8Array, next: () => number) {
  return (k: number): Uint8Array => {
    const picture = shot(k, next() - 0.5, next() - 0.5);
    const light = 1 + 0.06 * (next() - 0.5);
    for (let i = 0; i < picture.length; i++) picture[i] = Math.min(255, (picture[i] as number) * light + 50 * (next() - 0.5));
    for (let d = 0; d < 9; d++) {
      const [x, y] = [Math.floor(next() * (WIDTH - 2)), Math.floor(next() * (HEIGHT - 2))];
      for (let j = 0; j < 2; j++) picture.fill(d % 2 ? 235 : 20, (y + j) * WIDTH + x, (y + j) * WIDTH + x + 2);
    }
    return picture;
  };
}

test('a cut in worn film is one, and what wears it is none', () => {
  const next = random(31);
  const verdict = judged(
    60,
    worn((k, dx, dy) => seen(k < 30 ? shore : forest, 1.2 * k + dx, 40 + dy, next), next),
  );
  expect(told(verdict)).toEqual({ ...nothing, cuts: [30] });
});

test('where small things fall before a still ground a missing picture is no cut', () => {
  const flakes = Array.from({ length: 90 }, (_, i) => [(i * 61) % WIDTH, (i * 37) % HEIGHT, 3 + (i % 4)] as const);
  const noise = random(32);
  const verdict = judged(60, (k) => {
    const moment = k < 30 ? k : k + 1;
    const picture = seen(ice, 10, 10, noise);
    for (const [x, y, fall] of flakes)
      for (let j = 0; j < 2; j++) {
        const row = (y + fall * moment + j) % HEIGHT;
        picture.fill(245, row * WIDTH + x, row * WIDTH + Math.min(WIDTH, x + 2));
      }
    return picture;
  });
  expect(verdict.cuts).toEqual([]);
});

test('lamps that go on and off all at once are neither cuts nor faults', () => {
  const noise = random(41);
  const verdict = judged(70, (k) => {
    const picture = seen(forest, 1.5 * k, 40, noise);
    const isOn = (lamp: number): boolean => (Math.floor(k / 9) * 7 + lamp * 3) % 5 > 1 === (lamp % 2 === 0);
    return picture.map((luma, i) => {
      const x = i % WIDTH;
      const lamp = Math.floor(x / 40);
      const beam = Math.max(0, 1 - ((x - 40 * lamp - 20 - i / WIDTH / 12) / 18) ** 2);
      return Math.min(255, luma * 0.6 + (isOn(lamp) ? 80 * beam : 0));
    });
  });
  expect([verdict.cuts, verdict.faults]).toEqual([[], []]);
});

test('a flash that leaves nothing but light is no cut', () => {
  const shot = pan(2, random(42));
  const verdict = judged(60, (k) => (k === 25 || k === 44 ? shot(k).map((luma) => Math.min(255, 1.3 * luma + 70)) : shot(k)));
  expect(told(verdict)).toEqual(nothing);
});

test('a black picture between two shots is one, and they are two', () => {
  const noise = random(43);
  const verdict = judged(60, (k) => (k === 30 ? flat(16) : seen(k < 30 ? shore : ice, 2 * k, 40, noise)));
  expect(told(verdict)).toEqual({ ...nothing, cuts: [31], faults: ['30 black'] });
});

test('a foreign picture is not taken for a damaged one, nor a damaged one for foreign', () => {
  const shot = pan(1, random(44));
  const noise = random(45);
  const other = (): Uint8Array => {
    const picture = seen(forest, 200, 120, noise);
    // The lower edge is the same, as that of a deck or a table.
    picture.set(shot(20).subarray(84 * WIDTH), 84 * WIDTH);
    return picture;
  };
  const verdict = judged(60, (k) => {
    if (k === 20) return other();
    const picture = shot(k);
    if (k === 40) picture.copyWithin(0, 40 * WIDTH, 70 * WIDTH);
    return picture;
  });
  expect(told(verdict).faults).toEqual(['20 foreign', '40 damaged']);
});

test('a bar that swings shows each picture again on its way back, and that is no fault', () => {
  const noise = random(51);
  const verdict = judged(70, (k) => {
    const picture = seen(shore, 0.4 * k, 40, noise).map((luma) => 40 + 0.25 * luma);
    const angle = 0.3 + 2.5 * Math.abs(((k / 9) % 2) - 1);
    for (let i = 0; i < picture.length; i++) {
      const [x, y] = [(i % WIDTH) - WIDTH / 2, HEIGHT * 1.05 - Math.floor(i / WIDTH)];
      const [along, off] = [x * Math.cos(angle) + y * Math.sin(angle), x * Math.sin(angle) - y * Math.cos(angle)];
      if (along > 0 && Math.abs(off) < 4) picture[i] = 12;
    }
    return picture;
  });
  expect([verdict.cuts, verdict.faults]).toEqual([[], []]);
});

test('signs that go on and off hold nothing of what walks below them', () => {
  const noise = random(52);
  const verdict = judged(90, (k) => {
    const picture = seen(forest, 0, 0, noise).map((luma) => 0.5 * luma);
    for (let sign = 0; sign < 5; sign++) {
      const isOn = (k + 5 * sign) % (9 + 2 * sign) < 5 + sign;
      for (let y = 8; y < 40; y++)
        for (let x = 6 + 31 * sign; x < 26 + 31 * sign; x++) picture[y * WIDTH + x] = isOn && x % 5 < 3 === y % 7 < 5 ? 220 : 25;
    }
    for (let walker = 0; walker < 4; walker++) {
      const at = 20 + 38 * walker + (walker % 2 ? 0.5 : -0.5) * (k - 45);
      for (let y = 60; y < HEIGHT; y++)
        for (let x = Math.floor(at) - 6; x <= at + 6; x++) {
          const share = Math.max(0, Math.min(1, 5 - Math.abs(x - at)));
          if (x >= 0 && x < WIDTH) picture[y * WIDTH + x] = (picture[y * WIDTH + x] as number) * (1 - share) + 20 * share;
        }
    }
    return picture;
  });
  expect(verdict.held).toEqual([]);
});

test('a picture that does not belong is one where others have next to nothing in them, and no cut', () => {
  const noise = random(53);
  const hazy = (k: number): Uint8Array =>
    Uint8Array.from(
      { length: WIDTH * HEIGHT },
      (_, i) => 90 + 0.4 * (i % WIDTH) + 6 * Math.sin((i / WIDTH + k) / 30) + 6 * (noise() - 0.5),
    );
  const damaged = hazy(41);
  for (let i = 20 * WIDTH; i < 36 * WIDTH; i++) damaged[i] = (i * 73 + (((i >> 5) * 151) % 97)) & 255;
  const verdict = judged(70, (k) => (k === 22 ? seen(forest, 60, 60, noise) : k === 41 ? damaged : hazy(k)));
  expect([verdict.cuts, told(verdict).faults]).toEqual([[], ['22 foreign', '41 damaged']]);
});

test('a cut to a picture with next to nothing in it is one, and so is the one back', () => {
  const noise = random(54);
  const sky = (k: number): Uint8Array =>
    Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => 120 + 0.5 * (i % WIDTH) + 3 * Math.sin(k / 9) + 2 * (noise() - 0.5));
  const verdict = judged(90, (k) => (k >= 30 && k < 60 ? sky(k) : seen(shore, 2 * k, 40, noise)));
  expect([verdict.cuts, verdict.faults]).toEqual([[30, 60], []]);
});

test('nothing is missing from slow motion that drowns in grain', () => {
  const noise = random(61);
  const verdict = judged(90, (k) =>
    seen(shore, 0.5 * k, 40, noise).map((luma) => 110 + 0.1 * (luma - 128) + 8 * (noise() - 0.5)),
  );
  expect(verdict.jumps).toEqual([]);
});
