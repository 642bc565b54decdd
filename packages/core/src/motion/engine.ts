import { type PixelLayout, planeShifts, planeSizes } from '../picture/index.js';
import { chooseVectors, type Field, fillMarked, settleMarks, smoothVectors, unconfirmed } from './field.js';
import { atMoment, certaintyOf, type FieldBetween } from './fieldBetween.js';
import { halved, narrowed, type Plane, padded } from './plane.js';
import { commonVectors, farAt, type Patches, searchPatches, type Vector } from './search.js';
import { type Lie, makePlane } from './warp.js';

/** A picture made between two. */
export interface MadePicture {
  /** 0 to 1: how sure it is, see certaintyOf. */
  readonly certainty: number;
  /** False where the two pictures show different things (a cut): what is given then is the nearer one. */
  readonly moved: boolean;
}

/** Makes pictures between neighbours. Pictures go in one after the other; what is made lies between the last two. */
export interface MotionEngine {
  /**
   * @param picture packed planes of the layout, copied
   * @param steer eight bits a pixel to find motion by, instead of the first plane
   */
  push(picture: Uint8Array, steer?: Uint8Array): void;
  /** Whether two pictures are there to make one between. */
  readonly ready: boolean;
  /**
   * @param t the moment, above 0 and below 1
   * @param out one picture's bytes, written
   */
  make(t: number, out: Uint8Array): MadePicture;
  /** Expected squared error of each sample of the last made picture's field (half the size each way, rounded up). */
  risk(): Float32Array;
}

/** Sizes of levels, finest first: halved until the short side is under 40 samples, seven at most, two at least. */
export function levelsOf(width: number, height: number): { width: number; height: number }[] {
  const levels = [{ width, height }];
  for (let w = width, h = height; levels.length < 2 || (levels.length < 7 && Math.min(w, h) >= 40); ) {
    w = (w + 1) >> 1;
    h = (h + 1) >> 1;
    levels.push({ width: w, height: h });
  }
  return levels;
}

/** How the planes lie over the field, which is half the size of luma each way. */
export function liesOf(layout: PixelLayout): Lie[] {
  return planeShifts(layout).map(({ shiftX, shiftY }) => ({
    shiftX: 1 - shiftX,
    shiftY: 1 - shiftY,
    scaleX: 2 >> shiftX,
    scaleY: 2 >> shiftY,
  }));
}

/**
 * Two pictures show different things where hardly any vector is confirmed; where few are, if what vectors leave over is much of
 * what there is: a cut.
 * @param confirmed share of vectors that the other field confirms, both ways
 * @param left mean difference after motion, still mean difference without it, in 8-bit steps
 */
export function isCut(confirmed: number, left: number, still: number): boolean {
  return still > 8 && (confirmed < 0.25 || (confirmed < 0.35 && left > 0.3 * still));
}

/** What an engine is told of its pictures, beside their layout and size. */
export interface EngineOptions {
  /** Each picture is pushed with another one to find motion by. */
  readonly steered?: boolean;
  /** Pictures show the same again so many samples further on: a way that leads around by more than half of that is the short one the other way. */
  readonly turn?: number;
}

/** The shorter of the two ways around, for each vector across. The array is changed. */
export function shortWays(u: Float32Array, turn: number): void {
  for (let i = 0; i < u.length; i++) if (Math.abs(u[i]) > turn / 2) u[i] -= Math.sign(u[i]) * turn;
}

