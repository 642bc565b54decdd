import { heldEvidence, stillPlaces } from '../evidence/evidence.js';
import type { Changes } from '../measure/changes.js';
import { costOf, explain, PATTERNS, type Pattern } from './patterns.js';

/** What the two fields of a clip's pictures show. */
export interface FieldFinding {
  /** none: both lines' moments are one. pulldown: 2:3 by fields, four pictures in five. interlaced: each field its own moment. */
  readonly kind: 'none' | 'pulldown' | 'interlaced';
  /** Which field comes first in time, as found from the motion; null where it makes no difference. */
  readonly first: 'upper' | 'lower' | null;
}

const BLOCK = 16;
/** A block is combed when neighbouring lines differ this many times as much as lines of the same field. */
const COMB_RATIO = 1.6;
/** Least mean square of the jump, in squared 8-bit steps: noise alone stays below. */
const COMB_LEAST = 60;
/** Share of a picture's blocks that has to be combed. */
const COMB_SHARE = 0.015;

/**
 * Whether a picture holds two moments: its lines alternate where something moves.
 * @param luma 8-bit, row-major, width * height, at full height
 */
export function isCombed(luma: Uint8Array, width: number, height: number): boolean {
  let combed = 0;
  let blocks = 0;
  for (let top = 2; top + BLOCK + 2 <= height; top += BLOCK) {
    for (let left = 0; left + BLOCK <= width; left += BLOCK) {
      let across = 0;
      let within = 0;
      for (let y = top; y < top + BLOCK; y++) {
        for (let i = y * width + left, end = i + BLOCK; i < end; i++) {
          const here = 2 * (luma[i] as number);
          const near = here - (luma[i - width] as number) - (luma[i + width] as number);
          const far = here - (luma[i - 2 * width] as number) - (luma[i + 2 * width] as number);
          across += near * near;
          within += far * far;
        }
      }
      blocks++;
      if (across > COMB_LEAST * BLOCK * BLOCK && across > within * COMB_RATIO) combed++;
    }
  }
  return blocks > 0 && combed / blocks > COMB_SHARE;
}

/** Splits a picture into its upper and lower lines, each width * height / 2. */
export function splitFields(picture: Uint8Array, width: number, height: number): [Uint8Array, Uint8Array] {
  const half = height >> 1;
  const fields: [Uint8Array, Uint8Array] = [new Uint8Array(width * half), new Uint8Array(width * half)];
  for (let y = 0; y < half * 2; y++)
    (fields[y & 1] as Uint8Array).set(picture.subarray(y * width, (y + 1) * width), (y >> 1) * width);
  return fields;
}

const PULLDOWN = 'one-in-5';

/**
 * Judges the fields of combed pictures. In 2:3 pulldown every fifth field repeats the one two before it. Read in the wrong field order
 * the beat is uneven, which reveals the order.
 * @param upper, lower changes of the pictures' upper and lower lines, one a picture from the second on
 */
export function judgeFields(upper: Changes, lower: Changes): FieldFinding & { readonly certainty: number } {
  const fields = [upper, lower].map((changes) => ({ evidence: heldEvidence(changes), still: stillPlaces(changes) }));
  const orders = (['upper', 'lower'] as const).map((first) => {
    const [a, b] = first === 'upper' ? fields : [...fields].reverse();
    const length = 2 * Math.min(upper.length, lower.length);
    const evidence = Float64Array.from({ length }, (_, i) => ((i & 1 ? b : a)?.evidence[i >> 1] ?? 0) as number);
    const still = Uint8Array.from({ length }, (_, i) => ((i & 1 ? b : a)?.still[i >> 1] ?? 0) as number);
    const runs = explain(evidence, still);
    const pulled = runs.filter((r) => r.pattern.name === PULLDOWN).reduce((sum, r) => sum + r.to - r.from, 0);
    return { first, evidence, runs, share: length > 0 ? pulled / length : 0 };
  });
  const best = orders.reduce((a, b) => (b.share > a.share ? b : a));
  const price = (name: string): number =>
    costOf(PATTERNS.find((p) => p.name === name) as Pattern, best.evidence, 0, best.evidence.length);
  const pulled = best.share > 0.5;
  // How much better the one explains all fields than the other, softened as for stretches.
  const better = pulled ? price('new') - price(PULLDOWN) : price(PULLDOWN) - price('new');
  const certainty = Math.min(0.999, 1 / (1 + Math.exp(-better / 3)));
  return pulled ? { kind: 'pulldown', first: best.first, certainty } : { kind: 'interlaced', first: null, certainty };
}
