import { type Rate, rate } from '@thawline/core/time';
import { Sensor } from './canvas.js';
import { birds, columns, fire, flight, kitchen, meadow, seabed, signs, studio, wiper } from './laterScenes.js';
import { movingScenes } from './moving.js';
import { archive, crowd, scroll, water } from './oddScenes.js';
import { random } from './random.js';
import { icicles, jetty, lake, ridge, type Scene, skiff } from './scenes.js';
import { credits, drawn, focus, night, snowfall, spiral, split, stage, surf, window, worn } from './unlikeScenes.js';

/** What does not belong into a clip, and where. Numbers are stored pictures, 0-based. */
export interface OddTruth {
  /** First pictures of shots, the first shot's left out. */
  readonly cuts: readonly number[];
  readonly faults: readonly { readonly picture: number; readonly kind: string }[];
  /** First pictures after missing ones. */
  readonly jumps: readonly number[];
  /** Pictures a second of what pictures were left out of by a beat; null where none were. */
  readonly madeFrom: number | null;
}

/** A clip of one of the places. */
export interface PlacedTrial {
  readonly name: string;
  /** What is to be told of it; trials of one kind are counted together. */
  readonly about: string;
  /** Scenes that nothing was tuned on. */
  readonly keptOut: boolean;
  readonly rate: Rate;
  readonly width: number;
  readonly height: number;
  readonly pictures: number;
  /** Packed yuv420p. */
  readonly cook: () => Generator<Uint8Array>;
}

/** A clip of new pictures with cuts, faults, skips, fades or flashes. */
export interface OddTrial extends PlacedTrial {
  readonly truth: OddTruth;
}

export const [WIDTH, HEIGHT, PICTURES] = [480, 272, 90] as const;
const LUMA = WIDTH * HEIGHT;

/** A scene by the number of its picture. */
export type Shot = (picture: number) => Uint8Array;

interface Place {
  readonly name: string;
  readonly keptOut: boolean;
  /** Other seeds of one place are other shots of its kind. */
  readonly shot: (seed: number) => Shot;
}

/** Built when it is looked at: textures take their time. */
function shotOf(build: () => Scene, perPicture: number, noise: number, seed: number): Shot {
  const sensor = new Sensor(seed, noise);
  let scene: Scene | null = null;
  return (picture) => {
    scene ??= build();
    return sensor.expose(scene(picture * perPicture, WIDTH, HEIGHT), WIDTH, HEIGHT);
  };
}

/** Places that checks were tuned on, and those that nothing was tuned on: new ones take the place of these once they were looked at. */
export function places(): Place[] {
  const of = (name: string, keptOut: boolean, build: (seed: number) => Scene, noise = 1.4): Place => ({
    name,
    keptOut,
    shot: (seed) => shotOf(() => build(seed), 1 / 25, noise, seed),
  });
  const looked = [
    'still camera, slow pan',
    'hand-held',
    'zoom',
    'rotation',
    'crossing objects',
    'thin lines',
    'noise',
    'talking',
  ];
  return [
    of('pan', false, (seed) => jetty(seed, 200)),
    of('floes', false, (seed) => lake({ seed, speed: 1.2, floes: 18 })),
    of('drift', false, (seed) => ridge(seed, 60), 1.2),
    ...looked.map(
      (name): Place => ({
        name,
        keptOut: false,
        shot: (seed) => {
          const moving = movingScenes(seed).find((m) => m.name === name);
          if (!moving) throw new Error(`no scene ${name}`);
          return shotOf(() => moving.scene, 1, Math.max(0.8, moving.noise), seed);
        },
      }),
    ),
    of('drops', false, icicles),
    of('skiff', false, (seed) => skiff(seed, [], 1), 2),
    of('writing', false, (seed) => scroll(seed, 70), 0.8),
    of('crowd', false, (seed) => crowd(seed)),
    of('old film', false, (seed) => archive(seed, jetty(seed, 120), 25), 3),
    of('water', false, water),
    of('credits', false, (seed) => credits(seed), 0.6),
    of('night', false, night, 4.5),
    of('stage', false, stage, 2.5),
    of('window', false, window),
    of('drawn', false, drawn, 0),
    of('spiral', false, spiral, 0.6),
    of('surf', false, surf),
    of('worn film', false, (seed) => worn(seed, lake({ seed, speed: 1.5, floes: 16 }), 25), 6),
    of('snowfall', false, snowfall, 1.8),
    of('split', false, split),
    of('focus', false, focus),
    of('fire', false, fire),
    of('meadow', true, meadow),
    of('flight', true, flight, 1.8),
    of('studio', true, studio, 1),
    of('birds', false, birds),
    of('wiper', false, wiper, 3),
    of('signs', false, signs, 2.2),
    of('columns', true, columns),
    of('seabed', true, seabed),
    of('kitchen', false, kitchen, 1),
  ];
}

type Change = (shot: Shot, next: () => number, other: Shot) => { picture: (k: number) => Uint8Array; truth: Partial<OddTruth> };

