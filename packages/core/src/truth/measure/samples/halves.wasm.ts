import { Heap } from '@thawline/kernels';
import { AROUND_HALF, type HalfGrid, type Halves, halfGridOf, KEPT_HALVES, levelOf, PRODUCTS } from './halves.js';

/** Halved pictures by the kernels in packages/kernels/assembly/halves.ts: made when they are first asked for, which few are. */
export class KernelHalves implements Halves {
  readonly grid: HalfGrid;
  pushed = 0;
  private readonly heap = new Heap();
  /** Where each picture lies, by its number modulo KEPT_HALVES, and which of them were halved. */
  private readonly bytes: readonly number[];
  private readonly halved: readonly number[];
  private readonly details: readonly number[];
  private readonly made = new Set<number>();
  private readonly work: number;
  private readonly blocks: number;
  private readonly found: number;

  constructor(
    private readonly fineWidth: number,
    private readonly fineHeight: number,
  ) {
    const { heap } = this;
    this.grid = halfGridOf(fineWidth, fineHeight);
    const { width, height, blocks } = this.grid;
    const slots = (size: number): number[] => Array.from({ length: KEPT_HALVES }, () => heap.take(size));
    this.bytes = slots(fineWidth * fineHeight);
    this.halved = slots(width * height * 2);
    this.details = slots(width * height * 2);
    this.work = heap.take((width + 1) * (height + 1) * 4);
    this.blocks = heap.take(blocks.length * 4);
    this.found = heap.take(blocks.length * PRODUCTS * 4);
    heap.i32(this.blocks, blocks.length).set(blocks.map(({ x, y }) => y * width + x));
  }

  push(bytes: Uint8Array): void {
    const slot = this.pushed++ % KEPT_HALVES;
    this.heap.u8(this.bytes[slot], this.fineWidth * this.fineHeight).set(bytes);
    this.made.delete(slot);
  }

  products(a: number, b: number, dx: number, dy: number): Int32Array {
    const { heap, grid, found, blocks } = this;
    const [before, after] = [this.details[this.make(a)], this.details[this.make(b)]];
    heap.kernels.blockProducts(before, after, grid.width, dy * grid.width + dx, blocks, grid.blocks.length, found);
    return heap.i32(found, grid.blocks.length * PRODUCTS);
  }

  levelAt(picture: number, x: number, y: number): number {
    const { width, height } = this.grid;
    return levelOf(this.heap.i16(this.halved[this.make(picture)], width * height), width, x, y);
  }

  /** Halves a picture if that was not done yet. @returns its slot */
  private make(picture: number): number {
    const slot = picture % KEPT_HALVES;
    if (this.made.has(slot)) return slot;
    const { width, height } = this.grid;
    const { kernels } = this.heap;
    const [halved, detail] = [this.halved[slot], this.details[slot]];
    kernels.shrink2(this.bytes[slot], this.fineWidth, halved, width, height);
    kernels.takeSurroundings(halved, width, height, AROUND_HALF, 1, this.work, detail);
    this.made.add(slot);
    return slot;
  }
}
