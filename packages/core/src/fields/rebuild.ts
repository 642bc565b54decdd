import { type PixelLayout, pictureBytes, planeSizes } from '../picture/index.js';
import { alongEdges } from './edges.js';
import { FIELD_LEVELS, type FieldPlane, halvedPlane, softField } from './fieldPlane.js';
import { planesOf, type Samples } from './planes.js';
import type { FieldOrder } from './reading.js';
import {
  BLOCK,
  COMPARED,
  type FieldVectors,
  goesOn,
  leadsOut,
  linesMiss,
  searchLevel,
  sidesApart,
  type ThreeFields,
} from './vectors.js';
import {
  ACROSS,
  FARTHEST,
  helpsFar,
  type LineSource,
  lineWeights,
  OWN_LINES,
  PARTS,
  PHASES,
  SOURCES,
  tapsAcross,
  WEIGHTS_EACH,
} from './weights.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min } = Math;

/** Frames on each side of a field's own from which its lines are rebuilt. */
export const FRAMES_BESIDE = 2;

/** Stored frames around a field. */
export interface FieldWindow {
  /** FRAMES_BESIDE before the field's own, its own, and as many after it: packed planes of the layout, not written to; null beyond the clip's ends. */
  readonly frames: readonly (Uint8Array | null)[];
  /** Number of the field's own frame: what is known of a frame is kept under its number. */
  readonly number: number;
  /** Which lines of the own frame are kept: its top field's (0, 2, 4 …) or its bottom field's (1, 3, 5 …). */
  readonly keeps: FieldOrder;
  /** Which field comes first in time. */
  readonly first: FieldOrder;
}

/** How little is known of made lines, block by block of BLOCK samples each way, rows one after the other: 0 where the fields beside show the same, 255 where nothing does. */
export interface FieldDoubts {
  readonly columns: number;
  readonly rows: number;
  readonly doubt: Uint8Array;
}

/** Makes whole pictures of one field each. */
export interface FieldRebuilder {
  /**
   * Lines that the field has stay bit for bit, of every plane; the others are made.
   * @param out one picture's bytes, written
   * @returns how sure the made lines are, 0 to 1: the share of blocks whose motion was met
   */
  rebuild(window: FieldWindow, out: Uint8Array): number;
  /** Of the picture that was rebuilt last; good until the next. */
  doubts(): FieldDoubts;
}

/** The frame (counted from the own one) and the lines (0 or 1) of the field so many fields after the one that is kept; before it where negative. */
export function fieldAt(
  { keeps, first }: Pick<FieldWindow, 'keeps' | 'first'>,
  distance: number,
): { frame: number; parity: number } {
  const place = (keeps === first ? 0 : 1) + distance;
  const isFirst = (place & 1) === 0;
  return { frame: place >> 1, parity: isFirst === (first === 'top') ? 0 : 1 };
}

/** What is left over of a side, for each sample: from here on it shows something else, and from here on more than the other side does. */
const SPOILT = 40;
const ONE_SIDED = 16;
const BESIDE = 2;
/** Fields further away are better where what is left over against them is less than this share of what it is against those beside: they show other lines then. */
const BETTER = 0.75;

/** So much left over for each sample is little, whatever its own lines would leave. */
const LITTLE = 2;
/** Motion that leaves so much more than lines miss of each other is not met: own lines make it better. */
const WORSE = { times: 5, of: 4 } as const;

/**
 * Whether a block's own lines make it better than its motion does: what motion leaves over is more than lines miss of each other, and so is what the
 * fields before and after do, which have the same lines where detail is too fine for fields to be compared with one between them.
 * @param left what is left over of the sides that it would be made of
 * @param sides how far both are from each other, and whether the block lies out of the picture in one; null where there is one alone
 */
export function ownIsBetter(
  left: number,
  sides: { readonly apart: number; readonly isOut: boolean } | null,
  miss: number,
): boolean {
  const worse = (sum: number): boolean => WORSE.of * sum > WORSE.times * miss;
  return left >= LITTLE * COMPARED && (sides?.isOut === true || (worse(left) && (sides === null || worse(sides.apart))));
}

/**
 * From which fields a block is made, as a place in SOURCES.
 * @param past, future what is left over against either side, in sums over COMPARED samples
 */
