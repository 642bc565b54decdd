import type { BlockStep, Grid } from './samples/blocks.js';
import { COARSE } from './samples/steps.js';
import { TILE, type TileGrid, type TileStep } from './samples/tiles.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min } = Math;

/**
 * What each block of a picture does in each step, in two bits: parts of a picture have rates of their own, and which parts there are shows
 * only when all pictures were seen.
 */
export const VOTES = { none: 0, held: 1, changed: 2, moved: 3 } as const;

/** A block that usually changes by less than this, in squared 8-bit steps, does not move. */
const LOUD_FROM = 0.5;
/** What has less than this share of its usual detail is not there to be seen moving. */
const THERE = 0.5;
/** It holds below the first share of its usual change, and may move from the second on; between both it does neither clearly. */
const HOLDS = 0.25;
const IS_NEW = 0.4;
/** Motion explains at least this share of a change; a tile that is found elsewhere keeps less than that of it. */
const EXPLAINED = 0.25;
const FOUND = 0.5;
/** Coarse samples that a tile has to have moved by for that. */
const ELSEWHERE = 0.3;

/** What each block usually changes by, and how much detail it has. */
export interface Usual {
  readonly energy: Float32Array;
  readonly detail: Float32Array;
}

/** Two bits a block and step. */
export class BlockVotes {
  /** Steps so far. */
  length = 0;
  private bytes = new Uint8Array(1 << 12);
  private readonly row: number;
  /** The tile that each block's middle lies in. */
  private readonly tileOf: Int32Array;

  constructor(
    readonly grid: Grid,
    tiles: TileGrid,
  ) {
    this.row = (grid.blocks + 3) >> 2;
    this.tileOf = Int32Array.from({ length: grid.blocks }, (_, b) => nearestTile(grid, tiles, b));
  }

  at(k: number, block: number): number {
    if (k >= this.length) return VOTES.none;
    return (this.bytes[k * this.row + (block >> 2)] >> ((block & 3) * 2)) & 3;
  }

  /**
   * Takes what all blocks do in step k.
   * @param usual of the steps around
   * @param tiles what was found of the tiles in that step
   */
  add(k: number, step: BlockStep, usual: Usual, tiles: TileStep): void {
    while ((k + 1) * this.row > this.bytes.length) {
      const wider = new Uint8Array(this.bytes.length * 2);
      wider.set(this.bytes);
      this.bytes = wider;
    }
    this.length = max(this.length, k + 1);
    const { grid, tileOf } = this;
    for (let b = 0; b < grid.blocks; b++) {
      const often = usual.energy[b];
      if (often < LOUD_FROM) continue;
      const energy = step.energy[b];
      let vote: number = VOTES.none;
      if (energy < HOLDS * often) {
        if (step.detail[b] >= THERE * usual.detail[b]) vote = VOTES.held;
      } else vote = energy > IS_NEW * often && this.moves(b, step, tiles, tileOf[b]) ? VOTES.moved : VOTES.changed;
      const at = k * this.row + (b >> 2);
      this.bytes[at] = this.bytes[at] | (vote << ((b & 3) * 2));
    }
  }

  private moves(b: number, { energy, explained }: BlockStep, { u, v, left, still }: TileStep, t: number): boolean {
    const { grid } = this;
    const [row, column] = [floor(b / grid.columns), b % grid.columns];
    const samples = (grid.bottoms[row] - grid.tops[row]) * (grid.rights[column] - grid.lefts[column]);
    if (2 * explained[b] > EXPLAINED * energy[b] * samples) return true;
    if (t < 0) return false;
    const far = u[t] ** 2 + v[t] ** 2;
    return far > ELSEWHERE * ELSEWHERE && left[t] < FOUND * still[t];
  }
}

function nearestTile(grid: Grid, tiles: TileGrid, b: number): number {
  if (tiles.tiles === 0) return -1;
  const middle = (starts: Int32Array, ends: Int32Array, i: number): number => (starts[i] + ends[i]) / 2 / COARSE;
  const place = (at: number, first: number, count: number): number => max(0, min(count - 1, floor((at - first) / TILE)));
  const column = place(middle(grid.lefts, grid.rights, b % grid.columns), tiles.left, tiles.columns);
  const row = place(middle(grid.tops, grid.bottoms, floor(b / grid.columns)), tiles.top, tiles.rows);
  return row * tiles.columns + column;
}
