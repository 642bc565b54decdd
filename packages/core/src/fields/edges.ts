import type { Samples } from './planes.js';
import { BLOCK } from './vectors.js';
import { type LineSource, PHASES, SOURCES } from './weights.js';

/**
 * Made lines that motion cannot tell, along edges. Where a thing moves by an odd number of lines a field, or nearly, the fields beside show
 * the lines again that are there, and no others: a slanting edge then comes out as steps. There the line above and the one below are laid
 * against each other shifted apart, and where one shift fits far better than none, on both sides of the gap, the sample is taken along it.
 */

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min } = Math;

/** Phases of vertical motion so near to a line a field hide the missing lines. */
const NEAR_ODD = 6;
/** Samples that an edge may be shifted by from one line to the middle between two. */
const SHIFTS = 3;
/** What a sample of shift costs. */
const SHIFT_COST = 2;
/** Samples on each side that are laid against each other. */
const AROUND = 4;
/** Steps of 8 bits between the lines above and below: less is no edge that a cubic would spoil. */
const CONTRAST = 16;
/** A shift is taken where twice what it leaves over, and so much more, is less than what none does. */
const CLEARLY = 24;
/** Room that is looked at beside the eight samples of a block. */
const BEFORE = AROUND + 3 * SHIFTS;
const BEHIND = 8 + AROUND + 3 * SHIFTS;

/** By source and phase of vertical motion: 1 where fields cannot show the missing lines. */
export function hiddenPhases(): Uint8Array {
  const hides = (source: LineSource, phase: number): boolean =>
    source === 'own' || (source !== 'far' && abs(phase - PHASES / 2) <= NEAR_ODD);
  return Uint8Array.from({ length: SOURCES.length * PHASES }, (_, i) =>
    hides(SOURCES[Math.floor(i / PHASES)] as LineSource, i % PHASES) ? 1 : 0,
  );
}

interface EdgeFrame {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  /** Parity of the lines that are kept. */
  readonly parity: number;
  readonly columns: number;
  readonly v: Int16Array;
  readonly sources: Uint8Array;
}

/** Takes made samples of luma along edges, in blocks whose missing lines are hidden. @param plane the picture, written */
export function alongEdges(plane: Samples, frame: EdgeFrame): void {
  const { width, height, parity, columns, v, sources } = frame;
  const hides = hiddenPhases();
  sources.forEach((source, block) => {
    if (!hides[source * PHASES + ((v[block] >> 1) & (PHASES - 1))]) return;
    const [left, top] = [(block % columns) * BLOCK, Math.floor(block / columns) * BLOCK];
    if (left < BEFORE + 3 || left + BEHIND > width) return;
    for (let y = top + (((top & 1) ^ parity) & 1 ? 0 : 1); y < min(height - 3, top + BLOCK); y += 2)
      if (y >= 3) for (let x = left; x < left + BLOCK; x++) takeAlong(plane, y * width + x, frame);
  });
}

function takeAlong(plane: Samples, at: number, { width, bits }: EdgeFrame): void {
  const eight = (i: number): number => plane[i] >> (bits - 8);
  const [above, below] = [at - width, at + width];
  const [further, deeper] = [at - 3 * width, at + 3 * width];
  if (abs(eight(above) - eight(below)) < CONTRAST) return;
  const costOf = (shift: number): number => {
    let sum = 0;
    for (let j = -AROUND; j <= AROUND; j++) {
      const [a, b] = [eight(above + shift + j), eight(below - shift + j)];
      sum += abs(a - b) + abs(eight(further + 3 * shift + j) - a) + abs(eight(deeper - 3 * shift + j) - b);
    }
    return sum;
  };
  const straight = costOf(0);
  let [best, least] = [0, straight];
  for (let shift = -SHIFTS; shift <= SHIFTS; shift++) {
    const cost = costOf(shift) + SHIFT_COST * abs(shift);
    if (cost < least) [best, least] = [shift, cost];
  }
  if (best === 0 || 2 * least + CLEARLY >= straight) return;
  const of = (i: number): number => plane[i];
  // A cubic along the edge.
  const taken = (9 * (of(above + best) + of(below - best)) - of(further + 3 * best) - of(deeper - 3 * best) + 8) >> 4;
  // An edge passes between what is above and what is below.
  plane[at] = max(min(of(above), of(below)), min(max(of(above), of(below)), taken));
}