export function sourceOf(
  past: number,
  future: number,
  has: { readonly past: boolean; readonly future: boolean; readonly far: boolean },
): number {
  const of = (source: LineSource): number => SOURCES.indexOf(source);
  const [less, more] = [min(past, future), max(past, future)];
  if (less > SPOILT * COMPARED || !(has.past || has.future)) return of('own');
  if (!has.past) return of('future');
  if (!has.future) return of('past');
  if (more > BESIDE * less + ONE_SIDED * COMPARED) return of(past < future ? 'past' : 'future');
  return of(has.far ? 'far' : 'both');
}

/** How little is known of a block that is made from a source: what is left over of the side that shows it best, as a share of what spoils it. */
export function doubtsOf(
  { past, future }: Pick<FieldVectors, 'past' | 'future'>,
  sources: Uint8Array,
  { columns, rows }: { readonly columns: number; readonly rows: number },
): FieldDoubts {
  const doubt = sources.map((source, i) => {
    const from = SOURCES[source];
    if (from === 'own') return 255;
    const [back, forth] = [past[i], future[i]];
    const left = from === 'past' ? back : from === 'future' ? forth : (back + forth) / 2;
    return min(255, Math.round((left * 255) / (SPOILT * COMPARED)));
  });
  return { columns, rows, doubt };
}

/** Of a whole picture: so much more left over on one side than on the other, for each sample, is a cut on that side. */
const CUT = { times: 2, steps: 5 } as const;

/** On which side of a field another scene lies: everything is made from the other side then. */
export function cutBeside({ past, future }: Pick<FieldVectors, 'past' | 'future'>): 'past' | 'future' | null {
  const mean = (of: Int32Array): number => of.reduce((sum, n) => sum + n, 0) / max(1, of.length) / COMPARED;
  const [back, forth] = [mean(past), mean(future)];
  if (back > CUT.times * forth + CUT.steps) return 'past';
  return forth > CUT.times * back + CUT.steps ? 'future' : null;
}

/** Planes whose lines are made alike. */
export interface AlikePlanes {
  /** The first one's place in the picture, and how many they are. */
  readonly first: number;
  readonly count: 1 | 2;
  readonly shiftX: number;
  readonly shiftY: number;
  /** By what taps samples between others are made. */
  readonly of: 'luma' | 'chroma';
  /** Whether edges are followed where the fields beside hide them. */
  readonly edges: boolean;
}

/** The planes of a layout: luma or green, what is halved or the other colours, alpha. */
export function alikePlanes({ chroma, rgb, alpha }: PixelLayout): AlikePlanes[] {
  const own: AlikePlanes = { first: 0, count: 1, shiftX: 0, shiftY: 0, of: 'luma', edges: true };
  const planes = [own];
  if (rgb) planes.push({ ...own, first: 1, count: 2 });
  else if (chroma) planes.push({ first: 1, count: 2, ...chroma, of: 'chroma', edges: false });
  if (alpha) planes.push({ ...own, first: chroma ? 3 : 1 });
  return planes;
}

interface Sides {
  readonly past: boolean;
  readonly future: boolean;
}

/** From one field to the next it is half as far as from the one before to the one after, which is what vectors count. */
export function doubled({ u, v }: Pick<FieldVectors, 'u' | 'v'>): void {
  for (const ways of [u, v]) for (let i = 0; i < ways.length; i++) ways[i] = ways[i] * 2;
}

const q15 = (value: number, weight: number): number => (value * weight + 0x4000) >> 15;

/** The rebuilder as it reads best: what the kernels do, and what they are compared with. Slow. */
export class ReferenceRebuilder implements FieldRebuilder {
  private readonly soft = new WeakMap<Uint8Array, (readonly FieldPlane[] | undefined)[]>();
  private last: FieldDoubts = { columns: 0, rows: 0, doubt: new Uint8Array(0) };

  constructor(
    readonly layout: PixelLayout,
    readonly width: number,
    readonly height: number,
  ) {}

