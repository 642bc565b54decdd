import { type Rate, rate, rateToNumber } from '@thawline/core/time';
import { clapsOf, type PairPlan, pairSound } from './pairs.js';
import { random } from './random.js';
import { icicles, interview, jetty, lake, ridge, type Scene, skiff } from './scenes.js';
import { syllables, voiceWithClap, wind } from './sounds.js';

/** The exact truth about a made-up clip, in the words that `check` and `probe` answer with. */
export interface Truth {
  /** Of numbered pictures: the first one. */
  readonly file: string;
  readonly pictures: number;
  /** Of numbered pictures: the rate to read them at. */
  readonly stored: Rate;
  readonly variable: boolean;
  readonly trueRate: number;
  readonly kind: string;
  /** 0-based pictures that repeat the one before. */
  readonly held: readonly number[];
  readonly jumps: readonly number[];
  /** First pictures of shots, the first shot's left out. */
  readonly cuts: readonly number[];
  /** Pictures that do not belong where they are. */
  readonly faults: readonly { readonly picture: number; readonly kind: string }[];
  /** Rates of the picture's parts, the fastest first; none where all has one. */
  readonly partRates: readonly number[];
  readonly pattern: string;
  /** Where it is not of one pattern: each stretch's, with the first picture behind it. */
  readonly stretches: readonly { readonly to: number; readonly pattern: string }[] | null;
  /** What the file says of its fields. */
  readonly fields: 'progressive' | 'top' | 'bottom';
  /** Start of each picture in 1/90000 s, for variable timing. */
  readonly ticks: readonly number[] | null;
  /** What the camera's maker says, pictures a second. */
  readonly claimed: number | null;
  /** Length of the sound; null for none. */
  readonly soundSeconds: number | null;
  /** The rate that the sound's length gives the pictures, where it is another than the stored one. */
  readonly impliedRate: Rate | null;
  /** Moments of claps in the sound, in seconds. */
  readonly strikes: readonly number[];
}

/** A made-up camera before a scene: which moment each stored picture shows, and what the file will claim. */
export interface ClipPlan {
  readonly name: string;
  /** film: one MP4. pictures: numbered PNGs, or a single one. */
  readonly form: 'film' | 'pictures';
  readonly width: number;
  readonly height: number;
  readonly seed: number;
  /** Luma noise of the sensor, standard deviation in 8-bit steps. */
  readonly noise: number;
  readonly scene: () => Scene;
  /** The moment each stored picture shows, in seconds; a repeat of the one before is the same picture, noise and all. */
  readonly moments: readonly number[];
  /** The moments of the second fields, of pictures that hold two (the first ones' lines are the top field's); and what the file says, wrongly or not. */
  readonly fields: { readonly second: readonly number[]; readonly flag: 'top' | 'bottom' } | null;
  readonly sound: (() => Float32Array) | null;
  readonly truth: Truth;
}

export const SOUND_RATE = 48_000;
const NTSC = rate(30_000, 1001);
const FILM = rate(24_000, 1001);

interface Basics {
  readonly name: string;
  readonly rate: Rate;
  readonly pictures: number;
  readonly width?: number;
  readonly height?: number;
  readonly seed: number;
  readonly noise: number;
  readonly form?: ClipPlan['form'];
}

function plan(
  basics: Basics,
  scene: () => Scene,
  more: Partial<Omit<Truth, 'fields'>> & {
    moments?: readonly number[];
    fields?: ClipPlan['fields'];
    sound?: () => Float32Array;
  } = {},
): ClipPlan {
  const { moments, fields, sound, ...truth } = more;
  const perSecond = rateToNumber(basics.rate);
  const form = basics.form ?? 'film';
  const single = basics.pictures === 1 ? '' : '-0000';
  return {
    name: basics.name,
    form,
    width: basics.width ?? 640,
    height: basics.height ?? 360,
    seed: basics.seed,
    noise: basics.noise,
    scene,
    moments: moments ?? Array.from({ length: basics.pictures }, (_, k) => k / perSecond),
    fields: fields ?? null,
    sound: sound ?? null,
    truth: {
      file: form === 'film' ? `${basics.name}.mp4` : `${basics.name}/${basics.name}${single}.png`,
      pictures: basics.pictures,
      stored: basics.rate,
      variable: false,
      trueRate: perSecond,
      kind: 'new',
      held: [],
      jumps: [],
      cuts: [],
      faults: [],
      partRates: [],
      pattern: 'new',
      stretches: null,
      fields: fields?.flag ?? 'progressive',
      ticks: null,
      claimed: null,
      soundSeconds: sound ? basics.pictures / perSecond : null,
      impliedRate: null,
      strikes: [],
      ...truth,
    },
  };
}

