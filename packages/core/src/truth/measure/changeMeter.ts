import type { Shape } from '../../picture/index.js';
import { Breaks } from './breaks/breaks.js';
import { Likenesses } from './breaks/likeness.js';
import { Order } from './breaks/order.js';
import { TileTrack } from './breaks/tileTrack.js';
import { Changes } from './changes.js';
import { LoudBlocks } from './counter.js';
import { type BlockStep, emptyStep, fitStep, type Grid, gridOf } from './samples/blocks.js';
import { COARSE, type Steps } from './samples/steps.js';
import { KernelSteps } from './samples/steps.wasm.js';
import { tileGridOf } from './samples/tiles.js';
import { BlockVotes } from './votes.js';
import { AROUND, LATER, SLOTS, type Step, Window } from './window.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, hypot, max, min, round, sqrt } = Math;

/** Pictures are measured at about this width; heights follow the shape. */
export const CHECK_WIDTH = 256;
/**
 * FFmpeg's averaging is twice as quick at one in seven as at one in six, 7.5 or eight (measured: 0.5 against 1.1 to 1.4 ms for a picture of
 * 1920x1080), which is a twentieth of all that a check of 1920 costs.
 */
const QUICK = 7;
const QUICK_UP_TO = 9;
/** Share of the blocks that counts: motion in a small part of the frame is motion. */
const TOP_SHARE = 0.1;
const COARSE_BLOCK = 8;
/** Least displacement (Changes.displacement) on both sides of a picture for it to be examined as a mix: slower motion shows nothing. */
const MIX_FROM = 0.12;

