import { rate } from '@thawline/core/time';
import { HEIGHT, PICTURES, type PlacedTrial, places, type Shot, WIDTH } from './oddTrials.js';
import { woven } from './woven.js';

type Kind = 'none' | 'pulldown' | 'interlaced';
type Order = 'top' | 'bottom';

/** Pictures of one kind, `to` not included. */
interface TrueStretch {
  readonly from: number;
  readonly to: number;
  readonly kind: Kind;
}

/** A clip whose pictures' lines are of one moment or of two. */
export interface FieldTrial extends PlacedTrial {
  readonly truth: {
    readonly stretches: readonly TrueStretch[];
    readonly first: Order | null;
    /** First pictures after a break in a beat. */
    readonly breaks: readonly number[];
  };
}

/** Moments of a picture's two fields, by which comes first; a moment is a picture of 25 a second. */
type Moments = (k: number) => readonly [first: number, second: number];

const one: Moments = (k) => [k, k];
const two: Moments = (k) => [k, k + 0.5];
/** Film of 24 a second as AA BB BC CD DD. */
const FILM = [0, 0, 1, 1, 1, 2, 2, 3, 3, 3] as const;
const film: Moments = (k) => {
  const of = (field: number): number => ((FILM[field % 10] as number) + 4 * Math.floor(field / 10)) * (25 / 24);
  return [of(2 * k), of(2 * k + 1)];
};
const HALF = Math.floor(PICTURES / 10) * 5;

interface Plan {
  readonly moments: Moments;
  readonly stretches: readonly TrueStretch[];
  readonly breaks?: readonly number[];
  readonly ntsc?: boolean;
}

const all = (kind: Kind): TrueStretch[] => [{ from: 0, to: PICTURES, kind }];
const halves = (before: Kind, after: Kind): TrueStretch[] => [
  { from: 0, to: HALF, kind: before },
  { from: HALF, to: PICTURES, kind: after },
];

const PLANS: Record<string, Plan> = {
  progressive: { moments: one, stretches: all('none') },
  interlaced: { moments: two, stretches: all('interlaced') },
  film: { moments: film, stretches: all('pulldown'), ntsc: true },
  'film with a break': {
    moments: (k) => film(k < HALF + 2 ? k : k + 2),
    stretches: all('pulldown'),
    breaks: [HALF + 2],
    ntsc: true,
  },
  'progressive, then interlaced': { moments: (k) => (k < HALF ? one : two)(k), stretches: halves('none', 'interlaced') },
  'film, then interlaced': {
    moments: (k) => (k < HALF ? film : two)(k),
    stretches: halves('pulldown', 'interlaced'),
    ntsc: true,
  },
};

/** Another seed gives other places and noise. @param seed 0 to 10,000 */
export function fieldTrials(seed: number): FieldTrial[] {
  return places().flatMap((place, p) =>
    Object.entries(PLANS).flatMap(([about, { moments, stretches, breaks = [], ntsc }]): FieldTrial[] => {
      const orders: readonly (Order | null)[] = stretches.every((s) => s.kind === 'none') ? [null] : ['top', 'bottom'];
      return orders.map((first) => ({
        ...{ name: `${first ? `${about}, ${first} first` : about}, ${place.name}`, about, keptOut: place.keptOut },
        rate: ntsc ? rate(30000, 1001) : rate(25),
        width: WIDTH,
        height: HEIGHT,
        pictures: PICTURES,
        truth: { stretches, first, breaks },
        *cook() {
          const shot: Shot = place.shot(13_000 + seed * 811 + p * 37);
          for (let k = 0; k < PICTURES; k++) {
            const [early, late] = moments(k);
            const picture = shot(early);
            const other = early === late ? picture : shot(late);
            const [upper, lower] = first === 'bottom' ? [other, picture] : [picture, other];
            yield woven(upper, lower, WIDTH, HEIGHT);
          }
        },
      }));
    }),
  );
}
