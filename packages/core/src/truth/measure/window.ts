import { AROUND_BREAK } from './breaks/breaks.js';
import { AHEAD } from './breaks/order.js';
import type { Changes } from './changes.js';
import type { BlockStep } from './samples/blocks.js';
import type { Motion, Ring } from './samples/ring.js';
import { KernelRing } from './samples/ring.wasm.js';
import type { Usual } from './votes.js';
import { Weighted } from './weighted.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { log, max, min, sqrt } = Math;

/** Steps on each side that a step is compared with: wide enough to hold a new picture at 8 times padding. */
export const AROUND = 12;
/** Whether a step belongs to the shot is known so many steps later. */
export const LATER = AROUND_BREAK + 1 + AHEAD;
/** Steps that are kept: a whole window, and those behind it that are not decided yet. */
export const SLOTS = 2 * AROUND + 1 + LATER;
/** What 8-bit steps cannot tell apart, in squared steps. */
const STEP_NOISE = 0.02;
/** A part of the picture with less than a quarter of what moves has no say in the level: a counter burnt in, say. */
const LEVEL_SHARE = 0.75;

/** One step on both scales. */
export interface Step {
  readonly fine: BlockStep;
  readonly coarse: BlockStep;
}

/** Motion of a step as a share of the motion beside it. */
interface Shared {
  /** The 70th percentile of the blocks' shares. */
  readonly share: number;
  /** Their least-squares mean: 0 on average where a picture holds, whatever its noise. */
  readonly along: number;
  /** Standard deviation from noise alone; UNKNOWN at the most. */
  readonly noise: number;
}

/** Noise where nothing is known of a share. */
export const UNKNOWN = 9;
const NOTHING_SHARED: Shared = { share: 1, along: 1, noise: UNKNOWN };

/** Compares one step with the others of a window. Its arrays are used again for every window. */
export class Window {
  private readonly shares: Weighted;
  private readonly levels: Weighted;
  private readonly fine: Ring;
  private readonly coarse: Ring;
  private readonly usual: Float32Array;

  constructor(
    private readonly blocks: number,
    coarseBlocks: number,
  ) {
    this.shares = new Weighted(max(blocks, coarseBlocks));
    this.levels = new Weighted(blocks);
    this.usual = new Float32Array(blocks);
    this.fine = new KernelRing(blocks, SLOTS);
    this.coarse = new KernelRing(coarseBlocks, SLOTS);
  }

  /** Takes step k, the newest. */
  put(k: number, { fine, coarse }: Step): void {
    this.fine.put(k, fine);
    this.coarse.put(k, coarse);
  }

  /**
   * Compares step k with those around it into entry k.
   * @param count steps of the window, the newest included; at most SLOTS
   * @returns overwritten by the next call
   */
  compare(first: number, count: number, k: number, step: Step, changes: Changes): Usual {
    const { columns } = changes;
    const fine = this.coherence(this.fine, first, count, k, step.fine);
    columns.coherence[k] = fine.share;
    columns.coherenceNoise[k] = fine.noise;
    columns.onward[k] = fine.onward;
    const coarse = this.coherence(this.coarse, first, count, k, step.coarse);
    columns.coarseCoherence[k] = coarse.share;
    columns.coarseAlong[k] = coarse.along;
    columns.coarseNoise[k] = coarse.noise;
    return { energy: this.usual, detail: this.calmness(first, count, k, step.fine, changes) };
  }

  /** The larger of the coherences with the steps before and after, so that a burst of motion on one side does not hide the other side. */
  private coherence(ring: Ring, first: number, count: number, k: number, own: BlockStep): Shared & { onward: number } {
    const last = first + count - 1;
    const before = k - first >= 2 ? ring.motion(first, k - first, 0) : null;
    const after = last - k >= 2 ? ring.motion(k + 1, last - k, 1) : null;
    let best: Shared | null = null;
    let [sum, weights] = [0, 0];
    for (const side of [before, after]) {
      const one = side && this.shareOfMotion(own, side);
      if (!one) continue;
      if (!best || one.share > best.share) best = one;
      if (one.noise >= UNKNOWN) continue;
      sum += one.along / one.noise ** 2;
      weights += 1 / one.noise ** 2;
    }
    return {
      ...(best ?? NOTHING_SHARED),
      along: weights > 0 ? sum / weights : 1,
      onward: before && after ? agreement(own, before, after) : 0,
    };
  }

