import { rate } from '@thawline/core/time';
import { HEIGHT, PICTURES, type PlacedTrial, places, type Shot, WIDTH } from './oddTrials.js';
import { random } from './random.js';

/** A clip whose picture has parts of different rates. */
export interface PartTrial extends PlacedTrial {
  readonly truth: {
    /** Of the fastest part. */
    readonly trueRate: number;
    /** The slower part, in pixels, and its rate; null where all has one rate. */
    readonly part: (Box & { readonly trueRate: number }) | null;
  };
}

interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const LUMA = WIDTH * HEIGHT;
const INSET: Box = { x: 288, y: 144, width: 160, height: 96 };
const LEFT: Box = { x: 0, y: 0, width: WIDTH / 2, height: HEIGHT };

/** Puts what `inside` says from one picture over another, luma and colour. */
function over(under: Uint8Array, upper: Uint8Array, inside: (x: number, y: number) => boolean, dx = 0, dy = 0): Uint8Array {
  const out = under.slice();
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const [fx, fy] = [x - dx, y - dy];
      if (fx < 0 || fy < 0 || fx >= WIDTH || fy >= HEIGHT || !inside(fx, fy)) continue;
      out[y * WIDTH + x] = upper[fy * WIDTH + fx] as number;
      const [to, from] = [(y >> 1) * (WIDTH >> 1) + (x >> 1), (fy >> 1) * (WIDTH >> 1) + (fx >> 1)];
      for (const plane of [LUMA, LUMA + LUMA / 4]) out[plane + to] = upper[plane + from] as number;
    }
  return out;
}

const within = (box: Box) => (x: number, y: number) =>
  x >= box.x && y >= box.y && x < box.x + box.width && y < box.y + box.height;

/** Of so many pictures one is new, by its number: every third, four of five. */
type Beat = (k: number) => number;
const everyOf =
  (n: number): Beat =>
  (k) =>
    Math.floor(k / n) * n;
const allButOneIn =
  (n: number): Beat =>
  (k) =>
    k - Math.floor(k / n);

type Made = { readonly picture: Shot; readonly trueRate: number; readonly part: PartTrial['truth']['part'] };

function boxed(box: Box, beat: Beat, newShare: number): (shot: Shot, other: Shot) => Made {
  return (shot, other) => ({
    picture: (k) => over(shot(k), other(beat(k)), within(box)),
    trueRate: 25,
    part: { ...box, trueRate: 25 * newShare },
  });
}

/** A drawn figure, its own pattern within, that goes its way or moves up and down in its place; on threes. */
function figure(goes: boolean, ground: (shot: Shot) => Shot, trueRate: number): (shot: Shot, other: Shot, seed: number) => Made {
  return (shot, other, seed) => {
    const under = ground(shot);
    const next = random(seed);
    const [size, top] = [70 + 20 * next(), 60 + 60 * next()];
    const inside = (x: number, y: number): boolean => ((x - 90) / size) ** 2 + ((y - top - 50) / (size * 0.9)) ** 2 < 1;
    const place = (k: number): [number, number] =>
      goes ? [2.4 * k, 10 * Math.sin(k / 8)] : [180 + 26 * Math.sin(k / 5), 18 * Math.cos(k / 4)];
    const own = other(0);
    const across = goes ? WIDTH : 2 * size + 52;
    return {
      picture: (k) => {
        const [dx, dy] = place(everyOf(3)(k)).map((d) => 2 * Math.round(d / 2)) as [number, number];
        return over(under(k), own, inside, dx, dy);
      },
      trueRate,
      part:
        trueRate < 25
          ? null
          : { x: goes ? 0 : 90 + 180 - 26 - size, y: top + 50 - size, width: across, height: 2 * size, trueRate: 25 / 3 },
    };
  };
}

const KINDS: Record<string, (shot: Shot, other: Shot, seed: number) => Made> = {
  'inset on twos': boxed(INSET, everyOf(2), 1 / 2),
  'inset on threes': boxed(INSET, everyOf(3), 1 / 3),
  'inset, one in five held': boxed(INSET, allButOneIn(5), 4 / 5),
  'split screen': boxed(LEFT, everyOf(2), 1 / 2),
  'figure on threes in its place': figure(false, (shot) => shot, 25),
  'figure on threes that goes by': figure(true, (shot) => shot, 25),
  'figure on threes, still ground': figure(true, (shot) => () => shot(0), 25 / 3),
  'one rate in both': (shot, other) => ({
    picture: (k) => over(shot(k), other(k), within(INSET)),
    trueRate: 25,
    part: null,
  }),
  'all on twos': (shot, other) => ({
    picture: (k) => over(shot(everyOf(2)(k)), other(everyOf(2)(k)), within(INSET)),
    trueRate: 12.5,
    part: null,
  }),
};

/** Another seed gives other places and noise. @param seed 0 to 10,000 */
export function partTrials(seed: number): PartTrial[] {
  const all = places();
  return all.flatMap((place, p) => {
    const own = 9000 + seed * 733 + p * 31;
    // The other part is of another place that is as much looked at.
    const others = all.filter((o) => o.keptOut === place.keptOut && o !== place);
    return Object.entries(KINDS).map(([about, kind], i): PartTrial => {
      const build = (): Made => kind(place.shot(own), (others[(p + i) % others.length] as typeof place).shot(own + 7), own);
      const { trueRate, part } = build();
      return {
        ...{ name: `${about}, ${place.name}`, about, keptOut: place.keptOut, rate: rate(25) },
        ...{ width: WIDTH, height: HEIGHT, pictures: PICTURES, truth: { trueRate, part } },
        *cook() {
          const { picture } = build();
          for (let k = 0; k < PICTURES; k++) yield picture(k);
        },
      };
    });
  });
}
