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
  shrink2(from: number, width: number, to: number, w: number, h: number): void;
  blockProducts(a: number, b: number, w: number, shift: number, blocks: number, count: number, out: number): void;
  takeSurroundings(from: number, w: number, h: number, around: number, parts: number, work: number, to: number): void;
  searchTiles(
    a: number,
    b: number,
    w: number,
    h: number,
    left: number,
    top: number,
    columns: number,
    rows: number,
    across: number,
    down: number,
    out: number,
  ): void;
  squaresApart(a: number, b: number, length: number): number;
  softField(
    from: number,
    width: number,
    height: number,
    parity: number,
    bytes: number,
    shift: number,
    to: number,
    stride: number,
  ): void;
  halveSoft(from: number, width: number, height: number, stride: number, to: number, toStride: number): void;
  searchFields(
    before: number,
    own: number,
    after: number,
    width: number,
    height: number,
    stride: number,
    belowU: number,
    belowV: number,
    belowColumns: number,
    belowRows: number,
    u: number,
    v: number,
    past: number,
    future: number,
    level: number,
  ): void;
  fieldSources(
    before: number,
    own: number,
    after: number,
    nearBefore: number,
    nearAfter: number,
    stride: number,
    columns: number,
    rows: number,
    u: number,
    v: number,
    past: number,
    future: number,
    hasPast: boolean,
    hasFuture: boolean,
    helps: number,
    sources: number,
  ): number;
  makeLines(
    fields: number,
    width: number,
    height: number,
    shiftX: number,
    shiftY: number,
    parity: number,
    bytes: number,
    bits: number,
    columns: number,
    rows: number,
    u: number,
    v: number,
    sources: number,
    weights: number,
    taps: number,
    work: number,
    planes: number,
    out: number,
  ): void;
  alongEdges(
    picture: number,
    width: number,
    height: number,
    parity: number,
    bytes: number,
    bits: number,
    columns: number,
    rows: number,
    v: number,
    sources: number,
    hides: number,
  ): void;
  place(from: number, width: number, height: number, bytes: number, at: number, stride: number): void;
  padEdges8(at: number, width: number, height: number, stride: number): void;
  padEdges16(at: number, width: number, height: number, stride: number): void;
  narrow(from: number, fromStride: number, width: number, height: number, shift: number, to: number, stride: number): void;
  halve(from: number, width: number, height: number, stride: number, to: number, toStride: number): void;
  searchPatches(
    a: number,
    b: number,
    width: number,
    height: number,
    stride: number,
    columns: number,
    rows: number,
    u: number,
    v: number,
    err: number,
    detail: number,
    before: number,
    beforeColumns: number,
    beforeRows: number,
    common: number,
    commons: number,
    work: number,
    far: number,
  ): void;
  chooseVectors(
    a: number,
    b: number,
    width: number,
    height: number,
    stride: number,
    columns: number,
    rows: number,
    patchU: number,
    patchV: number,
    u: number,
    v: number,
    err: number,
    fieldStride: number,
    work: number,
  ): void;
  padField(at: number, width: number, height: number, stride: number): void;
  smoothVectors(u: number, v: number, width: number, height: number, stride: number, toU: number, toV: number): void;
  unconfirmed(
    u: number,
    v: number,
    err: number,
    backU: number,
    backV: number,
    backErr: number,
    luma: number,
    lumaStride: number,
    width: number,
    height: number,
    stride: number,
    marks: number,
    work: number,
  ): void;
  fillMarked(
    u: number,
    v: number,
    width: number,
    height: number,
    stride: number,
    marks: number,
    luma: number,
    lumaStride: number,
    cost: number,
  ): void;
  settleMarks(
    u: number,
    v: number,
    marks: number,
    backU: number,
    backV: number,
    width: number,
    height: number,
    stride: number,
  ): void;
  likeness(
    err: number,
    fieldStride: number,
    a: number,
    b: number,
    width: number,
    height: number,
    stride: number,
    marksA: number,
    marksB: number,
    out: number,
  ): void;
  fill32(at: number, length: number, value: number): void;
  carryVectors(
    u: number,
    v: number,
    err: number,
    marks: number,
    width: number,
    height: number,
    stride: number,
    step: number,
    sign: number,
    bit: number,
    toU: number,
    toV: number,
    cost: number,
    who: number,
  ): void;
  markHoles(who: number, marks: number, cost: number, length: number): number;
  weigh(who: number, cost: number, width: number, height: number, t: number, share: number, risk: number): number;
  makeFours(
    a: number,
    b: number,
    planeWidth: number,
    planeHeight: number,
    planeStride: number,
    u: number,
    v: number,
    width: number,
    height: number,
    stride: number,
    share: number,
    t: number,
    table: number,
    out: number,
    work: number,
  ): void;
  makePairs(
    a: number,
    a2: number,
    b: number,
    b2: number,
    planeWidth: number,
    planeHeight: number,
    planeStride: number,
    u: number,
    v: number,
    width: number,
    stride: number,
    share: number,
    t: number,
    table: number,
    out: number,
    out2: number,
    work: number,
  ): void;
  makePlane(
    a: number,
    b: number,
    planeWidth: number,
    planeHeight: number,
    planeStride: number,
    bytes: number,
    most: number,
    u: number,
    v: number,
    width: number,
    height: number,
    stride: number,
    share: number,
    shiftX: number,
    shiftY: number,
    scaleX: number,
    scaleY: number,
    t: number,
    table: number,
    out: number,
  ): void;
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

  i16(at: number, length: number): Int16Array {
    return new Int16Array(this.memory.buffer, at, length);
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
