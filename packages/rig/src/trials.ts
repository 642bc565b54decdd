import { type Rate, rate, rateToNumber } from '@thawline/core/time';
import { random } from './random.js';
import { type After, cook, type Made, type Recipe } from './recipe.js';
import { icicles, interview, jetty, lake, lantern, ridge, type Scene } from './scenes.js';
import { syllables } from './sounds.js';

/** What is true about a trial clip. Numbers are stored pictures, 0-based. */
export interface TrialTruth {
  /** Pictures that show nothing new against the one before. */
  readonly held: readonly number[];
  /** Pictures before which others are missing. */
  readonly jumps: readonly number[];
  /** Pictures that are a mix of two others, with the second one's share. */
  readonly blends: readonly { readonly at: number; readonly share: number }[];
  /** Pictures made between two real ones. */
  readonly made: readonly number[];
  /** From and to (not included) of pictures among which nothing moves: neither held nor new. */
  readonly still: readonly { readonly from: number; readonly to: number }[];
  readonly trueRate: number;
  readonly fields: 'none' | 'pulldown' | 'interlaced';
}

/** A made-up clip for measuring how well a check judges. */
export interface Trial {
  readonly name: string;
  /** Trials of one kind are counted together. */
  readonly about: string;
  readonly rate: Rate;
  readonly width: number;
  readonly height: number;
  readonly pictures: number;
  /** When each picture begins in 1/90000 s, for variable timing; else null. */
  readonly ticks: readonly number[] | null;
  readonly truth: TrialTruth;
  /** Packed yuv420p. */
  readonly cook: () => Generator<Uint8Array>;
}

const WIDTH = 480;
const HEIGHT = 272;
const NTSC30 = rate(30000, 1001);
const NTSC60 = rate(60000, 1001);

interface Plan {
  readonly about: string;
  readonly rate: Rate;
  /** What each stored picture is made of. */
  readonly made: readonly Made[];
  /** Source pictures a second: how far apart in time they lie. */
  readonly sourceRate?: number;
  readonly scene: (seed: number) => Scene;
  /** From this source picture on another scene is looked at: a cut. */
  readonly cut?: { readonly at: number; readonly scene: (seed: number) => Scene };
  /** Source moments in place of source / sourceRate. */
  readonly seconds?: (source: number) => number;
  readonly noise?: number;
  readonly after?: After;
  readonly truth?: Partial<TrialTruth>;
  readonly ticks?: readonly number[];
}

const span = (count: number): number[] => Array.from({ length: count }, (_, k) => k);
const ones = (sources: readonly number[]): Made[] => sources.map((source) => ({ kind: 'one', source }));
/** Source picture of each stored one by a cycle of "n" (new) and "h" (held). */
function byCycle(count: number, cycle: string): number[] {
  let shown = -1;
  return span(count).map((k) => (cycle[k % cycle.length] === 'n' || shown < 0 ? ++shown : shown));
}
/** All new but for these, which show the one before again. */
const frozen = (count: number, held: readonly number[]): number[] => {
  let shown = -1;
  return span(count).map((k) => (held.includes(k) ? shown : ++shown));
};

/** Pictures of one rate mixed into another: position k * from / to. */
function mixes(count: number, from: number, to: number): Made[] {
  return span(count).map((k) => {
    const at = Math.floor((k * from) / to);
    const share = ((k * from) % to) / to;
    return share === 0 ? { kind: 'one', source: at } : { kind: 'mix', source: at, other: at + 1, share };
  });
}

const floes = (speed: number) => (seed: number) => lake({ seed, speed, floes: 18 });
const handheld = (seed: number) => {
  const camera = (t: number) => ({ x: 7 * Math.sin(t * 2.3) + 3 * Math.sin(t * 5.1 + 1), y: 4 * Math.sin(t * 1.9 + 2) });
  return lake({ seed, speed: 0.8, floes: 16, camera });
};
const talking = (seed: number) => interview(seed, syllables(seed + 3, 12), -1);
/** Speaks without a pause and moves with it: a picture held is one that a person sees. */
const speaking = (seed: number) => interview(seed, (t) => 0.9 * Math.abs(Math.sin(t * 7.3)), -1);
const pan = (pixelsPerSecond: number) => (seed: number) => ridge(seed, pixelsPerSecond);
const dock = (pixelsPerSecond: number) => (seed: number) => jetty(seed, pixelsPerSecond);

/** The 2:3 by fields: of four pictures A B C D the five AA BB BC CD DD, upper field first. */
function pulldown(count: number): Made[] {
  const cycle = [
    [0, 0],
    [1, 1],
    [1, 2],
    [2, 3],
    [3, 3],
  ] as const;
  return span(count).map((k) => {
    const [upper, lower] = cycle[k % 5] as readonly [number, number];
    const base = Math.floor(k / 5) * 4;
    return { kind: 'fields', upper: base + upper, lower: base + lower };
  });
}