function floeDrift(): ClipPlan {
  const basics = { name: 'floe-drift', rate: rate(50), pictures: 400, seed: 11, noise: 1.6 };
  return plan(basics, () => lake({ seed: 21, speed: 1, floes: 26 }), { sound: () => wind(61, 8, SOUND_RATE) });
}

function wardenInterview(): ClipPlan {
  const seconds = 16;
  const clap = 1.2;
  const voice = syllables(31, seconds);
  const basics = { name: 'warden-interview', rate: rate(25), pictures: seconds * 25, seed: 12, noise: 1.4 };
  return plan(basics, () => interview(41, voice, clap), {
    sound: () => voiceWithClap(32, { loudness: voice, clapSeconds: clap, seconds, sampleRate: SOUND_RATE }),
    strikes: [clap],
  });
}

/** Claims 600 pictures a second; each of its 100 real ones is stored three times, and what it shows fits 200. */
function calvingHero(): ClipPlan {
  const pictures = 300;
  const moments = Array.from({ length: pictures }, (_, k) => Math.floor(k / 3) / 25);
  const held = moments.flatMap((_, k) => (k % 3 === 0 ? [] : [k]));
  const basics = { name: 'calving-hero', rate: rate(25), pictures, width: 960, height: 540, seed: 13, noise: 1.5 };
  return plan(basics, () => lake({ seed: 51, speed: 1.6, floes: 34 }), {
    moments,
    held,
    trueRate: 25 / 3,
    kind: 'padded',
    pattern: 'every-3',
    claimed: 600,
  });
}

function jettyPan(): ClipPlan {
  return plan({ name: 'jetty-pan', rate: NTSC, pictures: 240, seed: 14, noise: 1.5 }, () => jetty(71, 156), {
    sound: () => wind(62, (240 * 1001) / 30_000, SOUND_RATE),
  });
}

/** Two pictures were written twice on the way; everything else is new. */
function ridgeStock(): ClipPlan {
  const held = [87, 161];
  let shown = -1;
  const moments = Array.from({ length: 240 }, (_, k) => {
    if (!held.includes(k)) shown++;
    return (shown * 1001) / 24_000;
  });
  return plan({ name: 'ridge-stock', rate: FILM, pictures: 240, seed: 15, noise: 1.3 }, () => ridge(81, 34), { moments, held });
}

/** A phone: it times pictures when they come, leaves some out, and shakes. Every stored picture is new. */
function phoneThaw(): ClipPlan {
  const next = random(91);
  const ticks: number[] = [];
  let due = 0;
  while (ticks.length < 270) {
    ticks.push(ticks.length === 0 ? 0 : Math.round(due + (next() - 0.5) * 420));
    due += 3000 * (next() < 0.11 ? 2 : 1);
  }
  const camera = (t: number) => ({
    x: 9 * Math.sin(t * 2.1) + 4 * Math.sin(t * 5.3 + 1),
    y: 6 * Math.sin(t * 1.7 + 2) + 2.5 * Math.sin(t * 6.1),
  });
  return plan(
    { name: 'phone-thaw', rate: rate(30), pictures: ticks.length, seed: 16, noise: 2.2 },
    () => lake({ seed: 101, speed: 0.8, floes: 22, camera }),
    {
      moments: ticks.map((t) => t / 90_000),
      ticks,
      variable: true,
      trueRate: (ticks.length * 90_000) / ((ticks.at(-1) ?? 0) + 3000),
      sound: () => wind(63, ((ticks.at(-1) ?? 0) + 3000) / 90_000, SOUND_RATE),
      soundSeconds: ((ticks.at(-1) ?? 0) + 3000) / 90_000,
    },
  );
}

