import { rate } from '@thawline/core/time';
import { Sensor } from './canvas.js';
import { HEIGHT, PICTURES, type PlacedTrial, places, type Shot, WIDTH } from './oddTrials.js';

/** A clip of a dark scene under fresh noise: noise comes after pictures were repeated, so that no two of them are alike. */
export interface FaintTrial extends PlacedTrial {
  readonly truth: {
    readonly trueRate: number;
    /** Pictures that show nothing new but noise. */
    readonly held: readonly number[];
  };
}

const LUMA = WIDTH * HEIGHT;
/** Luma of what is black. */
const DARKEST = 24;
/** Share of a scene's contrast that is left, and the noise's standard deviation in 8-bit steps. */
const LEVELS = [
  { contrast: 0.12, grain: 2 },
  { contrast: 0.2, grain: 4 },
  { contrast: 0.3, grain: 6 },
] as const;

/** From a stored picture to the scene's. */
const BEATS: Record<string, { readonly of: (k: number) => number; readonly newShare: number }> = {
  'all new': { of: (k) => k, newShare: 1 },
  'every 2': { of: (k) => k - (k % 2), newShare: 1 / 2 },
  'every 3': { of: (k) => k - (k % 3), newShare: 1 / 3 },
  '2:3': { of: (k) => k - ([0, 1, 0, 1, 2][k % 5] as number), newShare: 2 / 5 },
  'one in five': { of: (k) => k - (k % 5 === 4 ? 1 : 0), newShare: 4 / 5 },
  'a freeze': { of: (k) => (k >= 40 && k < 46 ? 40 : k), newShare: 1 },
};

/** A shot in little light. */
function dimmed(shot: Shot, sensor: Sensor, contrast: number): (k: number) => Uint8Array {
  return (k) => {
    const light = shot(k);
    return sensor.expose(
      (x, y, out) => {
        const chroma = LUMA + (y >> 1) * (WIDTH >> 1) + (x >> 1);
        out[0] = DARKEST + ((light[y * WIDTH + x] as number) - 16) * contrast;
        out[1] = 128 + ((light[chroma] as number) - 128) * contrast;
        out[2] = 128 + ((light[chroma + LUMA / 4] as number) - 128) * contrast;
      },
      WIDTH,
      HEIGHT,
    );
  };
}

/** Another seed gives other places and noise. @param seed 0 to 10,000 */
export function faintTrials(seed: number): FaintTrial[] {
  return places().flatMap((place, p) => {
    const own = 12_000 + seed * 811 + p * 37;
    return Object.entries(BEATS).map(([about, { of, newShare }], i): FaintTrial => {
      const { contrast, grain } = LEVELS[(p + i) % LEVELS.length] as (typeof LEVELS)[number];
      const pictures = Array.from({ length: PICTURES }, (_, k) => k);
      return {
        ...{ name: `${about}, ${place.name}`, about, keptOut: place.keptOut, rate: rate(25) },
        width: WIDTH,
        height: HEIGHT,
        pictures: PICTURES,
        truth: { trueRate: 25 * newShare, held: pictures.filter((k) => k > 0 && of(k) === of(k - 1)) },
        *cook() {
          const picture = dimmed(place.shot(own), new Sensor(own + i, grain), contrast);
          for (const k of pictures) yield picture(of(k));
        },
      };
    });
  });
}