const plain = (luma: number) => (): Uint8Array => new Uint8Array((LUMA * 3) / 2).fill(luma, 0, LUMA).fill(128, LUMA);

/** Three places, far from each other and from the ends. */
const spots = (next: () => number): number[] => [15, 40, 65].map((k) => k + Math.floor(next() * 10));

function once(kind: string, fault: (k: number, shot: Shot, other: Shot) => Uint8Array): Change {
  return (shot, next, other) => {
    const at = spots(next);
    return {
      picture: (k) => (at.includes(k) ? fault(k, shot, other) : shot(k)),
      truth: { faults: at.map((picture) => ({ picture, kind })) },
    };
  };
}

/** A band whose lines come from elsewhere in the picture. */
function scrambled(picture: Uint8Array, k: number): Uint8Array {
  const out = picture.slice();
  const first = 40 + ((k * 37) % 120);
  for (let y = first; y < first + 56; y++) {
    const from = ((y * 89 + k * 31) % HEIGHT) * WIDTH;
    const shift = (y * 53) % WIDTH;
    for (let x = 0; x < WIDTH; x++) out[y * WIDTH + x] = picture[from + ((x + shift) % WIDTH)] as number;
  }
  return out;
}

const CHANGES: Record<string, Change> = {
  clean: (shot) => ({ picture: shot, truth: {} }),
  black: once('black', plain(16)),
  white: once('white', plain(235)),
  foreign: once('foreign', (k, _shot, other) => other(k)),
  damaged: once('damaged', (k, shot) => scrambled(shot(k), k)),
  swapped: (shot, next) => {
    const at = spots(next);
    return {
      picture: (k) => shot(at.includes(k) ? k + 1 : at.includes(k - 1) ? k - 1 : k),
      truth: { faults: at.map((picture) => ({ picture, kind: 'swapped' })) },
    };
  },
  backward: once('backward', (k, shot) => shot(k - 5)),
  'made from 30': (shot) => ({ picture: (k) => shot(Math.floor(k * 1.2 + 1e-9)), truth: { madeFrom: 30 } }),
  fade: (shot) => ({
    picture: (k) => {
      const light = k < 30 ? 1 : k < 45 ? (45 - k) / 15 : k < 50 ? 0 : k < 65 ? (k - 50) / 15 : 1;
      return shot(k).map((value, i) => (i < LUMA ? 16 + (value - 16) * light : 128 + (value - 128) * light));
    },
    truth: {},
  }),
  dissolve: (shot, _next, other) => ({
    picture: (k) => {
      const share = Math.max(0, Math.min(1, (k - 35) / 20));
      const [from, to] = [shot(k), other(k)];
      return from.map((value, i) => value * (1 - share) + (to[i] as number) * share);
    },
    truth: {},
  }),
  flash: (shot, next) => {
    const at = spots(next);
    return {
      picture: (k) => (at.includes(k) ? shot(k).map((v, i) => (i < LUMA ? Math.min(235, 1.5 * v + 30) : v)) : shot(k)),
      truth: {},
    };
  },
  skips: (shot, next) => {
    const at = spots(next);
    return { picture: (k) => shot(k + at.filter((a) => k >= a).length), truth: { jumps: at } };
  },
};

/** Shots of so many pictures, each of another place of its kind. */
function cutEvery(length: number, place: Place, seed: number): { picture: (k: number) => Uint8Array; truth: OddTruth } {
  const shots = Array.from({ length: Math.ceil(PICTURES / length) }, (_, i) => place.shot(seed + 101 * i));
  const cuts = Array.from({ length: shots.length - 1 }, (_, i) => (i + 1) * length);
  return {
    picture: (k) => (shots[Math.floor(k / length)] as Shot)((k % length) + 5 * Math.floor(k / length)),
    truth: { cuts, faults: [], jumps: [], madeFrom: null },
  };
}

/** Another seed gives other places, noise and spots. @param seed 0 to 10,000 */
export function oddTrials(seed: number): OddTrial[] {
  return places().flatMap((place, p) => {
    const own = 5000 + seed * 617 + p * 29;
    const base = { keptOut: place.keptOut, rate: rate(25), width: WIDTH, height: HEIGHT, pictures: PICTURES };
    function trial(about: string, build: () => { picture: (k: number) => Uint8Array; truth: Partial<OddTruth> }): OddTrial {
      const { truth } = build();
      return {
        ...base,
        name: `${about}, ${place.name}`,
        about,
        truth: { cuts: [], faults: [], jumps: [], madeFrom: null, ...truth },
        *cook() {
          const { picture } = build();
          for (let k = 0; k < PICTURES; k++) yield picture(k);
        },
      };
    }
    return [
      ...Object.entries(CHANGES).map(([about, change]) =>
        trial(about, () => change(place.shot(own), random(own), place.shot(own + 7))),
      ),
      ...[8, 30].map((length) => trial(`a cut every ${length}`, () => cutEvery(length, place, own))),
    ];
  });
}
