import { Heap } from '@thawline/kernels';
import { type Grid, SUMS } from './blocks.js';
import type { Steps } from './steps.js';

/** A grid in the kernels' memory. */
interface GridAddresses {
  readonly grid: Grid;
  readonly edges: number;
  readonly sums: number;
}

/** Steps by the kernels in packages/kernels/assembly/change.ts. */
export class KernelSteps implements Steps {
  private readonly heap = new Heap();
  private readonly bytes: number;
  private readonly finePlace: GridAddresses;
  private readonly coarsePlace: GridAddresses;
  private readonly mixed: number;
  /** Oldest first. */
  private pictures: readonly [number, number, number];
  private coarsePictures: readonly [number, number];

  constructor(grid: Grid, coarseGrid: Grid) {
    const { heap } = this;
    const samples = grid.width * grid.height;
    const coarseSamples = coarseGrid.width * coarseGrid.height;
    this.bytes = heap.take(samples);
    this.mixed = heap.take(3 * 8);
    this.pictures = [heap.take(samples * 2), heap.take(samples * 2), heap.take(samples * 2)];
    this.coarsePictures = [heap.take(coarseSamples * 2), heap.take(coarseSamples * 2)];
    this.finePlace = this.place(grid);
    this.coarsePlace = this.place(coarseGrid);
  }

  push(bytes: Uint8Array): void {
    const { heap, finePlace, coarsePlace } = this;
    const { kernels } = heap;
    const { width, height } = finePlace.grid;
    const [fine, ...pictures] = this.pictures;
    const [coarse, coarseBefore] = this.coarsePictures;
    heap.u8(this.bytes, width * height).set(bytes);
    kernels.widen(this.bytes, fine, width * height);
    kernels.shrink4(fine, width, coarse, coarsePlace.grid.width, coarsePlace.grid.height);
    this.pictures = [...pictures, fine];
    this.coarsePictures = [coarseBefore, coarse];
  }

  fine(): Float64Array {
    return this.sums(this.finePlace, this.pictures[1], this.pictures[2]);
  }

  coarse(): Float64Array {
    return this.sums(this.coarsePlace, ...this.coarsePictures);
  }

  mix(): Float64Array {
    const { width, height } = this.finePlace.grid;
    this.heap.kernels.mixSums(...this.pictures, width * height, this.mixed);
    return this.heap.f64(this.mixed, 3);
  }

  private place(grid: Grid): GridAddresses {
    const edges = [grid.lefts, grid.rights, grid.tops, grid.bottoms].flatMap((some) => Array.from(some));
    const at = this.heap.take(edges.length * 4);
    this.heap.i32(at, edges.length).set(edges);
    return { grid, edges: at, sums: this.heap.take(grid.blocks * SUMS * 8) };
  }

  private sums({ grid, edges, sums }: GridAddresses, a: number, b: number): Float64Array {
    this.heap.kernels.stepSums(a, b, grid.width, edges, grid.columns, grid.rows, sums);
    return this.heap.f64(sums, grid.blocks * SUMS);
  }
}
