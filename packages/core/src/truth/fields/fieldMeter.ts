// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min } = Math;

/** Of so many lines of a field one is compared: motion shows in all of them. */
const EVERY = 3;
/** A block's columns, and its compared lines. */
const BLOCK = { columns: 16, lines: 4 } as const;
/** A block is asked where it has moved, in the last few steps, by this share of what the one that moves most has. */
const MOVES = 0.3;
/** At least this share of all blocks is asked. */
const LEAST_ASKED = 0.1;
/** A step that changes so many times as much as those before it is a cut. */
const CUT = 6;
/** What counts of a block's past motion with each step. */
const KEEPS = 0.8;

/**
 * How the fields of each picture lie between those of the pictures beside it, where something moves. Of two fields half a picture apart things
 * moved less than of two that are one and a half apart; where both fields are of one moment, both distances are one picture, whatever moves
 * and however fast.
 *
 * - own: mean square difference of a picture's two fields, in squared 8-bit steps.
 * - lowerToUpper: of its lower field and the next picture's upper one. upperToLower: of its upper and the next one's lower.
 * - upper, lower: of fields of one kind, a picture apart. twice: the mean of both, two pictures apart, up to this step's later one; 0 where
 *   there is none.
 */
export interface FieldStep {
  readonly own: number;
  readonly lowerToUpper: number;
  readonly upperToLower: number;
  readonly upper: number;
  readonly lower: number;
  readonly twice: number;
  /** Of the next picture, in the same places. */
  readonly nextOwn: number;
  /** How many were compared. */
  readonly samples: number;
}

/** Numbers summed of each block, and kept of each step: in the order of FieldStep. */
const SUMS = 7;
const KEPT = SUMS + 1;

/** Samples are kept in so many parts of an 8-bit step: in smooth shades fields are brought towards each other by less than one. */
const PARTS = 16;

type Pair = readonly [upper: Uint16Array, lower: Uint16Array];

/** Takes pictures whose lines are of two fields in turn, and keeps a few numbers of each step. */
export class FieldMeter {
  /** Pictures so far. */
  length = 0;
  private numbers = new Float32Array(KEPT * 256);
  private readonly rows: number;
  /** Blocks a row of blocks. */
  private readonly columns: number;
  private readonly blocks: number;
  /** Upper and lower fields, the newest picture's first. */
  private pictures: Pair[];
  /** SUMS a block. */
  private readonly sums: Float64Array;
  /** What each block moved by lately. */
  private readonly moved: Float64Array;
  private readonly sorted: Float64Array;
  /** What the whole picture lately changed by, and whether the last step was a cut. */
  private usual = 0;
  private wasCut = false;
  /** Share of a line by which fields are brought towards each other: a quarter of what two lines of one are apart, in stored ones. */
  private readonly shift: number;

  /**
   * @param width of a picture
   * @param height of one field as given, in lines
   * @param stored of one field as stored, in lines: fields lie one line of the picture apart, half of one of theirs
   */
  constructor(
    private readonly width: number,
    height: number,
    stored: number,
  ) {
    this.rows = floor(max(0, height - 2) / EVERY);
    this.columns = max(1, floor(width / BLOCK.columns));
    this.blocks = this.columns * max(1, floor(this.rows / BLOCK.lines));
    this.sums = new Float64Array(this.blocks * SUMS);
    this.moved = new Float64Array(this.blocks);
    this.sorted = new Float64Array(this.blocks);
    const pair = (): Pair => [new Uint16Array(width * this.rows), new Uint16Array(width * this.rows)];
    this.pictures = [pair(), pair(), pair()];
    this.shift = min(0.5, (0.25 * height) / stored);
  }

  /** @param bytes 8-bit luma, width * 2 height, the upper field's lines first, third, fifth, …; not kept */
  push(bytes: Uint8Array): void {
    this.pictures = [this.pictures[2], this.pictures[0], this.pictures[1]] as Pair[];
    this.take(bytes);
    const k = this.length++;
    if (k === 0) return;
    if (k * KEPT > this.numbers.length) {
      const wider = new Float32Array(this.numbers.length * 2);
      wider.set(this.numbers);
      this.numbers = wider;
    }
    this.sumBlocks();
    this.keep(k - 1);
  }

  /** The step from picture k to the next one. */
  at(k: number): FieldStep {
    const [own, lowerToUpper, upperToLower, upper, lower, twice, nextOwn, samples] = this.numbers.subarray(
      k * KEPT,
      (k + 1) * KEPT,
    );
    return { own, lowerToUpper, upperToLower, upper, lower, twice, nextOwn, samples } as FieldStep;
  }

