import { Sensor } from './canvas.js';
import { normal, random } from './random.js';
import type { Scene } from './scenes.js';
import { woven } from './woven.js';

/** What one stored picture is made of; numbers are source pictures, as the camera took them. */
export type Made =
  | { readonly kind: 'one'; readonly source: number }
  /** (1 - share) of `source` and `share` of `other`. */
  | { readonly kind: 'mix'; readonly source: number; readonly other: number; readonly share: number }
  /** Upper lines (0, 2, 4 …) of one picture, lower lines of another. */
  | { readonly kind: 'fields'; readonly upper: number; readonly lower: number }
  /** As a motion estimator makes it: the moment between, its noise averaged away, its detail a little softened. */
  | { readonly kind: 'made'; readonly seconds: number };

/** What is done to a picture after it was repeated, mixed or woven: the last step before the file. */
export interface After {
  /** Noise that is new in every stored picture, standard deviation in 8-bit steps. */
  readonly freshNoise?: number;
  /** Light of stored picture k: a multiple and an addition, in 8-bit steps. */
  readonly light?: (k: number) => { readonly times: number; readonly plus: number };
  /** A counter burnt in that is another in every stored picture. */
  readonly counter?: boolean;
  /** Black bars above and below, each this share of the height. */
  readonly letterbox?: number;
}

export interface Recipe {
  readonly width: number;
  readonly height: number;
  readonly seed: number;
  /** Luma noise of the sensor, standard deviation in 8-bit steps. */
  readonly noise: number;
  /** What source picture `source` looks at, and when. */
  readonly shot: (source: number) => { readonly scene: Scene; readonly seconds: number };
  readonly made: readonly Made[];
  readonly after: After;
}

/** Source pictures kept: a recipe never reaches back further. */
const KEPT = 4;

/** Carries a recipe out: packed yuv420p pictures, in order. A repeated source picture is the same picture, noise and all. */
export function* cook(recipe: Recipe): Generator<Uint8Array> {
  const { width, height, made, after } = recipe;
  const sensor = new Sensor(recipe.seed, recipe.noise);
  const clean = new Sensor(recipe.seed + 1, recipe.noise * 0.7);
  const taken = new Map<number, Uint8Array>();
  const take = (source: number): Uint8Array => {
    const known = taken.get(source);
    if (known) return known;
    const { scene, seconds } = recipe.shot(source);
    const picture = sensor.expose(scene(seconds, width, height), width, height);
    taken.set(source, picture);
    for (const key of taken.keys()) if (key < source - KEPT) taken.delete(key);
    return picture;
  };
  const finish = finisher(recipe);
  let k = 0;
  for (const one of made) {
    yield finish(picture(one), k++);
  }

  function picture(one: Made): Uint8Array {
    switch (one.kind) {
      case 'one':
        return take(one.source);
      case 'mix':
        return mixed(take(one.source), take(one.other), one.share);
      case 'fields':
        return woven(take(one.upper), take(one.lower), width, height);
      case 'made':
        return softened(clean.expose(recipe.shot(0).scene(one.seconds, width, height), width, height), width, height);
      default:
        return one satisfies never;
    }
  }

  function finisher({ seed }: Recipe): (from: Uint8Array, k: number) => Uint8Array {
    if (!after.freshNoise && !after.light && !after.counter && !after.letterbox) return (from) => from;
    const next = random(seed + 77);
    const table = Float32Array.from({ length: 1 << 16 }, () => normal(next) * (after.freshNoise ?? 0));
    return (from, at) => {
      const out = from.slice();
      const { times, plus } = after.light?.(at) ?? { times: 1, plus: 0 };
      let grain = Math.floor(next() * table.length);
      for (let i = 0; i < width * height; i++) {
        grain = (grain + 1) & 0xffff;
        const value = ((out[i] as number) - 16) * times + 16 + plus + (table[grain] as number);
        out[i] = value < 16 ? 16 : value > 235 ? 235 : value + 0.5;
      }
      if (after.letterbox) bars(out, width, height, Math.round(height * after.letterbox));
      if (after.counter) burnIn(out, width, height, at);
      return out;
    };
  }
}

function mixed(a: Uint8Array, b: Uint8Array, share: number): Uint8Array {
  return Uint8Array.from(a, (value, i) => value * (1 - share) + (b[i] as number) * share + 0.5);
}

/** A light blur of luma along lines: (1, 6, 1) / 8. */
function softened(picture: Uint8Array, width: number, height: number): Uint8Array {
  const out = picture.slice();
  for (let y = 0; y < height; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      out[i] = ((picture[i - 1] as number) + 6 * (picture[i] as number) + (picture[i + 1] as number) + 4) >> 3;
    }
  }
  return out;
}

function bars(picture: Uint8Array, width: number, height: number, bar: number): void {
  picture.fill(16, 0, bar * width);
  picture.fill(16, (height - bar) * width, height * width);
}

/** Three by five dots a digit. */
const ROWS: readonly (readonly number[])[] = [
  [7, 5, 5, 5, 7],
  [2, 6, 2, 2, 7],
  [7, 1, 7, 4, 7],
  [7, 1, 7, 1, 7],
  [5, 5, 7, 1, 1],
  [7, 4, 7, 1, 7],
  [7, 4, 7, 5, 7],
  [7, 1, 1, 1, 1],
  [7, 5, 7, 5, 7],
  [7, 5, 7, 1, 7],
];

/** A counter of six digits on a dark box near the lower edge. */
function burnIn(picture: Uint8Array, width: number, height: number, k: number): void {
  const dot = Math.max(2, Math.round(height / 90));
  const wide = 6 * 4 * dot + dot;
  const left = (width - wide) >> 1;
  const top = height - 9 * dot;
  for (let y = top - dot; y < top + 6 * dot; y++) picture.fill(20, y * width + left - dot, y * width + left + wide);
  const digits = String(k).padStart(6, '0');
  for (let d = 0; d < 6; d++) {
    const rows = ROWS[Number(digits[d])] as readonly number[];
    for (let y = 0; y < 5 * dot; y++) {
      const row = rows[Math.floor(y / dot)] as number;
      for (let x = 0; x < 3 * dot; x++) {
        if ((row >> (2 - Math.floor(x / dot))) & 1) picture[(top + y) * width + left + d * 4 * dot + x] = 225;
      }
    }
  }
}
