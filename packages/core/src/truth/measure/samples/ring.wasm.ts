import { Heap } from '@thawline/kernels';
import type { BlockStep } from './blocks.js';
import type { Extremes, Motion, Ring } from './ring.js';

const EXTREMES = 6;

/** A ring by the kernels in packages/kernels/assembly/window.ts. */
export class KernelRing implements Ring {
  private readonly heap = new Heap();
  private readonly strideBytes: number;
  private readonly rows: { readonly energy: number; readonly detail: number; readonly u: number; readonly v: number };
  /** Where results go, and views of them: nothing is taken of the heap after they are made. */
  private readonly extremesAt: number;
  private readonly meansAt: readonly number[];
  private readonly extremesOut: Extremes;
  private readonly meansOut: readonly Float32Array[];

  constructor(
    private readonly blocks: number,
    private readonly slots: number,
  ) {
    const { heap } = this;
    this.strideBytes = Math.ceil(blocks / 4) * 16;
    const ring = (): number => heap.take(this.strideBytes * slots);
    this.rows = { energy: ring(), detail: ring(), u: ring(), v: ring() };
    this.extremesAt = heap.take(this.strideBytes * EXTREMES);
    this.meansAt = Array.from({ length: 5 }, () => heap.take(this.strideBytes));
    const row = (i: number): Float32Array => heap.f32(this.extremesAt + i * this.strideBytes, blocks);
    this.extremesOut = { before: row(0), after: row(1), least: row(2), most: row(3), second: row(4), third: row(5) };
    this.meansOut = this.meansAt.map((at) => heap.f32(at, blocks));
  }

  put(k: number, step: BlockStep): void {
    const at = (k % this.slots) * this.strideBytes;
    for (const name of ['energy', 'detail', 'u', 'v'] as const) this.heap.f32(this.rows[name] + at, this.blocks).set(step[name]);
  }

  extremes(first: number, count: number, k: number): Extremes {
    const { heap, rows, strideBytes, slots, extremesAt } = this;
    heap.kernels.extremes(rows.energy, strideBytes, slots, first % slots, count, k - first, extremesAt);
    return this.extremesOut;
  }

  detail(first: number, count: number): Float32Array {
    return this.mean('detail', first, count, 0);
  }

  motion(first: number, count: number, side: 0 | 1): Motion {
    const u = this.mean('u', first, count, 1 + 2 * side);
    return { u, v: this.mean('v', first, count, 2 + 2 * side) };
  }

  private mean(name: 'detail' | 'u' | 'v', first: number, count: number, to: number): Float32Array {
    const { heap, rows, strideBytes, slots } = this;
    heap.kernels.means(rows[name], strideBytes, slots, first % slots, count, this.meansAt[to]);
    return this.meansOut[to] as Float32Array;
  }
}