/** Shot at 25 and stored as 30: the pictures run 10 s, the sound beside them 12. */
function skipperInterview(): ClipPlan {
  const pictures = 300;
  const seconds = 12;
  const clap = 0.8;
  const voice = syllables(33, seconds);
  return plan({ name: 'skipper-interview', rate: rate(30), pictures, seed: 27, noise: 1.4 }, () => interview(45, voice, clap), {
    moments: Array.from({ length: pictures }, (_, k) => k / 25),
    sound: () => voiceWithClap(34, { loudness: voice, clapSeconds: clap, seconds, sampleRate: SOUND_RATE }),
    soundSeconds: seconds,
    impliedRate: rate(25),
    strikes: [clap],
  });
}

/** Two cameras on two shores, one skiff, claps at both ends; the second one's clock runs 243 ppm fast. */
export const SKIFF: PairPlan = {
  name: 'skiff',
  seed: 97,
  secondsA: 26,
  secondsB: 25.025,
  offsetSeconds: -1.236,
  ratio: rate(210_291, 210_240),
  a: { sampleRate: SOUND_RATE, noiseDb: -26, colour: 'flat', gain: 0.9, clipsAt: 1 },
  b: { sampleRate: SOUND_RATE, noiseDb: -12, colour: 'dull', gain: 0.6, clipsAt: 1 },
  shared: 'all',
  claps: 'both',
};

function skiffCamera(side: 'a' | 'b'): ClipPlan {
  const ratio = rateToNumber(SKIFF.ratio);
  const [own, pictures] = side === 'a' ? [rate(25), 650] : [NTSC, 750];
  const strikes = clapsOf(SKIFF);
  // B's pictures and sound are timed by its own clock.
  const eventAt = (seconds: number): number => (side === 'a' ? seconds : (seconds - SKIFF.offsetSeconds) / ratio);
  const heard = strikes.map((s) => (side === 'a' ? s : SKIFF.offsetSeconds + ratio * s));
  const basics = {
    name: `skiff-${side}`,
    rate: own,
    pictures,
    width: 320,
    height: 180,
    seed: side === 'a' ? 41 : 42,
    noise: 1.5,
  };
  return plan(basics, () => skiff(121, strikes, side === 'a' ? 1 : -1), {
    moments: Array.from({ length: pictures }, (_, k) => eventAt(k / rateToNumber(own))),
    sound: () => joined([...pairSound(SKIFF, side)]),
    soundSeconds: side === 'a' ? SKIFF.secondsA : SKIFF.secondsB,
    strikes: heard,
  });
}

function joined(blocks: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(blocks.reduce((sum, b) => sum + b.length, 0));
  let at = 0;
  for (const block of blocks) {
    out.set(block, at);
    at += block.length;
  }
  return out;
}

/** Numbered pictures, two seconds at 24. */
function icicleDrip(): ClipPlan {
  const basics = { name: 'icicle-drip', rate: rate(24), pictures: 48, width: 480, height: 270, seed: 18, noise: 1.2 };
  return plan({ ...basics, form: 'pictures' }, () => icicles(111));
}

/** A single picture. */
function ridgeStill(): ClipPlan {
  return plan(
    { name: 'ridge-still', rate: rate(25), pictures: 1, width: 960, height: 540, seed: 19, noise: 0.8, form: 'pictures' },
    () => ridge(83, 0),
  );
}

/** Moments of this reel that are none: what the lens saw is another thing there. */
const [DARK, BRIGHT, ELSEWHERE] = [-1, -2, -3] as const;

