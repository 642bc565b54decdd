/**
 * True peak by oversampling four times (ITU-R BS.1770-4, annex 2): what a converter makes of the samples rises between them, by 3 dB and
 * more for tones near half the sample rate.
 */

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max } = Math;

/** The standard's interpolating filter, a row of twelve for each quarter of a sample; the others are these two, turned round. */
const FIRST = [
  ...[0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625],
  ...[0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125],
];
const SECOND = [
  ...[-0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625],
  ...[0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375],
];
const TAPS = FIRST.length;
const ROWS = [FIRST, SECOND, [...SECOND].reverse(), [...FIRST].reverse()].map((row) => Float64Array.from(row));
/** No quarter rises above the largest of the samples it is made of by more than this. */
const GAIN_MOST = max(...ROWS.map((row) => row.reduce((sum, tap) => sum + abs(tap), 0)));

/** Follows one channel sample by sample. */
export class TruePeak {
  /** The newest samples twice over, so that the last twelve always lie side by side. */
  private readonly ring = new Float64Array(2 * TAPS);
  private at = 0;
  /** Samples until the largest of those held has passed; while it is small enough, nothing can rise above what was found. */
  private largest = 0;
  private age = 0;

  /**
   * @param most what was found already: nothing smaller is looked for
   * @returns the largest of that, the sample, and what lies between the samples held; 1 is full scale
   */
  push(sample: number, most: number): number {
    const { ring } = this;
    ring[this.at] = sample;
    ring[this.at + TAPS] = sample;
    this.at = (this.at + 1) % TAPS;
    const size = abs(sample);
    if (size >= this.largest || ++this.age >= TAPS) {
      this.largest = size;
      this.age = 0;
      // The old largest one has passed: the next is looked for among those that are held.
      for (let i = 0; i < TAPS; i++) {
        const held = abs(ring[i]);
        if (held > this.largest) this.largest = held;
      }
    }
    let found = max(most, size);
    if (this.largest * GAIN_MOST <= found) return found;
    for (const row of ROWS) {
      let sum = 0;
      // The newest sample meets the first tap.
      for (let k = 0; k < TAPS; k++) sum += row[k] * ring[this.at + TAPS - 1 - k];
      found = max(found, abs(sum));
    }
    return found;
  }
}
