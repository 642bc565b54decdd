import type { BlockStep } from './blocks.js';

/** Extreme energies of the steps in a window, per block; -1 where there is no such step. */
export interface Extremes {
  /** Largest energy before and after the step in question. */
  readonly before: Float32Array;
  readonly after: Float32Array;
  readonly least: Float32Array;
  readonly most: Float32Array;
  readonly second: Float32Array;
  readonly third: Float32Array;
}

/** A displacement for each block. */
export interface Motion {
  readonly u: Float32Array;
  readonly v: Float32Array;
}

/**
 * The newest steps' energy, detail and motion, for sums over windows of them. Step k is stored at k % slots; `count` is at most
 * `slots`. A returned array is overwritten by the next call of the same method.
 */
export interface Ring {
  put(k: number, step: BlockStep): void;
  /** @param k the step in question, within first … first + count - 1 */
  extremes(first: number, count: number, k: number): Extremes;
  /** Mean of the detail of `count` steps. */
  detail(first: number, count: number): Float32Array;
  /** Mean motion of `count` steps; `side` keeps two of them apart. */
  motion(first: number, count: number, side: 0 | 1): Motion;
}

type Kept = Pick<BlockStep, 'energy' | 'detail' | 'u' | 'v'>;

/** What the kernels do, to be read. Tests hold both together. */
export class ReferenceRing implements Ring {
  private readonly steps: Kept[];

  constructor(
    private readonly blocks: number,
    private readonly slots: number,
  ) {
    const row = (): Float32Array => new Float32Array(blocks);
    this.steps = Array.from({ length: slots }, () => ({ energy: row(), detail: row(), u: row(), v: row() }));
  }

  put(k: number, step: BlockStep): void {
    const kept = this.at(k);
    for (const name of ['energy', 'detail', 'u', 'v'] as const) kept[name].set(step[name]);
  }

  extremes(first: number, count: number, k: number): Extremes {
    const row = (): Float32Array => new Float32Array(this.blocks);
    const out = { before: row(), after: row(), least: row(), most: row(), second: row(), third: row() };
    for (let b = 0; b < this.blocks; b++) {
      const energies = Array.from({ length: count }, (_, i) => this.at(first + i).energy[b]);
      const [most = -1, second = -1, third = -1] = [...energies].sort((x, y) => y - x);
      out.before[b] = Math.max(-1, ...energies.slice(0, k - first));
      out.after[b] = Math.max(-1, ...energies.slice(k - first + 1));
      out.least[b] = Math.min(...energies);
      out.most[b] = most;
      out.second[b] = second;
      out.third[b] = third;
    }
    return out;
  }

  detail(first: number, count: number): Float32Array {
    return this.mean('detail', first, count);
  }

  motion(first: number, count: number): Motion {
    return { u: this.mean('u', first, count), v: this.mean('v', first, count) };
  }

  private mean(name: keyof Kept, first: number, count: number): Float32Array {
    return Float32Array.from({ length: this.blocks }, (_, b) => {
      let sum = 0;
      for (let i = 0; i < count; i++) sum += this.at(first + i)[name][b];
      return sum * (1 / count);
    });
  }

  private at(k: number): Kept {
    return this.steps[k % this.slots] as Kept;
  }
}
