import { Heap } from '@thawline/kernels';
import { type PixelLayout, pictureBytes, planeSizes } from '../picture/index.js';
import { hiddenPhases } from './edges.js';
import { FIELD_LEVELS, FIELD_PAD, fieldLevels, fieldStride } from './fieldPlane.js';
import {
  alikePlanes,
  cutBeside,
  doubled,
  doubtsOf,
  type FieldDoubts,
  type FieldRebuilder,
  type FieldWindow,
  FRAMES_BESIDE,
  fieldAt,
} from './rebuild.js';
import { BLOCK } from './vectors.js';
import { ACROSS, FARTHEST, helpsFar, lineWeights, PARTS, PHASES, SOURCES, tapsAcross } from './weights.js';

/** A soft plane in the kernels' memory: its first sample. Stride in samples. */
interface Level {
  readonly at: number;
  readonly width: number;
  readonly height: number;
  readonly stride: number;
}

interface Vectors {
  readonly columns: number;
  readonly rows: number;
  readonly u: number;
  readonly v: number;
  readonly past: number;
  readonly future: number;
}

/** Terms that a made sample may have: its own lines, and both lines of every field at all taps. */
const MOST_TERMS = 4 + 4 * FARTHEST * ACROSS;
const TERM_BYTES = 32;

/** Stored frames that are kept: a field's own, and those beside it. */
const FRAMES = 2 * FRAMES_BESIDE + 1;

/**
 * Pictures rebuilt by the kernels in packages/kernels/assembly/fields. All memory is taken when it is made: about 22 bytes a pixel of 8-bit 4:2:0. A
 * frame's number stands for its samples: another file asks for another rebuilder.
 */