  rebuild(window: FieldWindow, out: Uint8Array): number {
    const { layout, width, height } = this;
    const own = window.frames[FRAMES_BESIDE] as Uint8Array;
    out.set(own.subarray(0, pictureBytes(layout, width, height)));
    const frameOf = (distance: number): Uint8Array | null =>
      window.frames[FRAMES_BESIDE + fieldAt(window, distance).frame] ?? null;
    const has = {
      past: frameOf(-1) !== null,
      future: frameOf(1) !== null,
      far: frameOf(-FARTHEST) !== null && frameOf(FARTHEST) !== null,
    };
    let sides = { past: has.past, future: has.future };
    let vectors = this.vectors(window, frameOf, sides);
    const cut = sides.past && sides.future ? cutBeside(vectors) : null;
    if (cut) {
      sides = { past: cut !== 'past', future: cut !== 'future' };
      vectors = this.vectors(window, frameOf, sides);
    }
    const near = sides.past && sides.future ? this.fields(window, frameOf, 1) : null;
    const own8 = this.levels(own, window.keeps === 'top' ? 0 : 1)[0] as FieldPlane;
    const further = has.far ? this.fields(window, frameOf, FARTHEST) : null;
    const sources = Uint8Array.from(vectors.past, (past, i) => {
      const future = vectors.future[i];
      const [u, v] = [vectors.u[i], vectors.v[i]];
      const at = { left: (i % vectors.columns) * BLOCK, top: Math.floor(i / vectors.columns) * BLOCK };
      const far = further && helpsFar(v >> 1) ? goesOn(further, { ...at, u, v, distance: FARTHEST }) : null;
      const source = sourceOf(past, future, { ...sides, far: far !== null && 2 * far < BETTER * (past + future) });
      const name = SOURCES[source];
      const left = name === 'past' ? past : name === 'future' ? future : (past + future) >> 1;
      const way = { ...at, u, v };
      const both = near && { apart: sidesApart(near, way), isOut: leadsOut(vectors, way) };
      return name !== 'own' && ownIsBetter(left, both, linesMiss(own8, at)) ? SOURCES.indexOf('own') : source;
    });
    const planes = new Map<number, Samples[]>();
    for (let distance = -FARTHEST; distance <= FARTHEST; distance++) {
      const frame = frameOf(distance);
      if (frame) planes.set(distance, planesOf(layout, frame, width, height));
    }
    const made = planesOf(layout, out, width, height);
    const parity = window.keeps === 'top' ? 0 : 1;
    const alike = alikePlanes(layout).flatMap((one) => Array.from({ length: one.count }, () => one));
    planeSizes(layout, width, height).forEach((size, i) => {
      const { of, edges, shiftX, shiftY } = alike[i] as AlikePlanes;
      const fields = Array.from({ length: 2 * FARTHEST + 1 }, (_, k) => {
        const distance = k - FARTHEST;
        const plane = planes.get(distance)?.[i];
        return plane ? { plane, parity: fieldAt(window, distance).parity, distance } : null;
      });
      rebuildPlane(fields, {
        of,
        ...size,
        shiftX,
        shiftY,
        parity,
        bits: layout.bits,
        vectors,
        sources,
        out: made[i] as Samples,
      });
      if (!edges) return;
      alongEdges(made[i] as Samples, {
        width,
        height,
        bits: layout.bits,
        parity,
        columns: vectors.columns,
        v: vectors.v,
        sources,
      });
    });
    this.last = doubtsOf(vectors, sources, vectors);
    const met = sources.reduce((sum, source) => sum + (SOURCES[source] === 'own' ? 0 : 1), 0);
    return met / max(1, sources.length);
  }

  doubts(): FieldDoubts {
    return this.last;
  }

  /** A field and those so far before and after it. */
  private fields(window: FieldWindow, frameOf: (distance: number) => Uint8Array | null, distance: number): ThreeFields {
    const at = (away: number): FieldPlane => {
      const frame = frameOf(away) as Uint8Array;
      return this.levels(frame, fieldAt(window, away).parity)[0] as FieldPlane;
    };
    return { before: at(-distance), own: at(0), after: at(distance) };
  }

  private vectors(window: FieldWindow, frameOf: (distance: number) => Uint8Array | null, sides: Sides): FieldVectors {
    const levelsAt = (distance: number): readonly FieldPlane[] => {
      const frame = frameOf(distance) as Uint8Array;
      return this.levels(frame, fieldAt(window, distance).parity);
    };
    const own = levelsAt(0);
    // Where a side shows nothing of this scene the field itself stands for it.
    const [before, after] = [sides.past ? levelsAt(-1) : own, sides.future ? levelsAt(1) : own];
    let found: FieldVectors | null = null;
    for (let level = FIELD_LEVELS - 1; level >= 0; level--) {
      const at = (levels: readonly FieldPlane[]): FieldPlane => levels[level] as FieldPlane;
      found = searchLevel({ before: at(before), own: at(own), after: at(after) }, found, level);
    }
    if (sides.past !== sides.future) doubled(found as FieldVectors);
    return found as FieldVectors;
  }

