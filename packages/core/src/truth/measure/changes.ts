import type { Fault } from './breaks/faults.js';
import type { BlockVotes } from './votes.js';

/** Names of what is kept of each change; see Changes. */
export const MEASURES = [
  'rms',
  'energy',
  'coherence',
  'coherenceNoise',
  'coarseCoherence',
  'coarseNoise',
  'coarseAlong',
  'onward',
  'calm',
  'calmest',
  'level',
  'variation',
  'displacement',
  'soft',
  'mixShare',
  'mixLeft',
  'broken',
  'light',
  'missing',
  'pace',
  'contrast',
  'detail',
] as const;
type Measure = (typeof MEASURES)[number];

/**
 * What changed with each picture from the second on: entry i belongs to picture i + 1. Kept as columns, so that hours stay
 * small (88 bytes a picture).
 *
 * - rms: root mean square difference of the whole picture, in 8-bit steps: the trace a person sees.
 * - energy: mean square difference of the most changed tenth of the blocks, light taken out, in squared 8-bit steps.
 * - coherence: this step's motion as a share of the motion around it in the same places, along the same direction: about 1
 *   where motion goes on, 0 in a held picture whatever its noise, 2 where a picture is missing, n for a new picture among
 *   ones that show each n times. coherenceNoise: its standard deviation from noise alone. coarse…: the same on pictures a
 *   quarter as wide, for fast motion.
 * - coarseAlong: the same share as coarseCoherence, by least squares over all blocks: noise adds nothing to it on average, so that it scatters
 *   around 0 in a held picture.
 * - onward: whether motion goes the same way before and after: 1 the same, -1 the opposite (a swing's turning point, where a
 *   calm picture is no wonder), 0 nothing known.
 * - calm: logarithm of the energy against what the same blocks reach around it, the median over moving blocks; calmest:
 *   their 90th percentile, near 0 as soon as some part of the picture moves as ever. level: logarithm
 *   of the energy itself, the upper quartile of moving blocks, so that a counter burnt into a corner has no say. variation: how much blocks' energies
 *   differ over the window, 0 (not at all) to 1.
 * - displacement: weighted mean, in samples of a picture CHECK_WIDTH / 4 wide; good to about 1.5.
 * - soft: logarithm of the fine detail of moving blocks against the pictures around; negative for a mix or a made picture.
 * - mixShare, mixLeft: share of the picture before in the best mix of the pictures before and after, and what that leaves over
 *   (0 exact, 1 nothing explained or not looked at).
 * - missing: pictures that are left out in this step, by what motion before and after foresees; 0 where none is.
 * - pace: this step's motion, found by looking for it, as a share of the mean motion of the five steps on each side; 0 where hardly anything moves.
 * - contrast, detail: standard deviation of the later picture's luma, in 8-bit steps, and mean square of its fine detail.
 * - light: how much the mean of the luma rises, in 8-bit steps.
 * - broken: 1 where a cut or a faulty picture lies on either side: the step is none of motion, and is compared with nothing.
 */
export class Changes {
  length = 0;
  /** First pictures of shots, the first shot's left out, and pictures that do not belong; ascending. */
  cuts: readonly number[] = [];
  faults: readonly Fault[] = [];
  /** What each block does; null where that was not looked at. */
  votes: BlockVotes | null = null;
  readonly columns = Object.fromEntries(MEASURES.map((name) => [name, new Float32Array(256)])) as Record<Measure, Float32Array>;

  private bounds: { readonly first: Int32Array; readonly end: Int32Array } | null = null;

  /** Adds a change of which nothing is known yet. */
  add(): number {
    if (this.length === this.columns.rms.length) {
      for (const name of MEASURES) {
        const wider = new Float32Array(this.length * 2);
        wider.set(this.columns[name]);
        this.columns[name] = wider;
      }
    }
    const at = this.length++;
    this.columns.coherence[at] = 1;
    this.columns.coarseCoherence[at] = 1;
    this.columns.coarseAlong[at] = 1;
    this.columns.coherenceNoise[at] = 9;
    this.columns.coarseNoise[at] = 9;
    this.columns.mixLeft[at] = 1;
    return at;
  }

  /**
   * The steps without a break that step k lies among: the first, and the one after the last. A broken step is by itself. To be asked when
   * all steps are there.
   */
  within(k: number): readonly [first: number, end: number] {
    this.bounds ??= boundsOf(this.columns.broken, this.length);
    return [this.bounds.first[k], this.bounds.end[k]];
  }

  at(measure: Measure, k: number): number {
    return this.columns[measure][k];
  }
}

function boundsOf(broken: Float32Array, length: number): { first: Int32Array; end: Int32Array } {
  const [first, end] = [new Int32Array(length), new Int32Array(length)];
  let from = 0;
  for (let k = 0; k <= length; k++) {
    if (k < length && !broken[k]) continue;
    first.fill(from, from, k);
    end.fill(k, from, k);
    if (k < length) [first[k], end[k]] = [k, k + 1];
    from = k + 1;
  }
  return { first, end };
}