function plans(): Record<string, Plan> {
  const r25 = { rate: rate(25) };
  const r60 = { rate: NTSC60 };
  const half = (light: (k: number) => number): After => ({ light: (k) => ({ times: light(k), plus: 0 }) });
  const next = random(5);
  const ticks: number[] = [];
  let due = 0;
  while (ticks.length < 100) {
    ticks.push(Math.round(due));
    due += 3600 * (next() < 0.12 ? 2 : 1);
  }
  const everyN = (n: number, scene: Plan['scene'], more: Partial<Plan> = {}): Plan => ({
    about: `every ${n}`,
    ...r25,
    made: ones(byCycle(n * Math.min(24, Math.floor(140 / n)), `n${'h'.repeat(n - 1)}`)),
    scene,
    ...more,
  });
  const stillAfter = (from: number, count: number) => (k: number) =>
    (k < from ? k : k < from + count ? from - 1 : k - count) / 25;
  return {
    'new-floes': { about: 'all new', ...r25, made: ones(span(100)), scene: floes(1) },
    'new-handheld': { about: 'all new', rate: NTSC30, made: ones(span(100)), scene: handheld, noise: 2.2 },
    'new-dock': { about: 'all new', rate: rate(24000, 1001), made: ones(span(100)), scene: dock(90) },
    'new-fast': { about: 'all new', rate: rate(50), made: ones(span(120)), scene: dock(420), noise: 1 },
    'new-icicles': { about: 'all new', ...r25, made: ones(span(100)), scene: icicles },
    'slow-pan': { about: 'hardly differs', ...r25, made: ones(span(120)), scene: pan(0.15 * 25), noise: 1 },
    'slow-pan-noisy': { about: 'hardly differs', rate: rate(50), made: ones(span(120)), scene: pan(0.15 * 50), noise: 2 },
    'small-part': { about: 'hardly differs', ...r25, made: ones(span(120)), scene: lantern },
    'small-part-60': { about: 'hardly differs', ...r60, made: ones(span(140)), scene: lantern, noise: 1.8 },
    'talking-head': { about: 'hardly differs', ...r25, made: ones(span(140)), scene: talking },
    'talking-head-50': { about: 'hardly differs', rate: rate(50), made: ones(span(150)), scene: talking, noise: 1.8 },
    'freeze-floes': { about: 'single freezes', ...r25, made: ones(frozen(110, [31, 77])), scene: floes(1) },
    'freeze-dock': { about: 'single freezes', rate: NTSC30, made: ones(frozen(110, [20, 55, 90])), scene: dock(110) },
    'freeze-handheld': { about: 'single freezes', ...r25, made: ones(frozen(110, [42])), scene: handheld, noise: 2.2 },
    'freeze-talking': { about: 'single freezes', ...r25, made: ones(frozen(110, [28, 71])), scene: speaking },
    'row-floes': { about: 'freezes in a row', ...r25, made: ones(frozen(110, [40, 41, 42, 80, 81])), scene: floes(1.2) },
    'row-dock': { about: 'freezes in a row', rate: rate(50), made: ones(frozen(120, [50, 51, 52, 53, 54])), scene: dock(150) },
    'one-in-25': { about: 'one in N', ...r25, made: ones(byCycle(125, `${'n'.repeat(24)}h`)), scene: floes(1) },
    'one-in-5': { about: 'one in N', rate: rate(30), made: ones(byCycle(120, 'nnnnh')), scene: handheld },
    'one-in-6': { about: 'one in N', rate: rate(30), made: ones(byCycle(120, 'nnnnnh')), scene: dock(100) },
    'one-in-4': { about: 'one in N', rate: rate(32), made: ones(byCycle(120, 'nnnh')), scene: speaking },
    'every-2': everyN(2, floes(1), { made: ones(byCycle(100, 'nh')) }),
    'every-2-60': everyN(2, speaking, { ...r60, made: ones(byCycle(140, 'nh')), about: 'every 2' }),
    'every-3': everyN(3, floes(1.4)),
    'every-4': everyN(4, handheld, { noise: 2 }),
    'every-5': everyN(5, dock(80)),
    'every-6': everyN(6, pan(30)),
    'every-7': everyN(7, floes(1)),
    'every-8': everyN(8, dock(120), { rate: NTSC60 }),
    'two-three': { about: '2:3', ...r60, made: ones(byCycle(140, 'nhnhh')), scene: dock(110), sourceRate: 24 },
    'three-two-talk': { about: '2:3', rate: rate(60), made: ones(byCycle(140, 'nhhnh')), scene: speaking, sourceRate: 24 },
    'two-three-three-two': { about: '2:3', ...r60, made: ones(byCycle(140, 'nhnhhnhhnh')), scene: floes(1), sourceRate: 24 },
    'field-pulldown': { about: 'fields', rate: NTSC30, made: pulldown(120), scene: dock(140), sourceRate: 24000 / 1001 },
    'field-pulldown-floes': { about: 'fields', rate: NTSC30, made: pulldown(120), scene: floes(1.6), sourceRate: 24000 / 1001 },
    interlaced: {
      about: 'fields',
      ...r25,
      made: span(100).map((k) => ({ kind: 'fields', upper: 2 * k, lower: 2 * k + 1 })),
      scene: floes(1.4),
      sourceRate: 50,
      truth: { fields: 'interlaced', trueRate: 25 },
    },
    'still-section': {
      about: 'still section',
      ...r25,
      made: ones(span(120)),
      scene: dock(90),
      seconds: stillAfter(60, 60),
      truth: { still: [{ from: 60, to: 120 }], trueRate: 25 },
    },
    'still-middle': {
      about: 'still section',
      ...r25,
      made: ones(span(140)),
      scene: handheld,
      noise: 2,
      seconds: stillAfter(45, 50),
      truth: { still: [{ from: 45, to: 95 }], trueRate: 25 },
    },
    fade: { about: 'fade, flash, cut', ...r25, made: ones(span(100)), scene: floes(1), after: half((k) => Math.min(1, k / 50)) },
    flash: {
      about: 'fade, flash, cut',
      ...r25,
      made: ones(span(100)),
      scene: handheld,
      after: { light: (k) => ({ times: 1, plus: k === 37 || k === 38 ? 90 : k === 70 ? 60 : 0 }) },
    },
    cut: { about: 'fade, flash, cut', ...r25, made: ones(span(100)), scene: floes(1), cut: { at: 52, scene: dock(100) } },
    'cut-talking': { about: 'fade, flash, cut', ...r25, made: ones(span(110)), scene: talking, cut: { at: 60, scene: talking } },
    'jump-dock': {
      about: 'jumps',
      ...r25,
      made: ones(span(110).map((k) => k + (k >= 51 ? 1 : 0))),
      scene: dock(70),
      truth: { jumps: [51] },
    },
    'jump-floes': {
      about: 'jumps',
      rate: rate(50),
      made: ones(span(120).map((k) => k + (k >= 40 ? 1 : 0) + (k >= 80 ? 1 : 0))),
      scene: handheld,
      truth: { jumps: [40, 80] },
    },
    'blend-24-30': { about: 'blends', rate: rate(30), made: mixes(120, 24, 30), scene: dock(150), sourceRate: 24 },
    'blend-25-30': { about: 'blends', rate: NTSC30, made: mixes(120, 5, 6), scene: floes(2), sourceRate: 25 },
    'blend-24-25': { about: 'blends', ...r25, made: mixes(125, 24, 25), scene: dock(130), sourceRate: 24 },
    'blend-25-50': { about: 'blends', rate: rate(50), made: mixes(120, 25, 50), scene: floes(2), sourceRate: 25 },
    'noisy-every-3': everyN(3, floes(1), { about: 'fresh noise', after: { freshNoise: 3 }, made: ones(byCycle(111, 'nhh')) }),
    'noisy-every-2': everyN(2, handheld, { about: 'fresh noise', after: { freshNoise: 4 }, made: ones(byCycle(110, 'nh')) }),
    'noisy-one-in-5': {
      about: 'fresh noise',
      rate: rate(30),
      made: ones(byCycle(120, 'nnnnh')),
      scene: dock(100),
      after: { freshNoise: 3 },
    },
    'noisy-freeze': { about: 'fresh noise', ...r25, made: ones(frozen(110, [47])), scene: dock(90), after: { freshNoise: 2.5 } },
    'made-25-50': {
      about: 'made pictures',
      rate: rate(50),
      made: span(120).map((k) => (k % 2 === 0 ? { kind: 'one', source: k / 2 } : { kind: 'made', seconds: k / 50 })),
      scene: handheld,
      sourceRate: 25,
      truth: { made: span(120).filter((k) => k % 2 === 1), trueRate: 50 },
    },
    halves: {
      about: 'halves differ',
      ...r25,
      made: ones([...span(70), ...byCycle(70, 'nh').map((s) => 70 + s)]),
      scene: floes(1),
    },
    'halves-2-3': {
      about: 'halves differ',
      ...r25,
      made: ones([...byCycle(72, 'nh'), ...byCycle(72, 'nhh').map((s) => 36 + s)]),
      scene: dock(90),
    },
    letterbox: { about: 'letterbox, counter', ...r25, made: ones(span(100)), scene: dock(80), after: { letterbox: 0.13 } },
    'letterbox-every-2': everyN(2, floes(1), {
      about: 'letterbox, counter',
      after: { letterbox: 0.13 },
      made: ones(byCycle(100, 'nh')),
    }),
    'counter-every-3': everyN(3, floes(1), {
      about: 'letterbox, counter',
      after: { counter: true },
      made: ones(byCycle(111, 'nhh')),
    }),
    'counter-freeze': {
      about: 'letterbox, counter',
      ...r25,
      made: ones(frozen(110, [33, 60, 61])),
      scene: dock(90),
      after: { counter: true },
    },
    'counter-new': { about: 'letterbox, counter', ...r25, made: ones(span(100)), scene: talking, after: { counter: true } },
    variable: {
      about: 'variable timing',
      ...r25,
      made: ones(span(100)),
      scene: handheld,
      seconds: (k) => (ticks[k] ?? 0) / 90_000,
      ticks,
    },
    'short-new': { about: 'short', ...r25, made: ones(span(16)), scene: handheld },
    'short-every-2': everyN(2, floes(1), { about: 'short', made: ones(byCycle(16, 'nh')) }),
    'short-every-3': everyN(3, dock(80), { about: 'short', made: ones(byCycle(24, 'nhh')) }),
    'grainy-every-3': everyN(3, floes(1), { about: 'fresh noise', after: { freshNoise: 6 }, made: ones(byCycle(111, 'nhh')) }),
    'grainy-one-in-5': {
      about: 'fresh noise',
      rate: rate(30),
      made: ones(byCycle(120, 'nnnnh')),
      scene: dock(100),
      after: { freshNoise: 6 },
    },
    'grainy-new': { about: 'all new', ...r25, made: ones(span(110)), scene: floes(1), after: { freshNoise: 6 } },
  };
}