/** Size at which a picture is measured: CHECK_WIDTH wide at most, or a little more where that is cheaper; even, at least one block. */
export function checkSize(width: number, height: number): { width: number; height: number } {
  const reduction = max(1, width / CHECK_WIDTH);
  const scale = 1 / (reduction > QUICK && reduction < QUICK_UP_TO ? QUICK : reduction);
  const even = (n: number): number => max(16, round((n * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}

/** Takes pictures in order and measures the change of each, the first excepted. Holds a window of steps, whatever the length. */
export class ChangeMeter {
  readonly changes = new Changes();
  private readonly grid: Grid;
  private readonly coarseGrid: Grid;
  /** Step k is stored at k % SLOTS. */
  private readonly ring: Step[];
  private readonly steps: Steps;
  private readonly loud: LoudBlocks;
  private pushed = 0;
  private readonly window: Window;
  private readonly track: TileTrack;
  private readonly likenesses: Likenesses;
  private readonly breaks: Breaks;
  private readonly order: Order;
  private readonly votes: BlockVotes;
  private settled = 0;

  /** @param width, height at least 16 */
  constructor(width: number, height: number) {
    this.grid = gridOf(width, height);
    this.coarseGrid = gridOf(floor(width / COARSE), floor(height / COARSE), COARSE_BLOCK);
    this.loud = new LoudBlocks(this.grid);
    this.steps = new KernelSteps(this.grid, this.coarseGrid);
    this.ring = Array.from({ length: SLOTS }, () => ({
      fine: emptyStep(this.grid.blocks),
      coarse: emptyStep(this.coarseGrid.blocks),
    }));
    this.window = new Window(this.grid.blocks, this.coarseGrid.blocks);
    this.track = new TileTrack(width, height);
    this.likenesses = new Likenesses(width, height);
    this.breaks = new Breaks(this.track, this.likenesses);
    this.votes = new BlockVotes(this.grid, tileGridOf(width, height));
    this.changes.votes = this.votes;
    this.order = new Order(this.track, (k) => this.changes.columns.broken[k] === 1);
  }

  /** @param bytes 8-bit luma, width * height without padding; not kept */
  push(bytes: Uint8Array): void {
    this.track.push(bytes);
    this.likenesses.push(bytes);
    this.steps.push(bytes);
    if (++this.pushed > 1) this.measure();
  }

  /** To be called after the last picture: the last steps have fewer around them. */
  finish(): Changes {
    const { length } = this.changes;
    this.findBreaks(true);
    while (this.settled < length) this.settle(this.settled++);
    this.bridge();
    this.changes.cuts = this.breaks.cuts;
    this.changes.faults = [...this.breaks.faults, ...this.order.faults].sort((a, b) => a.picture - b.picture);
    return this.changes;
  }

  /** The part of the picture that changes in held pictures; null when there is none or it is unclear. */
  counter(held: readonly number[]): Shape | null {
    return this.loud.counter(held);
  }

  private measure(): void {
    const { changes, steps } = this;
    const k = changes.add();
    const step = this.ring[k % SLOTS] as Step;
    const { fine, coarse } = step;
    const { columns } = changes;
    columns.light[k] = k > 0 ? this.track.at(k).mean - this.track.at(k - 1).mean : 0;
    columns.contrast[k] = this.track.at(k).deviation;
    columns.detail[k] = this.track.at(k).detail;
    columns.rms[k] = sqrt(fitStep(steps.fine(), this.grid, 1, fine));
    fitStep(steps.coarse(), this.coarseGrid, COARSE * COARSE, coarse);
    this.window.put(k, step);
    this.loud.add(k, fine);
    columns.energy[k] = topMean(fine.energy);
    columns.displacement[k] = meanDisplacement(coarse);
    // With slower motion every picture is nearly a mix of its neighbours.
    if (k > 0 && min(columns.displacement[k - 1], columns.displacement[k]) > MIX_FROM) {
      const mix = bestMix(steps.mix());
      columns.mixShare[k - 1] = mix.share;
      columns.mixLeft[k - 1] = mix.left;
    }
    this.findBreaks(false);
    if (k >= AROUND + LATER) this.settle(this.settled++);
  }

  private findBreaks(end: boolean): void {
    const { changes, breaks, order } = this;
    breaks.decide(end, (k) => {
      changes.columns.broken[k] = 1;
    });
    order.decide(breaks.decided, end, (k, found) => {
      if (found === 'misplaced') changes.columns.broken[k] = 1;
      else {
        changes.columns.missing[k] = found.missing;
        changes.columns.pace[k] = found.pace;
      }
    });
  }

  /** Compares step k with those around it, now that these are known. */
  private settle(k: number): void {
    const { changes, ring } = this;
    const { broken } = changes.columns;
    if (broken[k]) return;
    // Motion goes on within a shot only.
    let first = max(0, k - AROUND);
    for (let i = k - 1; i >= first; i--) if (broken[i]) first = i + 1;
    let end = min(changes.length, k + AROUND + 1);
    for (let i = k + 1; i < end; i++) if (broken[i]) end = i;
    const step = ring[k % SLOTS] as Step;
    const usual = this.window.compare(first, end - first, k, step, changes);
    this.votes.add(k, step.fine, usual, this.track.at(k).tiles);
  }

  /** A broken step has nothing of its own to say: it takes the level of its neighbours, so that others are not measured by it. */
  private bridge(): void {
    const { length, columns } = this.changes;
    const { broken, level, mixLeft, soft } = columns;
    for (let k = 0; k < length; k++) {
      if (!broken[k]) continue;
      const [before, after] = [nearest(broken, k, -1, length), nearest(broken, k, 1, length)];
      level[k] = max(before < 0 ? -9 : level[before], after < 0 ? -9 : level[after], -9);
      soft[k] = 0;
      mixLeft[k] = 1;
      if (k > 0) mixLeft[k - 1] = 1;
    }
  }
}

/** The next step in a direction that is not broken; -1 where there is none. */
function nearest(broken: Float32Array, k: number, by: 1 | -1, length: number): number {
  let at = k + by;
  while (at >= 0 && at < length && broken[at]) at += by;
  return at >= 0 && at < length ? at : -1;
}

function topMean(values: Float32Array): number {
  const sorted = values.slice().sort();
  const count = max(1, round(sorted.length * TOP_SHARE));
  let sum = 0;
  for (let i = sorted.length - count; i < sorted.length; i++) sum += sorted[i];
  return sum / count;
}

/** Blocks' displacements, averaged with the weight of what they explain. */
function meanDisplacement({ u, v, explained }: BlockStep): number {
  let weighted = 0;
  let weights = 0;
  for (let b = 0; b < u.length; b++) {
    const weight = explained[b];
    weighted += weight * hypot(u[b], v[b]);
    weights += weight;
  }
  return weights > 0 ? weighted / weights : 0;
}

/** How well the middle picture is a weighted mean of its neighbours; left over is relative to their difference. */
function bestMix(sums: Float64Array): { share: number; left: number } {
  const [cross, span, own] = sums as unknown as [number, number, number];
  if (span === 0) return { share: 0, left: 1 };
  const share = min(1, max(0, cross / span));
  return { share, left: max(0, own - 2 * share * cross + share * share * span) / span };
}
