import type { Shape } from '../../picture/index.js';
import type { BlockStep, Grid } from './samples/blocks.js';

/**
 * Finds a burnt-in counter: a small part of the picture that keeps changing while the rest is held. Stores one bit per block and
 * picture, so that it can be evaluated later, when the held pictures are known.
 */

/** In a held picture a block differs by noise alone; LOUD times its median plus LOUD_FROM is a change. */
const LOUD = 8;
const LOUD_FROM = 1;
/** Of the held pictures so many have to show the change, and there have to be so many. */
const ALWAYS = 0.8;
const LEAST_HELD = 4;
/** A counter is small, and fills its box. */
const LARGEST_SHARE = 0.25;
const FILLED = 0.5;

/** Which blocks changed beyond noise in each step. */
export class LoudBlocks {
  private bits: Uint8Array;
  private readonly bytes: number;

  constructor(private readonly grid: Grid) {
    this.bytes = (grid.blocks + 7) >> 3;
    this.bits = new Uint8Array(this.bytes * 256);
  }

  add(k: number, { energy, middleNoise }: BlockStep): void {
    if ((k + 1) * this.bytes > this.bits.length) {
      const wider = new Uint8Array(this.bits.length * 2);
      wider.set(this.bits);
      this.bits = wider;
    }
    const limit = LOUD * middleNoise + LOUD_FROM;
    for (let b = 0; b < energy.length; b++) {
      const at = k * this.bytes + (b >> 3);
      if (energy[b] > limit) this.bits[at] = this.bits[at] | (1 << (b & 7));
    }
  }

  /** @param held pictures that show nothing new (picture k + 1 of step k); null where no part is clear */
  counter(held: readonly number[]): Shape | null {
    const { grid } = this;
    if (held.length < LEAST_HELD) return null;
    const times = new Uint32Array(grid.blocks);
    for (const picture of held) {
      const row = (picture - 1) * this.bytes;
      for (let b = 0; b < grid.blocks; b++) {
        if (this.bits[row + (b >> 3)] & (1 << (b & 7))) times[b] = times[b] + 1;
      }
    }
    const loud = Array.from(times.keys()).filter((b) => times[b] >= ALWAYS * held.length);
    if (loud.length === 0) return null;
    const columns = loud.map((b) => b % grid.columns);
    const rows = loud.map((b) => Math.floor(b / grid.columns));
    const [left, right] = [Math.min(...columns), Math.max(...columns)];
    const [top, bottom] = [Math.min(...rows), Math.max(...rows)];
    const boxed = (right - left + 1) * (bottom - top + 1);
    if (boxed > LARGEST_SHARE * grid.blocks || loud.length < FILLED * boxed) return null;
    const x = edge(left, grid.lefts, grid.width);
    const y = edge(top, grid.tops, grid.height);
    return {
      x,
      y,
      width: edge(right + 1, grid.lefts, grid.width) - x,
      height: edge(bottom + 1, grid.tops, grid.height) - y,
    };
  }
}

/** Where column (or row) of blocks i begins, as a share; blocks leave the outermost sample out, a part does not. */
function edge(i: number, begins: Int32Array, length: number): number {
  return i === 0 ? 0 : i >= begins.length ? 1 : begins[i] / length;
}

/** The largest part of the picture that has nothing of the given one: what to look at instead. */
export function beside({ x, y, width, height }: Shape): Shape {
  const sides: Shape[] = [
    { x: 0, y: 0, width: 1, height: y },
    { x: 0, y: y + height, width: 1, height: 1 - y - height },
    { x: 0, y: 0, width: x, height: 1 },
    { x: x + width, y: 0, width: 1 - x - width, height: 1 },
  ];
  return sides.reduce((best, side) => (side.width * side.height > best.width * best.height ? side : best));
}