export class KernelRebuilder implements FieldRebuilder {
  private readonly heap = new Heap();
  private readonly bytes: number;
  private readonly sizes: readonly { readonly width: number; readonly height: number }[];
  /** Where each stored frame lies, by its number modulo FRAMES, and which is there. */
  private readonly frames: readonly number[];
  private readonly held: number[] = Array.from({ length: FRAMES }, () => -1);
  /** Soft levels of both fields of each frame that is there; how many of them are made. */
  private readonly soft: readonly (readonly Level[])[];
  private readonly made: number[] = Array.from({ length: 2 * FRAMES }, () => 0);
  private readonly vectors: readonly Vectors[];
  private readonly sources: number;
  private readonly helps: number;
  private readonly hides: number;
  private readonly weights: number;
  private readonly taps: { readonly luma: number; readonly chroma: number };
  private readonly fields: number;
  private readonly work: number;
  private readonly out: number;

  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
  ) {
    const { heap } = this;
    this.bytes = pictureBytes(layout, width, height);
    this.sizes = planeSizes(layout, width, height);
    this.frames = Array.from({ length: FRAMES }, () => heap.take(this.bytes));
    const levels = fieldLevels(width, height);
    this.soft = Array.from({ length: 2 * FRAMES }, () =>
      levels.map((size) => {
        const stride = fieldStride(size.width);
        return { ...size, stride, at: heap.take(stride * (size.height + 2 * FIELD_PAD)) + FIELD_PAD * stride + FIELD_PAD };
      }),
    );
    this.vectors = levels.map((size) => {
      const [columns, rows] = [Math.ceil(size.width / BLOCK), Math.ceil(size.height / BLOCK)];
      const n = columns * rows;
      return { columns, rows, u: heap.take(2 * n), v: heap.take(2 * n), past: heap.take(4 * n), future: heap.take(4 * n) };
    });
    const [finest] = this.vectors as [Vectors];
    this.sources = heap.take(finest.columns * finest.rows);
    const weights = lineWeights();
    this.helps = heap.take(PHASES);
    this.hides = heap.take(SOURCES.length * PHASES);
    this.weights = heap.take(2 * weights.length);
    this.taps = { luma: heap.take(2 * PARTS * ACROSS), chroma: heap.take(2 * PARTS * ACROSS) };
    this.fields = heap.take(8 * (2 * FARTHEST + 1));
    this.work = heap.take(MOST_TERMS * TERM_BYTES);
    this.out = heap.take(this.bytes);
    heap.u8(this.helps, PHASES).set(Array.from({ length: PHASES }, (_, phase) => (helpsFar(phase) ? 1 : 0)));
    heap.u8(this.hides, SOURCES.length * PHASES).set(hiddenPhases());
    heap.i16(this.weights, weights.length).set(weights);
    for (const kind of ['luma', 'chroma'] as const) heap.i16(this.taps[kind], PARTS * ACROSS).set(tapsAcross(kind));
  }

  rebuild(window: FieldWindow, out: Uint8Array): number {
    const { heap, layout, sources } = this;
    const { kernels } = heap;
    window.frames.forEach((frame, i) => {
      if (frame) this.take(window.number + i - FRAMES_BESIDE, frame);
    });
    const [finest] = this.vectors as [Vectors];
    const has = (distance: number): boolean => (window.frames[FRAMES_BESIDE + fieldAt(window, distance).frame] ?? null) !== null;
    const blocks = finest.columns * finest.rows;
    let sides = { past: has(-1), future: has(1) };
    this.search(window, sides);
    const rest = { past: heap.i32(finest.past, blocks), future: heap.i32(finest.future, blocks) };
    const cut = sides.past && sides.future ? cutBeside(rest) : null;
    if (cut) {
      sides = { past: cut !== 'past', future: cut !== 'future' };
      this.search(window, sides);
    }
    const far = has(-FARTHEST) && has(FARTHEST);
    const both = sides.past && sides.future;
    const own = this.level(window, 0, 0);
    const met = kernels.fieldSources(
      far ? this.level(window, -FARTHEST, 0).at : 0,
      own.at,
      far ? this.level(window, FARTHEST, 0).at : 0,
      both ? this.level(window, -1, 0).at : 0,
      both ? this.level(window, 1, 0).at : 0,
      own.stride,
      finest.columns,
      finest.rows,
      finest.u,
      finest.v,
      finest.past,
      finest.future,
      sides.past,
      sides.future,
      this.helps,
      sources,
    );
    heap.u8(this.out, this.bytes).set(window.frames[FRAMES_BESIDE] as Uint8Array);
    let at = 0;
    for (const { first, count, shiftX, shiftY, of, edges } of alikePlanes(layout)) {
      const { width, height } = this.sizes[first] as (typeof this.sizes)[number];
      const table = heap.i32(this.fields, 2 * (2 * FARTHEST + 1));
      for (let distance = -FARTHEST; distance <= FARTHEST; distance++) {
        const { frame, parity } = fieldAt(window, distance);
        const place = 2 * (FARTHEST + distance);
        table[place] = has(distance) ? this.frames[slotOf(window.number + frame)] + at : 0;
        table[place + 1] = parity;
      }
      kernels.makeLines(
        this.fields,
        width,
        height,
        shiftX,
        shiftY,
        window.keeps === 'top' ? 0 : 1,
        layout.bytes,
        layout.bits,
        finest.columns,
        finest.rows,
        finest.u,
        finest.v,
        sources,
        this.weights,
        this.taps[of],
        this.work,
        count,
        this.out + at,
      );
      for (let k = 0; k < count; k++, at += width * height * layout.bytes) {
        if (!edges) continue;
        kernels.alongEdges(
          this.out + at,
          width,
          height,
          window.keeps === 'top' ? 0 : 1,
          layout.bytes,
          layout.bits,
          finest.columns,
          finest.rows,
          finest.v,
          sources,
          this.hides,
        );
      }
    }
    out.set(heap.u8(this.out, this.bytes));
    return met / Math.max(1, blocks);
  }

  doubts(): FieldDoubts {
    const [{ columns, rows, past, future }] = this.vectors as [Vectors];
    const blocks = columns * rows;
    const { heap } = this;
    const rest = { past: heap.i32(past, blocks), future: heap.i32(future, blocks) };
    return doubtsOf(rest, heap.u8(this.sources, blocks), { columns, rows });
  }

  /** Copies a frame into memory unless it is there. */
  private take(number: number, frame: Uint8Array): void {
    const slot = slotOf(number);
    if (this.held[slot] === number) return;
    this.held[slot] = number;
    this.heap.u8(this.frames[slot], this.bytes).set(frame.subarray(0, this.bytes));
    this.made[2 * slot] = 0;
    this.made[2 * slot + 1] = 0;
  }

  /** A soft level of a field so many after the one that is kept, made where it is not yet. */
  private level(window: FieldWindow, distance: number, level: number): Level {
    const { kernels } = this.heap;
    const { layout, width, height } = this;
    const { frame, parity } = fieldAt(window, distance);
    const slot = slotOf(window.number + frame);
    const field = 2 * slot + parity;
    const levels = this.soft[field] as readonly Level[];
    for (let k = this.made[field]; k <= level; k++) {
      const to = levels[k] as Level;
      const finer = levels[k - 1];
      if (finer) kernels.halveSoft(finer.at, finer.width, finer.height, finer.stride, to.at, to.stride);
      else kernels.softField(this.frames[slot], width, height, parity, layout.bytes, layout.bits - 8, to.at, to.stride);
      this.made[field] = k + 1;
    }
    return levels[level] as Level;
  }

  private search(window: FieldWindow, sides: { readonly past: boolean; readonly future: boolean }): void {
    const { heap } = this;
    // Where a side shows nothing of this scene the field itself stands for it.
    const distances = [sides.past ? -1 : 0, 0, sides.future ? 1 : 0];
    for (let level = FIELD_LEVELS - 1; level >= 0; level--) {
      const [a, o, b] = distances.map((distance) => this.level(window, distance, level)) as [Level, Level, Level];
      const own = this.vectors[level] as Vectors;
      const below = this.vectors[level + 1];
      heap.kernels.searchFields(
        a.at,
        o.at,
        b.at,
        o.width,
        o.height,
        o.stride,
        below?.u ?? 0,
        below?.v ?? 0,
        below?.columns ?? 0,
        below?.rows ?? 0,
        own.u,
        own.v,
        own.past,
        own.future,
        level,
      );
    }
    const [{ columns, rows, u, v }] = this.vectors as [Vectors];
    if (sides.past !== sides.future) doubled({ u: heap.i16(u, columns * rows), v: heap.i16(v, columns * rows) });
  }
}

const slotOf = (frame: number): number => ((frame % FRAMES) + FRAMES) % FRAMES;