  /** How much picture k's own fields differ. */
  own(k: number): number {
    return k < this.length - 1 ? this.at(k).own : k > 0 ? this.at(k - 1).nextOwn : 0;
  }

  /** Means over the blocks that move. */
  private keep(k: number): void {
    const { sums, moved, blocks } = this;
    const past = k > 0;
    let most = 0;
    let all = 0;
    for (let b = 0; b < blocks; b++) all += ((sums[b * SUMS + 3] as number) + (sums[b * SUMS + 4] as number)) / 2;
    // Across a cut nothing moved, nor is the picture two before the next one of any use.
    const leaps = this.usual > 0 && all > CUT * this.usual;
    // What goes on leaping has begun to move: another scene would have come to rest.
    const cut = leaps && !this.wasCut;
    const learns = past && !cut && !this.wasCut;
    if (!cut) this.usual = this.usual === 0 || leaps ? all : KEEPS * this.usual + (1 - KEEPS) * all;
    this.wasCut = cut;
    for (let b = 0; b < blocks; b++) {
      const at = b * SUMS;
      const once = ((sums[at + 3] as number) + (sums[at + 4] as number)) / 2;
      if (learns) moved[b] = KEEPS * (moved[b] as number) + (1 - KEEPS) * ((sums[at + 5] as number) - once);
      most = max(most, moved[b] as number);
    }
    // Too few would say what chance does.
    this.sorted.set(moved);
    this.sorted.sort();
    const from = min(MOVES * most, this.sorted[floor(blocks * (1 - LEAST_ASKED))] as number);
    let asked = 0;
    const out = this.numbers.subarray(k * KEPT, (k + 1) * KEPT).fill(0);
    for (let b = 0; b < blocks; b++) {
      if ((moved[b] as number) < from) continue;
      asked++;
      for (let i = 0; i < SUMS; i++) out[i] = (out[i] as number) + (sums[b * SUMS + i] as number);
    }
    const samples = asked * BLOCK.columns * BLOCK.lines;
    for (let i = 0; i < SUMS; i++) out[i] = (out[i] as number) / max(1, samples);
    out[SUMS] = samples;
    if (!past) out[5] = 0;
  }

  private sumBlocks(): void {
    const { sums, width, columns } = this;
    const [[u, l], [upper, lower], [upperOnce, lowerOnce]] = this.pictures as [Pair, Pair, Pair];
    for (let b = 0; b < this.blocks; b++) {
      const [left, top] = [(b % columns) * BLOCK.columns, floor(b / columns) * BLOCK.lines];
      let [own, lu, ul, uu, ll, twice, next] = [0, 0, 0, 0, 0, 0, 0];
      for (let y = top; y < top + BLOCK.lines; y++) {
        for (let i = y * width + left, end = i + BLOCK.columns; i < end; i++) {
          const a = upper[i] as number;
          const z = lower[i] as number;
          const c = u[i] as number;
          const d = l[i] as number;
          own += (a - z) * (a - z);
          lu += (z - c) * (z - c);
          ul += (a - d) * (a - d);
          uu += (a - c) * (a - c);
          ll += (z - d) * (z - d);
          const e = (upperOnce[i] as number) - c;
          const f = (lowerOnce[i] as number) - d;
          twice += e * e + f * f;
          next += (c - d) * (c - d);
        }
      }
      [own, lu, ul, uu, ll, twice / 2, next].forEach((sum, i) => {
        sums[b * SUMS + i] = sum / PARTS ** 2;
      });
    }
  }

  /** Some lines of both fields, each brought to the place between both: all fields are as sharp and lie at the same height then. */
  private take(bytes: Uint8Array): void {
    const { width, rows, shift } = this;
    const [upper, lower] = this.pictures[0] as Pair;
    // Shares of 256: sixteen of them are one of PARTS.
    const near = floor(256 * (1 - shift));
    const far = 256 - near;
    for (let row = 0; row < rows; row++) {
      const to = row * width;
      const up = 2 * (row * EVERY + 1) * width;
      const low = up + width;
      for (let x = 0; x < width; x++) {
        upper[to + x] = ((bytes[up + x] as number) * near + (bytes[up + 2 * width + x] as number) * far) >> 4;
        lower[to + x] = ((bytes[low + x] as number) * near + (bytes[low - 2 * width + x] as number) * far) >> 4;
      }
    }
  }
}
