import { Heap } from '@thawline/kernels';
import { type PixelLayout, pictureBytes, planeSizes } from '../picture/index.js';
import { type EngineOptions, isCut, levelsOf, liesOf, type MadePicture, type MotionEngine, shortWays } from './engine.js';
import { fieldStrideOf, MARGIN } from './field.js';
import { certaintyOf } from './fieldBetween.js';
import { PAD, strideOf } from './plane.js';
import { COMMONS, commonVectors, farAt, patchesAlong } from './search.js';
import { type Lie, TAPS } from './warp.js';

/** A plane in the kernels' memory: its first sample. Stride in samples. */
interface PictureAddresses {
  readonly at: number;
  readonly width: number;
  readonly height: number;
  readonly stride: number;
}

interface Level extends PictureAddresses {
  readonly columns: number;
  readonly rows: number;
}

interface FieldPlace {
  readonly u: number;
  readonly v: number;
  readonly err: number;
  readonly marks: number;
}

interface Slot {
  readonly packed: number;
  readonly planes: readonly PictureAddresses[];
  readonly levels: readonly Level[];
}

/** Pictures made by the kernels in packages/kernels/assembly/motion. All memory is taken when it is made: 21 bytes a pixel of 8-bit 4:2:0, 46 of 10-bit 4:4:4. */
export class KernelMotion implements MotionEngine {
  private readonly heap = new Heap();
  private readonly bytes: number;
  private readonly most: number;
  private readonly lies: readonly Lie[];
  /** The older picture, then the newer one. */
  private slots: readonly [Slot, Slot];
  private pushed = 0;
  private estimated: { readonly cut: boolean } | null = null;

