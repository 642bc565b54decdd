import { Heap } from '@thawline/kernels';
import { COARSE } from './steps.js';
import {
  KEPT,
  momentsOf,
  NUMBERS,
  QUARTER,
  REACH,
  SURROUNDINGS,
  type TileGrid,
  type TileStep,
  type Tiles,
  tileGridOf,
  tileStepOf,
} from './tiles.js';

/** Tiles by the kernels in packages/kernels/assembly/tiles.ts. */
export class KernelTiles implements Tiles {
  private readonly heap = new Heap();
  readonly grid: TileGrid;
  private readonly bytes: number;
  private readonly fine: number;
  private readonly coarse: number;
  private readonly work: number;
  private readonly found: number;
  /** Newest first. */
  private pictures: readonly number[];

  constructor(
    private readonly fineWidth: number,
    private readonly fineHeight: number,
  ) {
    const { heap } = this;
    this.grid = tileGridOf(fineWidth, fineHeight);
    const { width, height, tiles } = this.grid;
    this.bytes = heap.take(fineWidth * fineHeight);
    this.fine = heap.take(fineWidth * fineHeight * 2);
    this.coarse = heap.take(width * height * 2);
    this.work = heap.take((width + 1) * (height + 1) * 4);
    this.found = heap.take(tiles * NUMBERS * 4);
    this.pictures = Array.from({ length: KEPT }, () => heap.take(width * height * 2));
  }

  push(bytes: Uint8Array): void {
    const { heap, grid, fineWidth, fineHeight } = this;
    const { kernels } = heap;
    const oldest = this.at(KEPT - 1);
    heap.u8(this.bytes, fineWidth * fineHeight).set(bytes);
    kernels.widen(this.bytes, this.fine, fineWidth * fineHeight);
    kernels.shrink4(this.fine, fineWidth, this.coarse, grid.width, grid.height);
    kernels.takeSurroundings(this.coarse, grid.width, grid.height, SURROUNDINGS, QUARTER, this.work, oldest);
    this.pictures = [oldest, ...this.pictures.slice(0, -1)];
  }

  search(back: number): TileStep {
    const { heap, found } = this;
    const { width, height, left, top, columns, rows, tiles } = this.grid;
    heap.kernels.searchTiles(this.at(back), this.at(0), width, height, left, top, columns, rows, REACH.across, REACH.down, found);
    return tileStepOf(heap.i32(found, tiles * NUMBERS), tiles);
  }

  moments(): { mean: number; deviation: number } {
    return momentsOf(this.heap.i16(this.coarse, this.grid.width * this.grid.height));
  }

  apart(back: number): number {
    const samples = this.grid.width * this.grid.height;
    return this.heap.kernels.squaresApart(this.at(back), this.at(0), samples) / (samples * ((COARSE * COARSE) / 4) ** 2);
  }

  private at(back: number): number {
    return this.pictures[back];
  }
}
