import { KERNELS } from './generated.js';

/** What assembly/index.ts exports; pointers are byte offsets. */
export interface Kernels {
  heapBase(): number;
  widen(from: number, to: number, length: number): void;
  shrink4(from: number, width: number, to: number, w: number, h: number): void;
  stepSums(a: number, b: number, width: number, edges: number, columns: number, rows: number, sums: number): void;
  mixSums(before: number, middle: number, next: number, length: number, sums: number): void;
  extremes(rows: number, strideBytes: number, slots: number, first: number, count: number, at: number, out: number): void;
  means(rows: number, strideBytes: number, slots: number, first: number, count: number, out: number): void;
}

const PAGE = 65536;
/** Vectors are read and written whole: this many bytes after (and before) each piece may be touched. */
const SLACK = 32;

let compiled: WebAssembly.Module | null = null;

/**
 * One instance of the kernels with a memory of its own. Pieces are taken once, when the sizes are known, and given back all
 * together, when the heap is dropped. This is the one file that sees the memory's buffer.
 */
export class Heap {
  readonly kernels: Kernels;
  private readonly memory: WebAssembly.Memory;
  private next: number;

  constructor() {
    compiled ??= new WebAssembly.Module(decode(KERNELS));
    this.memory = new WebAssembly.Memory({ initial: 1 });
    const instance = new WebAssembly.Instance(compiled, { env: { memory: this.memory, abort } });
    this.kernels = instance.exports as unknown as Kernels;
    this.next = this.kernels.heapBase();
  }

  /** @returns the first byte of a new piece, a multiple of 16, all zero */
  take(bytes: number): number {
    const at = (this.next + SLACK + 15) & ~15;
    this.next = at + bytes + SLACK;
    const missing = this.next - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return at;
  }

  /** Views are good until the next `take`. */
  u8(at: number, length: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, at, length);
  }

  i32(at: number, length: number): Int32Array {
    return new Int32Array(this.memory.buffer, at, length);
  }

  f32(at: number, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, length);
  }

  f64(at: number, length: number): Float64Array {
    return new Float64Array(this.memory.buffer, at, length);
  }
}

function abort(): never {
  throw new Error('A kernel was given what it cannot take.');
}

function decode(base64: string): Uint8Array<ArrayBuffer> {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes;
}