/** A reel of three shots as it came off a worn machine: pictures missing, two exchanged, a dark one, a bright one, and one of something else. */
function dockReel(): ClipPlan {
  const [pictures, cuts] = [200, [70, 140]] as const;
  const [skips, swapped] = [[40, 110], 25] as const;
  const odd = new Map([
    [55, DARK],
    [90, BRIGHT],
    [165, ELSEWHERE],
  ]);
  const place = (k: number): number => (k === swapped ? k + 1 : k === swapped + 1 ? k - 1 : k);
  const moments = Array.from(
    { length: pictures },
    (_, k) => odd.get(k) ?? (place(k) + skips.filter((at) => k >= at).length) / 25,
  );
  const shotAt = (seconds: number): number => {
    const k = Math.round(seconds * 25);
    return cuts.filter((cut) => k >= cut + skips.filter((at) => at < cut).length).length;
  };
  const basics = { name: 'dock-reel', rate: rate(25), pictures, width: 480, height: 270, seed: 20, noise: 1.4 };
  const scene = (): Scene => {
    const shots = [lake({ seed: 131, speed: 1.6, floes: 16 }), jetty(132, 90), lake({ seed: 133, speed: 1.2, floes: 22 })];
    const other = ridge(134, 40);
    const plain = (luma: number) => (_x: number, _y: number, out: Float64Array) => void out.set([luma, 128, 128]);
    return (seconds, width, height) => {
      if (seconds === DARK) return plain(16);
      if (seconds === BRIGHT) return plain(235);
      if (seconds === ELSEWHERE) return other(1, width, height);
      return (shots[shotAt(seconds)] as Scene)(seconds, width, height);
    };
  };
  return plan(basics, scene, {
    moments,
    jumps: skips,
    cuts,
    faults: [
      { picture: swapped, kind: 'swapped' },
      { picture: 55, kind: 'black' },
      { picture: 90, kind: 'white' },
      { picture: 165, kind: 'foreign' },
    ],
  });
}

/** A pan at 25 with the lookout's screen in it, which shows every picture three times. */
function lookoutScreen(): ClipPlan {
  const basics = { name: 'lookout-screen', rate: rate(25), pictures: 150, width: 480, height: 270, seed: 21, noise: 1.3 };
  const scene = (): Scene => {
    const [under, screen] = [lake({ seed: 141, speed: 2.4, floes: 26 }), jetty(142, 75)];
    return (seconds, width, height) => {
      const [ground, shown] = [
        under(seconds, width, height),
        screen(Math.floor((seconds * 25) / 3 + 1e-6) * (3 / 25), width, height),
      ];
      return (x, y, out) =>
        x >= 0.58 * width && x < 0.94 * width && y >= 0.5 * height && y < 0.92 * height ? shown(x, y, out) : ground(x, y, out);
    };
  };
  return plan(basics, scene, { partRates: [25, 25 / 3] });
}

/** Stored frames of the old reel that are film, and the first one after an edit in it that broke the beat. */
const OLD_REEL = { film: 120, breakAt: 62, pictures: 240 } as const;

/**
 * An old reel at 29.97, half of it film of 23.976 spread over its fields by 2:3 (edited after that, so that the beat breaks), half recorded in fields;
 * its top field comes first, and the file says the bottom one.
 */
function oldReel(): ClipPlan {
  const { film, breakAt, pictures } = OLD_REEL;
  const basics = { name: 'old-reel', rate: NTSC, pictures, width: 480, height: 272, seed: 22, noise: 1.2 };
  const field = 1001 / 60_000;
  const spread = [0, 0, 1, 1, 1, 2, 2, 3, 3, 3];
  // Two stored frames were cut out where the beat breaks.
  const filmAt = (f: number): number => {
    const at = f < 2 * breakAt ? f : f + 4;
    return ((spread[at % 10] as number) + 4 * Math.floor(at / 10)) * (1001 / 24_000);
  };
  // What was cut out is past when the fields begin.
  const momentAt = (f: number): number => (f < 2 * film ? filmAt(f) : (f + 4) * field);
  const each = (offset: number): number[] => Array.from({ length: pictures }, (_, k) => momentAt(2 * k + offset));
  return plan(basics, () => jetty(151, 118), {
    moments: each(0),
    fields: { second: each(1), flag: 'bottom' },
    kind: 'mixed',
    trueRate: (film / pictures) * rateToNumber(FILM) + (1 - film / pictures) * rateToNumber(NTSC),
    stretches: [
      { to: film, pattern: '2:3 fields' },
      { to: pictures, pattern: 'new' },
    ],
  });
}

/** The demo's clips, in the order they were shot. */
export function demoClips(): ClipPlan[] {
  return [
    floeDrift(),
    wardenInterview(),
    calvingHero(),
    jettyPan(),
    ridgeStock(),
    phoneThaw(),
    skipperInterview(),
    skiffCamera('a'),
    skiffCamera('b'),
    icicleDrip(),
    ridgeStill(),
    dockReel(),
    lookoutScreen(),
    oldReel(),
  ];
}