  private levels(frame: Uint8Array, parity: number): readonly FieldPlane[] {
    const known = this.soft.get(frame) ?? [];
    this.soft.set(frame, known);
    if (known[parity]) return known[parity];
    const { layout, width, height } = this;
    const luma = planesOf(layout, frame, width, height)[0] as Samples;
    const levels = [softField(luma, { width, height, parity, shift: layout.bits - 8 })];
    while (levels.length < FIELD_LEVELS) levels.push(halvedPlane(levels[levels.length - 1] as FieldPlane));
    known[parity] = levels;
    return levels;
  }
}

interface PlaneField {
  readonly plane: Samples;
  readonly parity: number;
  readonly distance: number;
}

/** Made lines are summed with this many bits. */
const SUM_BITS = 13;

function rebuildPlane(
  fields: readonly (PlaneField | null)[],
  {
    of,
    width,
    height,
    shiftX,
    shiftY,
    parity,
    bits,
    vectors,
    sources,
    out,
  }: {
    readonly of: 'luma' | 'chroma';
    readonly width: number;
    readonly height: number;
    readonly shiftX: number;
    readonly shiftY: number;
    readonly parity: number;
    readonly bits: number;
    readonly vectors: FieldVectors;
    readonly sources: Uint8Array;
    readonly out: Samples;
  },
): void {
  const [weights, taps] = [lineWeights(), tapsAcross(of)];
  const own = fields[FARTHEST] as PlaneField;
  const up = SUM_BITS - bits;
  const round = up > 0 ? 1 << (up - 1) : 0;
  const most = 2 ** bits - 1;
  const lineIn = (lines: number, y: number): number => {
    const last = height - 1 - ((height - 1 - lines) & 1);
    return max(lines, min(last, y)) * width;
  };
  const [blockWidth, blockHeight] = [BLOCK >> shiftX, BLOCK >> shiftY];
  for (let y = 1 - parity; y < height; y += 2) {
    const row = min(vectors.rows - 1, Math.floor(y / blockHeight));
    for (let x = 0; x < width; x++) {
      const block = row * vectors.columns + min(vectors.columns - 1, Math.floor(x / blockWidth));
      // Of the way from the field before to the one after half is that of one field.
      const [u, v] = [vectors.u[block] >> (1 + shiftX), vectors.v[block] >> (1 + shiftY)];
      const at = (sources[block] * PHASES + (v & (PHASES - 1))) * WEIGHTS_EACH;
      let sum = 0;
      OWN_LINES.forEach((away, i) => {
        sum += q15(own.plane[lineIn(parity, y + away) + x] << up, weights[at + i]);
      });
      for (const field of fields) {
        if (!field || field.distance === 0) continue;
        const { distance, plane } = field;
        const place = at + OWN_LINES.length + 2 * (distance < 0 ? FARTHEST + distance : FARTHEST + distance - 1);
        const [above, below] = [weights[place], weights[place + 1]];
        if (above === 0 && below === 0) continue;
        const line = lineAbove(y * PARTS + distance * v, field.parity);
        const [a, b] = [lineIn(field.parity, line), lineIn(field.parity, line + 2)];
        const first = x + ((distance * u) >> 4) - 3;
        const part = ((distance * u) & (PARTS - 1)) * ACROSS;
        for (const [from, weight] of [[a, above] as const, [b, below] as const]) {
          if (weight === 0) continue;
          for (let k = 0; k < ACROSS; k++) {
            // At a whole place one sample has all the weight.
            if (part === 0 && k !== 3) continue;
            const value = plane[from + max(0, min(width - 1, first + k))] << up;
            sum += q15(value, part === 0 ? weight : q15(weight, taps[part + k]));
          }
        }
      }
      out[y * width + x] = max(0, min(most, (sum + round) >> up));
    }
  }
}

/** The last line of a parity that is not below a place in sixteenths of a line. */
function lineAbove(place: number, parity: number): number {
  return (((place - PARTS * parity) >> 5) << 1) + parity;
}