  private readonly size: { readonly width: number; readonly height: number; readonly stride: number };
  private readonly fields: readonly [FieldPlace, FieldPlace];
  /** A field before it is smoothed, and the moment's. */
  private readonly spare: FieldPlace;
  private readonly cost: number;
  private readonly who: number;
  private readonly share: number;
  private readonly risks: number;
  /** Patches of two levels: u, v, err, detail, one after the other. */
  private readonly patches: readonly [number, number];
  private readonly common: number;
  private readonly work: number;
  private readonly places: number;
  private readonly table: number;
  private readonly sums: number;
  private readonly out: number;
  /** Where a picture to find motion by comes in; 0 where the first plane is that. */
  private readonly steer: number;
  private readonly turn: number | undefined;

  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
    { steered = false, turn }: EngineOptions = {},
  ) {
    const { heap } = this;
    this.turn = turn;
    this.steer = steered ? heap.take(width * height) : 0;
    this.bytes = pictureBytes(layout, width, height);
    this.most = 2 ** layout.bits - 1;
    this.lies = liesOf(layout);
    this.slots = [this.slot(), this.slot()];
    const finest = this.slots[0].levels[1] as Level;
    const stride = fieldStrideOf(finest.width);
    this.size = { width: finest.width, height: finest.height, stride };
    const n = finest.width * finest.height;
    this.fields = [this.field(), this.field()];
    this.spare = this.field();
    this.cost = heap.take(n * 4);
    this.who = heap.take(n);
    this.share = heap.take(n * 2);
    this.risks = heap.take(n * 4);
    const most = finest.columns * finest.rows * 4 * 4;
    this.patches = [heap.take(most), heap.take(most)];
    this.common = heap.take(COMMONS * 16);
    this.work = heap.take(1024);
    this.places = heap.take((finest.width + 3) * 16);
    this.table = heap.take(TAPS.length * 2);
    this.sums = heap.take(24);
    this.out = heap.take(this.bytes);
    heap.i16(this.table, TAPS.length).set(TAPS);
  }

  get ready(): boolean {
    return this.pushed > 1;
  }

  push(picture: Uint8Array, steer?: Uint8Array): void {
    const { heap, layout } = this;
    if (this.steer > 0 !== (steer !== undefined))
      throw new RangeError('what motion is found by comes with each picture, or with none');
    const { kernels } = heap;
    const [older, newer] = this.slots;
    this.slots = [newer, older];
    heap.u8(older.packed, this.bytes).set(picture);
    let from = older.packed;
    for (const { at, width, height, stride } of older.planes) {
      kernels.place(from, width, height, layout.bytes, at, stride);
      if (layout.bytes === 2) kernels.padEdges16(at, width, height, stride);
      else kernels.padEdges8(at, width, height, stride);
      from += width * height * layout.bytes;
    }
    const [luma] = older.planes;
    older.levels.forEach((level, k) => {
      const finer = older.levels[k - 1];
      if (finer) kernels.halve(finer.at, finer.width, finer.height, finer.stride, level.at, level.stride);
      else if (steer) {
        heap.u8(this.steer, steer.length).set(steer);
        kernels.place(this.steer, level.width, level.height, 1, level.at, level.stride);
      } else if (layout.bytes === 2 && luma)
        kernels.narrow(luma.at, luma.stride, luma.width, luma.height, layout.bits - 8, level.at, level.stride);
      else return;
      kernels.padEdges8(level.at, level.width, level.height, level.stride);
    });
    this.pushed++;
    this.estimated = null;
  }

  make(t: number, out: Uint8Array): MadePicture {
    if (!this.ready) throw new RangeError('there are no two pictures to make one between');
    const { heap, size, fields, spare, cost, who, share, risks } = this;
    const { kernels } = heap;
    const [a, b] = this.slots;
    this.estimated ??= { cut: this.estimate() };
    if (this.estimated.cut) {
      out.set(heap.u8((t < 0.5 ? a : b).packed, this.bytes));
      return { certainty: 0, moved: false };
    }
    const { width, height, stride } = size;
    const n = width * height;
    kernels.fill32(cost, n, 1e9);
    heap.u8(who, n).fill(0);
    const carry = ({ u, v, err, marks }: FieldPlace, step: number, sign: number, own: number): void =>
      kernels.carryVectors(u, v, err, marks, width, height, stride, step, sign, own, spare.u, spare.v, cost, who);
    carry(fields[0], t, 1, 1);
    carry(fields[1], 1 - Math.fround(t), -1, 2);
    const holes = kernels.markHoles(who, spare.marks, cost, n);
    const total = kernels.weigh(who, cost, width, height, t, share, risks);
    // Prices are needed no more: the sweeps may have their place.
    if (holes > 0) kernels.fillMarked(spare.u, spare.v, width, height, stride, spare.marks, 0, 0, cost);
    this.warp(t);
    out.set(heap.u8(this.out, this.bytes));
    return { certainty: certaintyOf(total / n), moved: true };
  }

  risk(): Float32Array {
    return this.heap.f32(this.risks, this.size.width * this.size.height);
  }

  /** Makes the planes of the moment that the spare field and the shares say: the usual kinds by kernels of their own. */
  private warp(t: number): void {
    const { heap, size, spare, share, layout, table } = this;
    const { kernels } = heap;
    const [a, b] = this.slots.map((slot) => slot.planes) as [readonly PictureAddresses[], readonly PictureAddresses[]];
    const { width, height, stride } = size;
    let to = this.out;
    for (let i = 0; i < a.length; i++) {
      const [p, q] = [a[i] as PictureAddresses, b[i] as PictureAddresses];
      const { shiftX, shiftY, scaleX, scaleY } = this.lies[i] as Lie;
      const plane = [p.width, p.height, p.stride] as const;
      const bytes = p.width * p.height * layout.bytes;
      if (layout.bytes === 1 && shiftX === 1 && shiftY === 1) {
        const field = [spare.u, spare.v, width, height, stride, share] as const;
        kernels.makeFours(p.at, q.at, ...plane, ...field, t, table, to, this.places);
      } else if (layout.bytes === 1 && shiftX === 0 && shiftY === 0) {
        const [p2, q2] = [a[i + 1] as PictureAddresses, b[i + 1] as PictureAddresses];
        const field = [spare.u, spare.v, width, stride, share] as const;
        kernels.makePairs(p.at, p2.at, q.at, q2.at, ...plane, ...field, t, table, to, to + bytes, this.places);
        i++;
        to += bytes;
      } else {
        const field = [spare.u, spare.v, width, height, stride, share] as const;
        const lie = [shiftX, shiftY, scaleX, scaleY] as const;
        kernels.makePlane(p.at, q.at, ...plane, layout.bytes, this.most, ...field, ...lie, t, table, to);
      }
      to += bytes;
    }
  }

  /** Both fields between the two pictures. @returns whether they show different things */
  private estimate(): boolean {
    const { heap, size, fields, sums } = this;
    const { kernels } = heap;
    const { width, height, stride } = size;
    const [a, b] = this.slots;
    this.flow(a, b, fields[0]);
    this.flow(b, a, fields[1]);
    const [f, g] = fields;
    const [one, other] = [a.levels[1] as Level, b.levels[1] as Level];
    const sizes = [width, height, stride] as const;
    kernels.unconfirmed(f.u, f.v, f.err, g.u, g.v, g.err, one.at, one.stride, ...sizes, f.marks, this.work);
    kernels.unconfirmed(g.u, g.v, g.err, f.u, f.v, f.err, other.at, other.stride, ...sizes, g.marks, this.work);
    kernels.likeness(f.err, stride, one.at, other.at, width, height, one.stride, f.marks, g.marks, sums);
    const [left, still, confirmed] = heap.f64(sums, 3) as unknown as [number, number, number];
    const n = width * height;
    kernels.fillMarked(f.u, f.v, width, height, stride, f.marks, one.at, one.stride, this.cost);
    kernels.fillMarked(g.u, g.v, width, height, stride, g.marks, other.at, other.stride, this.cost);
    kernels.settleMarks(f.u, f.v, f.marks, g.u, g.v, width, height, stride);
    kernels.settleMarks(g.u, g.v, g.marks, f.u, f.v, width, height, stride);
    return isCut(confirmed / (2 * n), left / n, still / n);
  }

  private flow(from: Slot, to: Slot, field: FieldPlace): void {
    const { heap, size, patches, spare } = this;
    const { kernels } = heap;
    let before: Level | null = null;
    let commons = 0;
    let turn = 0;
    for (let k = from.levels.length - 1; k >= 1; k--) {
      const a = from.levels[k] as Level;
      const b = to.levels[k] as Level;
      const n = a.columns * a.rows;
      const at = patches[turn & 1];
      kernels.searchPatches(
        a.at,
        b.at,
        a.width,
        a.height,
        a.stride,
        a.columns,
        a.rows,
        at,
        at + 4 * n,
        at + 8 * n,
        at + 12 * n,
        before ? patches[(turn + 1) & 1] : 0,
        before?.columns ?? 0,
        before?.rows ?? 0,
        this.common,
        commons,
        this.work,
        farAt(k, from.levels.length - 1),
      );
      const part = (i: number): Float32Array => heap.f32(at + i * 4 * n, n);
      if (k > 1) {
        const common = commonVectors({ u: part(0), v: part(1), err: part(2), detail: part(3) });
        heap.f64(this.common, COMMONS * 2).set(common.flat());
        commons = common.length;
      } else {
        const { stride } = size;
        const vectors = [at, at + 4 * n] as const;
        kernels.chooseVectors(
          a.at,
          b.at,
          a.width,
          a.height,
          a.stride,
          a.columns,
          a.rows,
          ...vectors,
          spare.u,
          spare.v,
          field.err,
          stride,
          this.work,
        );
      }
      before = a;
      turn++;
    }
    const { width, height, stride } = size;
    // The field is half the size of luma.
    if (this.turn) shortWays(heap.f32(spare.u, stride * height), this.turn / 2);
    for (const plane of [spare.u, spare.v]) kernels.padField(plane, width, height, stride);
    kernels.smoothVectors(spare.u, spare.v, width, height, stride, field.u, field.v);
    for (const plane of [field.u, field.v]) kernels.padField(plane, width, height, stride);
  }

  private slot(): Slot {
    const { heap, layout, width, height } = this;
    const plane = (size: { width: number; height: number }, bytes: number): PictureAddresses => {
      const stride = strideOf(size.width);
      const at = heap.take(stride * (size.height + 2 * PAD) * bytes) + (PAD * stride + PAD) * bytes;
      return { at, ...size, stride };
    };
    const planes = planeSizes(layout, width, height).map((size) => plane(size, layout.bytes));
    const levels = levelsOf(width, height).map((size, k) => ({
      ...(k === 0 && layout.bytes === 1 && this.steer === 0 ? (planes[0] as PictureAddresses) : plane(size, 1)),
      columns: patchesAlong(size.width),
      rows: patchesAlong(size.height),
    }));
    return { packed: heap.take(this.bytes), planes, levels };
  }

  private field(): FieldPlace {
    const { heap } = this;
    const { width, height } = this.slots[0].levels[1] as Level;
    const stride = fieldStrideOf(width);
    const size = stride * (height + 2 * MARGIN);
    const first = MARGIN * stride + MARGIN;
    return {
      u: heap.take(size * 4) + first * 4,
      v: heap.take(size * 4) + first * 4,
      err: heap.take(size * 2) + first * 2,
      marks: heap.take(width * height),
    };
  }
}
