import { type After, cook as cookRecipe, lake, type Made, type Scene } from '@thawline/rig';

export type { Made };

const [WIDTH, HEIGHT] = [256, 144];

/** Floes on a lake, drifting so many times as fast as usual. */
export const lakeOf = (speed: number, seed = 301): Scene => lake({ seed, speed, floes: 14 });

/** Luma of the pictures of a recipe at 256x144, 25 source pictures a second, as a camera would give them. */
export function* cook(made: readonly Made[], scene: Scene, noise = 1.4, after: After = {}): Generator<Uint8Array> {
  const shot = (source: number) => ({ scene, seconds: source / 25 });
  for (const picture of cookRecipe({ width: WIDTH, height: HEIGHT, seed: 9, noise, shot, made, after }))
    yield picture.subarray(0, WIDTH * HEIGHT);
}

export const ones = (sources: readonly number[]): Made[] => sources.map((source) => ({ kind: 'one', source }));

/** Pictures of `from` a second mixed into `to`. */
export const mixes = (count: number, from: number, to: number): Made[] =>
  Array.from({ length: count }, (_, k) => {
    const source = Math.floor((k * from) / to);
    const share = ((k * from) % to) / to;
    return share === 0 ? { kind: 'one', source } : { kind: 'mix', source, other: source + 1, share };
  });