/** The engine as it reads best: what the kernels do, and what they are compared with. Slow. */
export class ReferenceMotion implements MotionEngine {
  private pictures: { readonly planes: readonly Plane[]; readonly levels: readonly Plane[]; readonly packed: Uint8Array }[] = [];
  private pair: {
    readonly fields: readonly [Field, Field];
    readonly marks: readonly [Uint8Array, Uint8Array];
    readonly cut: boolean;
  } | null = null;
  private last: FieldBetween | null = null;

  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
    private readonly options: EngineOptions = {},
  ) {}

  get ready(): boolean {
    return this.pictures.length === 2;
  }

  push(picture: Uint8Array, steer?: Uint8Array): void {
    const { layout, width, height } = this;
    const samples = layout.bytes === 2 ? new Uint16Array(picture.slice().buffer) : picture;
    let at = 0;
    const planes = planeSizes(layout, width, height).map((size) => {
      const plane = padded(samples.subarray(at, at + size.width * size.height), size.width, size.height);
      at += size.width * size.height;
      return plane;
    });
    const luma = planes[0] as Plane;
    const levels = [steer ? padded(steer, width, height) : layout.bytes === 2 ? narrowed(luma, layout.bits) : luma];
    for (const _ of levelsOf(width, height).slice(1)) levels.push(halved(levels[levels.length - 1] as Plane));
    this.pictures = [...this.pictures.slice(-1), { planes, levels, packed: picture.slice() }];
    this.pair = null;
  }

  make(t: number, out: Uint8Array): MadePicture {
    const [a, b] = this.pictures;
    if (!a || !b) throw new RangeError('there are no two pictures to make one between');
    this.pair ??= this.estimate();
    const { fields, marks, cut } = this.pair;
    if (cut) {
      out.set((t < 0.5 ? a : b).packed);
      return { certainty: 0, moved: false };
    }
    const moment = atMoment({
      forward: fields[0],
      forwardMarks: marks[0],
      backward: fields[1],
      backwardMarks: marks[1],
      t,
      fill: (field, holes) => fillMarked(field, holes, null),
    });
    this.last = moment;
    const most = 2 ** this.layout.bits - 1;
    let at = 0;
    liesOf(this.layout).forEach((lie, i) => {
      const plane = makePlane(a.planes[i] as Plane, b.planes[i] as Plane, { moment, t, lie, most });
      const bytes = new Uint8Array(plane.buffer);
      out.set(bytes, at);
      at += bytes.length;
    });
    return { certainty: certaintyOf(moment.meanRisk), moved: true };
  }

  risk(): Float32Array {
    return this.last?.risk ?? new Float32Array();
  }

  private estimate(): NonNullable<ReferenceMotion['pair']> {
    const [a, b] = this.pictures.map((p) => p.levels) as [readonly Plane[], readonly Plane[]];
    const fields: [Field, Field] = [this.flow(a, b), this.flow(b, a)];
    const marks: [Uint8Array, Uint8Array] = [
      unconfirmed(fields[0], fields[1], a[1] as Plane),
      unconfirmed(fields[1], fields[0], b[1] as Plane),
    ];
    const cut = this.cutBetween(fields, marks);
    fillMarked(fields[0], marks[0], a[1] as Plane);
    fillMarked(fields[1], marks[1], b[1] as Plane);
    settleMarks(fields[0], marks[0], fields[1]);
    settleMarks(fields[1], marks[1], fields[0]);
    return { fields, marks, cut };
  }

  private flow(a: readonly Plane[], b: readonly Plane[]): Field {
    let patches: Patches | null = null;
    let commons: readonly Vector[] = [];
    for (let level = a.length - 1; level >= 1; level--) {
      patches = searchPatches(a[level] as Plane, b[level] as Plane, {
        before: patches,
        commons,
        far: farAt(level, a.length - 1),
      });
      commons = commonVectors(patches);
    }
    const chosen = chooseVectors(a[1] as Plane, b[1] as Plane, patches as Patches);
    // The field is half the size of luma.
    if (this.options.turn) shortWays(chosen.u, this.options.turn / 2);
    return smoothVectors(chosen);
  }

  private cutBetween(fields: readonly [Field, Field], marks: readonly [Uint8Array, Uint8Array]): boolean {
    const { width, height, stride, at, err } = fields[0];
    const [a, b] = this.pictures.map((p) => p.levels[1] as Plane) as [Plane, Plane];
    let [left, still, confirmed] = [0, 0, 0];
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        left += err[at + y * stride + x] / 100;
        const i = a.at + y * a.stride + x;
        still += Math.abs(a.data[i] - b.data[i]);
      }
    }
    for (const some of marks) for (const mark of some) if (mark === 0) confirmed++;
    const n = width * height;
    return isCut(confirmed / (2 * n), left / n, still / n);
  }
}
