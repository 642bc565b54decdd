// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { floor, max, min } = Math;

/** Of so many lines of a field one is compared: motion shows in all of them. */
const EVERY = 3;

/**
 * How the fields of each picture lie between those of the pictures beside it. Of two fields half a picture apart things moved less than of
 * two that are one and a half apart; where both fields are of one moment, both distances are one picture, whatever moves and however fast.
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
}

/** Numbers kept of each picture. */
const KEPT = 6;

type Pair = readonly [upper: Uint8Array, lower: Uint8Array];

/** Takes pictures whose lines are of two fields in turn, and keeps a few numbers of each. */
export class FieldMeter {
  /** Pictures so far. */
  length = 0;
  private numbers = new Float32Array(KEPT * 256);
  private readonly rows: number;
  /** Upper and lower fields, the newest picture's first. */
  private pictures: Pair[];
  /** Lines of a field by which the lower one lies below the upper one, in halves: each is brought half of it towards the other. */
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
    const pair = (): Pair => [new Uint8Array(width * this.rows), new Uint8Array(width * this.rows)];
    this.pictures = [pair(), pair(), pair()];
    this.shift = min(0.25, (0.25 * height) / stored);
  }

  /** @param bytes 8-bit luma, width * 2 height, the upper field's lines first, third, fifth, …; not kept */
  push(bytes: Uint8Array): void {
    this.pictures = [this.pictures[2], this.pictures[0], this.pictures[1]] as typeof this.pictures;
    this.take(bytes);
    const k = this.length++;
    if ((k + 1) * KEPT > this.numbers.length) {
      const wider = new Float32Array(this.numbers.length * 2);
      wider.set(this.numbers);
      this.numbers = wider;
    }
    const [[u, l], [upper, lower], [upperOnce, lowerOnce]] = this.pictures as [Pair, Pair, Pair];
    this.numbers[k * KEPT] = apart(u, l);
    if (k === 0) return;
    const at = (k - 1) * KEPT;
    this.numbers[at + 1] = apart(lower, u);
    this.numbers[at + 2] = apart(upper, l);
    this.numbers[at + 3] = apart(upper, u);
    this.numbers[at + 4] = apart(lower, l);
    if (k > 1) this.numbers[at + 5] = (apart(upperOnce, u) + apart(lowerOnce, l)) / 2;
  }

  /** Picture k, and its step to the next one; a last picture has none (0). */
  at(k: number): FieldStep {
    const [own, lowerToUpper, upperToLower, upper, lower, twice] = this.numbers.subarray(k * KEPT, (k + 1) * KEPT);
    return { own, lowerToUpper, upperToLower, upper, lower, twice } as FieldStep;
  }

  /** Some lines of both fields, each brought to the place between both: all fields are as sharp and lie at the same height then. */
  private take(bytes: Uint8Array): void {
    const { width, rows, shift } = this;
    const [upper, lower] = this.pictures[0] as Pair;
    const near = floor(256 * (1 - shift));
    const far = 256 - near;
    for (let row = 0; row < rows; row++) {
      const to = row * width;
      const up = 2 * (row * EVERY + 1) * width;
      const low = up + width;
      for (let x = 0; x < width; x++) {
        upper[to + x] = ((bytes[up + x] as number) * near + (bytes[up + 2 * width + x] as number) * far) >> 8;
        lower[to + x] = ((bytes[low + x] as number) * near + (bytes[low - 2 * width + x] as number) * far) >> 8;
      }
    }
  }
}

/** Mean square difference. */
function apart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) {
    const d = (a[i] as number) - (b[i] as number);
    sum += d * d;
  }
  return a.length > 0 ? sum / a.length : 0;
}