/**
 * The trial clips. Another seed gives other scenes, other noise and other places of the same faults.
 * @param seed 0 to 10,000
 */
export function trials(seed: number): Trial[] {
  return Object.entries(plans()).map(([name, plan], i) => {
    const own = 1000 + seed * 613 + i * 17;
    const perSecond = plan.sourceRate ?? rateToNumber(plan.rate);
    let scene: Scene | null = null;
    let second: Scene | null = null;
    const shot = (source: number) => {
      scene ??= plan.scene(own);
      const { cut } = plan;
      if (cut && source >= cut.at) second ??= cut.scene(own + 5);
      // A seed begins at its own moment, so that no two sets show the same pictures.
      const seconds = (seed % 97) * 0.37 + (plan.seconds?.(source) ?? source / perSecond);
      return { scene: (cut && source >= cut.at && second) || scene, seconds };
    };
    const made = plan.made.map((m) => (m.kind === 'made' ? { ...m, seconds: m.seconds + (seed % 97) * 0.37 } : m));
    const recipe: Recipe = {
      width: WIDTH,
      height: HEIGHT,
      seed: own,
      noise: plan.noise ?? 1.4,
      shot,
      made,
      after: plan.after ?? {},
    };
    return {
      name,
      about: plan.about,
      rate: plan.rate,
      width: WIDTH,
      height: HEIGHT,
      pictures: made.length,
      ticks: plan.ticks ?? null,
      truth: truthOf(plan, /freeze|row/.test(name)),
      cook: () => cook(recipe),
    };
  });
}

/** @param faults its held pictures are single faults, which do not change the rate */
function truthOf(plan: Plan, faults: boolean): TrialTruth {
  const { made } = plan;
  const still = plan.truth?.still ?? [];
  const held: number[] = [];
  const blends: { at: number; share: number }[] = [];
  made.forEach((one, k) => {
    const before = made[k - 1];
    if (one.kind === 'one' && before?.kind === 'one' && one.source === before.source) held.push(k);
    if (one.kind === 'mix') blends.push({ at: k, share: one.share });
  });
  const perSecond = plan.ticks ? (plan.ticks.length * 90_000) / ((plan.ticks.at(-1) ?? 0) + 3600) : rateToNumber(plan.rate);
  const fields = made.some((m) => m.kind === 'fields') ? 'pulldown' : 'none';
  const fresh = (made.length - held.length) / made.length;
  const trueRate =
    fields === 'pulldown' || blends.length > 0 ? (plan.sourceRate ?? perSecond) : faults ? perSecond : perSecond * fresh;
  return { held, jumps: [], blends, made: [], fields, ...plan.truth, still, trueRate: plan.truth?.trueRate ?? trueRate };
}
