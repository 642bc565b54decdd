import { type BlockStep, emptyStep, type Grid, gridOf, measureStep } from './blocks.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, hypot, log, max, min, round, sqrt } = Math;

/** Pictures are measured at about this width; heights follow the shape. */
export const CHECK_WIDTH = 256;
/** Share of the blocks that counts: motion in a small part of the frame is motion. */
const TOP_SHARE = 0.1;
const COARSE = 4;
const COARSE_BLOCK = 8;
/** Least displacement (as Changes.displacement) on both sides of a picture that is looked at as a mix: below it nothing could be told. */
export const MIX_FROM = 0.12;
/** Steps on each side that a step is compared with: wide enough to hold a new picture at 8 times padding. */
export const AROUND = 12;
/** What 8-bit steps cannot tell apart, in squared steps. */
const STEP_NOISE = 0.02;
/** A part of the picture with less than a quarter of what moves has no say in the level: a counter burnt in, say. */
const LEVEL_SHARE = 0.75;

/** Size at which a picture is measured: CHECK_WIDTH wide at most, even, at least one block. */
export function checkSize(width: number, height: number): { width: number; height: number } {
  const scale = min(1, CHECK_WIDTH / width);
  const even = (n: number): number => max(16, round((n * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

/** Names of what is kept of each change; see Changes. */
export const MEASURES = [
  'rms',
  'energy',
  'motionRatio',
  'coherence',
  'coherenceNoise',
  'coarseCoherence',
  'coarseNoise',
  'onward',
  'calm',
  'calmest',
  'level',
  'variation',
  'displacement',
  'soft',
  'mixShare',
  'mixLeft',
] as const;
type Measure = (typeof MEASURES)[number];

/**
 * What changed with each picture from the second on: entry i belongs to picture i + 1. Kept as columns, so that hours stay
 * small (64 bytes a picture).
 *
 * - rms: root mean square difference of the whole picture, in 8-bit steps: the trace a person sees.
 * - energy: mean square difference of the most changed tenth of the blocks, light taken out, in squared 8-bit steps.
 * - motionRatio: energy explained by motion against noise in the most explained tenth of the blocks; about 3 with noise alone.
 * - coherence: this step's motion as a share of the motion around it in the same places, along the same direction: about 1
 *   where motion goes on, 0 in a held picture whatever its noise, 2 where a picture is missing, n for a new picture among
 *   ones that show each n times. coherenceNoise: its standard deviation from noise alone. coarse…: the same on pictures a
 *   quarter as wide, for fast motion.
 * - onward: whether motion goes the same way before and after: 1 the same, -1 the opposite (a swing's turning point, where a
 *   calm picture is no wonder), 0 nothing known.
 * - calm: logarithm of the energy against what the same blocks reach around it, the median over moving blocks; calmest:
 *   their 90th percentile, near 0 as soon as some part of the picture moves as ever. level: logarithm
 *   of the energy itself, the upper quartile of moving blocks, so that a counter burnt into a corner has no say. variation: how much blocks' energies
 *   differ over the window, 0 (not at all) to 1.
 * - displacement: weighted mean, in samples of a picture CHECK_WIDTH / 4 wide; good to about 1.5.
 * - soft: logarithm of the fine detail of moving blocks against the pictures around; negative for a mix or a made picture.
 * - mixShare, mixLeft: share of the picture before in the best mix of the pictures before and after, and what that leaves over
 *   (0 exact, 1 nothing explained or not looked at).
 */
export class Changes {
  length = 0;
  readonly columns = Object.fromEntries(MEASURES.map((name) => [name, new Float32Array(256)])) as Record<Measure, Float32Array>;

  /** Adds a change of which nothing is known yet. */
  add(): number {
    if (this.length === this.columns.rms.length) {
      for (const name of MEASURES) {
        const wider = new Float32Array(this.length * 2);
        wider.set(this.columns[name]);
        this.columns[name] = wider;
      }
    }
    const at = this.length++;
    this.columns.coherence[at] = 1;
    this.columns.coarseCoherence[at] = 1;
    this.columns.coherenceNoise[at] = 9;
    this.columns.coarseNoise[at] = 9;
    this.columns.mixLeft[at] = 1;
    return at;
  }

  at(measure: Measure, k: number): number {
    return this.columns[measure][k] as number;
  }
}

/** One step on both scales. */
interface Step {
  readonly fine: BlockStep;
  readonly coarse: BlockStep;
}

/** Takes pictures in order and measures the change of each, the first excepted. Holds a window of steps, whatever the length. */
export class ChangeMeter {
  readonly changes = new Changes();
  private readonly grid: Grid;
  private readonly coarseGrid: Grid;
  /** Step k stands at k % ring.length. */
  private readonly ring: Step[];
  private before: Float32Array | null = null;
  private current: Float32Array | null = null;
  private coarse: Float32Array | null = null;
  private readonly window: Window;

  constructor(width: number, height: number) {
    this.grid = gridOf(width, height);
    this.coarseGrid = gridOf(max(8, floor(width / COARSE)), max(8, floor(height / COARSE)), COARSE_BLOCK);
    this.ring = Array.from({ length: 2 * AROUND + 1 }, () => ({
      fine: emptyStep(this.grid.blocks),
      coarse: emptyStep(this.coarseGrid.blocks),
    }));
    this.window = new Window(this.grid.blocks, this.coarseGrid.blocks);
  }

  /** @param bytes 8-bit luma, width * height without padding; not kept */
  push(bytes: Uint8Array): void {
    const picture = new Float32Array(bytes);
    const coarse = shrinkBy(picture, this.grid.width, this.coarseGrid.width, this.coarseGrid.height, COARSE);
    if (this.current && this.coarse) this.measure(this.current, picture, this.coarse, coarse);
    this.before = this.current;
    this.current = picture;
    this.coarse = coarse;
  }

  /** To be called after the last picture: the last steps have fewer around them. */
  finish(): Changes {
    const { length } = this.changes;
    for (let k = max(0, length - AROUND); k < length; k++) this.settle(k);
    return this.changes;
  }

  private measure(a: Float32Array, b: Float32Array, coarseA: Float32Array, coarseB: Float32Array): void {
    const { changes } = this;
    const k = changes.add();
    const { fine, coarse } = this.ring[k % this.ring.length] as Step;
    const { columns } = changes;
    columns.rms[k] = sqrt(measureStep(a, b, this.grid, fine));
    measureStep(coarseA, coarseB, this.coarseGrid, coarse);
    columns.energy[k] = topMean(fine.energy);
    // Rounding to 8 bits in both pictures: never call less than that noise.
    columns.motionRatio[k] = topMean(fine.explained) / max(quantile(fine.noise, 0.5), 1 / 24);
    columns.displacement[k] = meanDisplacement(coarse);
    // Slower motion makes every picture nearly a mix of its neighbours: nothing could be told from it.
    if (this.before && k > 0 && min(columns.displacement[k - 1] as number, columns.displacement[k] as number) > MIX_FROM) {
      const mix = bestMix(this.before, a, b);
      columns.mixShare[k - 1] = mix.share;
      columns.mixLeft[k - 1] = mix.left;
    }
    if (k >= AROUND) this.settle(k - AROUND);
  }

  /** Compares step k with those around it, now that these are known. */
  private settle(k: number): void {
    const { changes, ring } = this;
    const first = max(0, k - AROUND);
    const last = min(changes.length - 1, k + AROUND);
    const steps: Step[] = [];
    for (let i = first; i <= last; i++) steps.push(ring[i % ring.length] as Step);
    this.window.compare(steps, k - first, changes, k);
  }
}

/** A displacement for each block. */
interface Motion {
  readonly u: Float64Array;
  readonly v: Float64Array;
}

/** Compares one step with the others of a window. Its arrays are used again for every window. */
class Window {
  private readonly usual: Float32Array;
  private readonly weights: Float32Array;
  private readonly levels: { value: number; weight: number }[];
  private readonly shares: { value: number; weight: number }[];
  private readonly before: Motion;
  private readonly after: Motion;

  constructor(
    private readonly blocks: number,
    coarseBlocks: number,
  ) {
    this.usual = new Float32Array(blocks);
    this.weights = new Float32Array(blocks);
    this.levels = Array.from({ length: blocks }, () => ({ value: 0, weight: 0 }));
    this.shares = Array.from({ length: max(blocks, coarseBlocks) }, () => ({ value: 0, weight: 0 }));
    const motion = (): Motion => ({
      u: new Float64Array(max(blocks, coarseBlocks)),
      v: new Float64Array(max(blocks, coarseBlocks)),
    });
    this.before = motion();
    this.after = motion();
  }

  compare(steps: readonly Step[], at: number, changes: Changes, k: number): void {
    const { columns } = changes;
    const fine = this.coherence(
      steps.map((s) => s.fine),
      at,
    );
    columns.coherence[k] = fine.share;
    columns.coherenceNoise[k] = fine.noise;
    columns.onward[k] = fine.onward;
    const coarse = this.coherence(
      steps.map((s) => s.coarse),
      at,
    );
    columns.coarseCoherence[k] = coarse.share;
    columns.coarseNoise[k] = coarse.noise;
    this.calmness(steps, at, changes, k);
  }

  /** The larger of what the steps before and after say: a burst of motion on one side does not hide what goes on on the other. */
  private coherence(steps: readonly BlockStep[], at: number): { share: number; noise: number; onward: number } {
    const own = steps[at] as BlockStep;
    const before = at >= 2 ? this.meanMotion(steps, 0, at, this.before) : null;
    const after = steps.length - 1 - at >= 2 ? this.meanMotion(steps, at + 1, steps.length, this.after) : null;
    const sides = [before, after].flatMap((side) => (side ? [this.shareOfMotion(own, side)] : []));
    const best = sides.reduce((a, b) => (b.share > a.share ? b : a), sides[0] ?? { share: 1, noise: 9 });
    return { ...best, onward: before && after ? agreement(own, before, after) : 0 };
  }

  private meanMotion(steps: readonly BlockStep[], from: number, to: number, { u, v }: Motion): Motion {
    u.fill(0);
    v.fill(0);
    const share = 1 / (to - from);
    for (let s = from; s < to; s++) {
      const other = steps[s] as BlockStep;
      for (let b = 0; b < other.u.length; b++) {
        u[b] = (u[b] as number) + (other.u[b] as number) * share;
        v[b] = (v[b] as number) + (other.v[b] as number) * share;
      }
    }
    return { u, v };
  }

  /** Blocks that move in the steps beside, weighed by how much their motion explains; the 70th percentile of their shares. */
  private shareOfMotion(own: BlockStep, { u, v }: Motion): { share: number; noise: number } {
    const { shares } = this;
    let [used, pulls, weights] = [0, 0, 0];
    for (let b = 0; b < own.u.length; b++) {
      const [mu, mv] = [u[b] as number, v[b] as number];
      const [xx, xy, yy] = [own.xx[b] as number, own.xy[b] as number, own.yy[b] as number];
      const pull = mu * mu * xx + 2 * mu * mv * xy + mv * mv * yy;
      if (!(pull > 0)) continue;
      // Least squares along the common direction, in the metric of the block's own slopes: flat directions do not vote.
      const mine = (own.u[b] as number) * (mu * xx + mv * xy) + (own.v[b] as number) * (mu * xy + mv * yy);
      const entry = shares[used++] as { value: number; weight: number };
      entry.value = mine / pull;
      entry.weight = sqrt(pull);
      weights += entry.weight;
      pulls += pull;
    }
    if (used === 0) return { share: 1, noise: 9 };
    return {
      share: weightedQuantile(shares, used, weights, 0.7),
      noise: min(9, sqrt(max(quantile(own.noise, 0.5), 1 / 24) / pulls)),
    };
  }

  /** How calm the moving blocks are, and how soft, against the window. */
  private calmness(steps: readonly Step[], at: number, changes: Changes, k: number): void {
    const own = (steps[at] as Step).fine;
    const { usual, shares } = this;
    let [variation, all, used, weights] = [0, 0, 0, 0];
    let [softness, softWeights] = [0, 0];
    for (let b = 0; b < this.blocks; b++) {
      const mine = own.energy[b] as number;
      let before = -1;
      let after = -1;
      let least = mine;
      let detail = 0;
      // The three largest: what happens to a block once or twice in the window is an event, not how it moves.
      let most = -1;
      let second = -1;
      let third = -1;
      for (let s = 0; s < steps.length; s++) {
        const { energy, detail: fine } = (steps[s] as Step).fine;
        const other = energy[b] as number;
        detail += fine[b] as number;
        if (other < least) least = other;
        if (other > third) {
          third = other;
          if (third > second) [second, third] = [third, second];
          if (second > most) [most, second] = [second, most];
        }
        if (s < at && other > before) before = other;
        else if (s > at && other > after) after = other;
      }
      // A side with fewer than four steps knows too little.
      const enoughBefore = at >= 4;
      const enoughAfter = steps.length - 1 - at >= 4;
      const reached = enoughBefore && enoughAfter ? min(before, after) : enoughBefore ? before : enoughAfter ? after : mine;
      // At the clip's ends the window is half as long.
      const rhythm = steps.length < AROUND ? reached : steps.length < AROUND * 2 ? second : third;
      usual[b] = max(mine, min(reached, rhythm));
      const moving = max(0, (usual[b] as number) - 1.5 * least);
      all += usual[b] as number;
      variation += moving;
      const weight = sqrt(moving) + 1e-3 * sqrt(usual[b] as number);
      const entry = shares[used++] as { value: number; weight: number };
      entry.value = log((mine + STEP_NOISE) / ((usual[b] as number) + STEP_NOISE));
      entry.weight = weight;
      this.weights[b] = weight;
      weights += weight;
      const moved = sqrt(max(before, after));
      softness += moved * log(((own.detail[b] as number) + 0.5) / (detail / steps.length + 0.5));
      softWeights += moved;
    }
    const { columns } = changes;
    columns.calm[k] = weightedQuantile(shares, used, weights, 0.5);
    columns.calmest[k] = weightedQuantile(shares, used, weights, 0.9);
    for (let b = 0; b < this.blocks; b++) {
      const entry = this.levels[b] as { value: number; weight: number };
      entry.value = log((own.energy[b] as number) + STEP_NOISE);
      entry.weight = this.weights[b] as number;
    }
    columns.level[k] = weightedQuantile(this.levels, this.blocks, weights, LEVEL_SHARE);
    columns.variation[k] = all > 0 ? variation / all : 0;
    columns.soft[k] = softWeights > 0 ? softness / softWeights : 0;
  }
}

/** Cosine of two motions in the metric of a step's slopes. */
function agreement(own: BlockStep, a: Motion, b: Motion): number {
  let [aa, bb, ab] = [0, 0, 0];
  for (let i = 0; i < own.u.length; i++) {
    const [xx, xy, yy] = [own.xx[i] as number, own.xy[i] as number, own.yy[i] as number];
    const [au, av, bu, bv] = [a.u[i] as number, a.v[i] as number, b.u[i] as number, b.v[i] as number];
    aa += au * au * xx + 2 * au * av * xy + av * av * yy;
    bb += bu * bu * xx + 2 * bu * bv * xy + bv * bv * yy;
    ab += au * bu * xx + (au * bv + av * bu) * xy + av * bv * yy;
  }
  return aa > 0 && bb > 0 ? ab / sqrt(aa * bb) : 0;
}

/** The value that `share` of all weight lies below. Sorts the first `used` entries. */
function weightedQuantile(entries: { value: number; weight: number }[], used: number, weights: number, share: number): number {
  const sorted = entries.slice(0, used).sort((a, b) => a.value - b.value);
  let sum = 0;
  for (const { value, weight } of sorted) {
    sum += weight;
    if (sum >= weights * share) return value;
  }
  return sorted.at(-1)?.value ?? 0;
}

function topMean(values: Float32Array): number {
  const sorted = Float32Array.from(values).sort();
  const count = max(1, round(sorted.length * TOP_SHARE));
  let sum = 0;
  for (let i = sorted.length - count; i < sorted.length; i++) sum += sorted[i] as number;
  return sum / count;
}

function quantile(values: Float32Array, q: number): number {
  const sorted = Float32Array.from(values).sort();
  return sorted[min(sorted.length - 1, floor(sorted.length * q))] as number;
}

/** Area average by a whole factor; the rest at the right and bottom is left out. */
function shrinkBy(picture: Float32Array, width: number, w: number, h: number, factor: number): Float32Array {
  const out = new Float32Array(w * h);
  const share = 1 / (factor * factor);
  for (let j = 0; j < h; j++) {
    for (let i = 0; i < w; i++) {
      let sum = 0;
      for (let y = j * factor; y < (j + 1) * factor; y++) {
        const line = y * width + i * factor;
        for (let x = line; x < line + factor; x++) sum += picture[x] as number;
      }
      out[j * w + i] = sum * share;
    }
  }
  return out;
}

/** Blocks' displacements, averaged with the weight of what they explain. */
function meanDisplacement({ u, v, explained }: BlockStep): number {
  let weighted = 0;
  let weights = 0;
  for (let b = 0; b < u.length; b++) {
    const weight = explained[b] as number;
    weighted += weight * hypot(u[b] as number, v[b] as number);
    weights += weight;
  }
  return weights > 0 ? weighted / weights : 0;
}

/** How well the middle picture is a weighted mean of its neighbours; left over is relative to their difference. */
function bestMix(before: Float32Array, middle: Float32Array, after: Float32Array): { share: number; left: number } {
  let cross = 0;
  let span = 0;
  let own = 0;
  for (let i = 0; i < middle.length; i++) {
    const e = (before[i] as number) - (after[i] as number);
    const d = (middle[i] as number) - (after[i] as number);
    cross += d * e;
    span += e * e;
    own += d * d;
  }
  if (span === 0) return { share: 0, left: 1 };
  const share = min(1, max(0, cross / span));
  return { share, left: max(0, own - 2 * share * cross + share * share * span) / span };
}