  /** What a step's blocks have in common with those of the steps beside, weighed by how much their motion explains. */
  private shareOfMotion(own: BlockStep, { u, v }: Motion): Shared {
    const { shares } = this;
    shares.clear();
    let pulls = 0;
    let all = 0;
    for (let b = 0; b < own.u.length; b++) {
      const [mu, mv] = [u[b], v[b]];
      const [xx, xy, yy] = [own.xx[b], own.xy[b], own.yy[b]];
      const pull = mu * mu * xx + 2 * mu * mv * xy + mv * mv * yy;
      if (!(pull > 0)) continue;
      // Least squares along the common direction, in the metric of the block's own slopes: flat directions do not vote.
      const mine = own.u[b] * (mu * xx + mv * xy) + own.v[b] * (mu * xy + mv * yy);
      shares.add(mine / pull, sqrt(pull));
      pulls += pull;
      all += mine;
    }
    if (shares.length === 0) return NOTHING_SHARED;
    return {
      share: shares.quantile(0.7),
      along: all / pulls,
      noise: min(UNKNOWN, sqrt(own.middleNoise / pulls)),
    };
  }

  /** How calm the moving blocks are, and how soft, against the window. @returns the blocks' mean detail */
  private calmness(first: number, count: number, k: number, own: BlockStep, changes: Changes): Float32Array {
    const around = this.fine.extremes(first, count, k);
    const details = this.fine.detail(first, count);
    const { shares, levels } = this;
    shares.clear();
    levels.clear();
    // A side with fewer than four steps knows too little.
    const enoughBefore = k - first >= 4;
    const enoughAfter = first + count - 1 - k >= 4;
    // The third largest: what happens to a block once or twice in the window is an event, not how it moves. At the clip's ends
    // the window is half as long.
    const often = count < AROUND * 2 ? around.second : around.third;
    let [variation, all] = [0, 0];
    let [softness, softWeights] = [0, 0];
    for (let b = 0; b < this.blocks; b++) {
      const mine = own.energy[b];
      const before = around.before[b];
      const after = around.after[b];
      const reached = enoughBefore && enoughAfter ? min(before, after) : enoughBefore ? before : enoughAfter ? after : mine;
      const rhythm = count < AROUND ? reached : often[b];
      const usual = max(mine, min(reached, rhythm));
      this.usual[b] = usual;
      const moving = max(0, usual - 1.5 * around.least[b]);
      all += usual;
      variation += moving;
      const weight = sqrt(moving) + 1e-3 * sqrt(usual);
      shares.add(log((mine + STEP_NOISE) / (usual + STEP_NOISE)), weight);
      levels.add(log(mine + STEP_NOISE), weight);
      const moved = sqrt(max(before, after));
      softness += moved * log((own.detail[b] + 0.5) / (details[b] + 0.5));
      softWeights += moved;
    }
    const { columns } = changes;
    columns.calm[k] = shares.quantile(0.5);
    columns.calmest[k] = shares.quantile(0.9);
    columns.level[k] = levels.quantile(LEVEL_SHARE);
    columns.variation[k] = all > 0 ? variation / all : 0;
    columns.soft[k] = softWeights > 0 ? softness / softWeights : 0;
    return details;
  }
}

/** Cosine of two motions in the metric of a step's slopes. */
function agreement(own: BlockStep, a: Motion, b: Motion): number {
  let [aa, bb, ab] = [0, 0, 0];
  for (let i = 0; i < own.u.length; i++) {
    const [xx, xy, yy] = [own.xx[i], own.xy[i], own.yy[i]];
    const [au, av, bu, bv] = [a.u[i], a.v[i], b.u[i], b.v[i]];
    aa += au * au * xx + 2 * au * av * xy + av * av * yy;
    bb += bu * bu * xx + 2 * bu * bv * xy + bv * bv * yy;
    ab += au * bu * xx + (au * bv + av * bu) * xy + av * bv * yy;
  }
  return aa > 0 && bb > 0 ? ab / sqrt(aa * bb) : 0;
}
