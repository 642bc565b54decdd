import type { Changes } from '../measure/changes.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, max, min } = Math;

/** What goes over from one light or shot to another and is neither a cut nor a fault. */
export const PASSAGE_KINDS = ['flash', 'fade', 'dissolve'] as const;
export type PassageKind = (typeof PASSAGE_KINDS)[number];

/** Pictures of one, `to` not included: those of a flash, or those that are on the way. */
export interface Passage {
  readonly from: number;
  readonly to: number;
  readonly kind: PassageKind;
}

/** A flash is at least so much brighter, in 8-bit steps, lasts so many pictures at most, and leaves this share of it at most. */
const FLASH = { brighter: 6, pictures: 3, left: 0.4 } as const;
/** Contrast below which nothing is seen, in 8-bit steps. */
const NOTHING = 3;
/** A fade changes contrast by this share with each picture at least, over so many pictures at least. */
const FADE = { share: 0.02, pictures: 4 } as const;
/** Next to nothing it has less than this share of what it has at its other end: a black picture among others is no fade. */
const HALF = 0.5;
/** Pictures that a dissolve may take. */
const LENGTHS = [6, 8, 10, 12, 15, 18, 20, 25, 30, 40, 50, 60] as const;
/**
 * Of two shots mixed by 1 - t and t, fine detail is (1 - t)² and t² of theirs, for what is fine in one is no part of the other. A dissolve keeps to that within
 * this share; it has this share of the lesser one's detail at its lowest; and light goes from one to the other evenly, within so many 8-bit steps.
 */
const DISSOLVE = { off: 0.06, lowest: 0.8, light: 2 } as const;

/** Flashes, fades and dissolves, ascending. */
export function findPassages(changes: Changes): Passage[] {
  const found = [...flashes(changes), ...fades(changes)];
  const taken = (from: number, to: number): boolean => found.some((p) => from < p.to && to > p.from);
  found.push(...dissolves(changes).filter((d) => !taken(d.from, d.to)));
  return found.sort((a, b) => a.from - b.from);
}

function flashes({ columns: { light }, length, cuts, faults }: Changes): Passage[] {
  const found: Passage[] = [];
  const other = new Set([...cuts, ...faults.flatMap((f) => [f.picture, f.picture + 1])]);
  for (let k = 0; k < length; k++) {
    const brighter = light[k] as number;
    if (brighter < FLASH.brighter) continue;
    let left = brighter;
    for (let j = 1; j <= FLASH.pictures && k + j < length; j++) {
      left += light[k + j] as number;
      if (left > FLASH.left * brighter || left < -FLASH.left * brighter) continue;
      const [from, to] = [k + 1, k + 1 + j];
      if (!other.has(from) && !other.has(to)) found.push({ from, to, kind: 'flash' });
      k += j;
      break;
    }
  }
  return found;
}

/** From where contrast begins to go to where there is nothing, and back. */
function fades({ columns: { contrast }, length }: Changes): Passage[] {
  const found: Passage[] = [];
  const at = (k: number): number => contrast[k] as number;
  for (let k = 0; k < length; k++) {
    if (at(k) >= NOTHING) continue;
    let end = k;
    while (end < length && at(end) < NOTHING) end++;
    // Entry i belongs to picture i + 1.
    let first = k;
    while (first > 0 && at(first - 1) > at(first) * (1 + FADE.share)) first--;
    if (k - first >= FADE.pictures && at(k - 1) < HALF * at(first)) found.push({ from: first + 1, to: k + 1, kind: 'fade' });
    let last = end;
    while (last < length && at(last) > at(last - 1) * (1 + FADE.share)) last++;
    if (end < length && last - end >= FADE.pictures && at(end) < HALF * at(last - 1))
      found.push({ from: end + 1, to: last + 1, kind: 'fade' });
    k = max(end, last) - 1;
  }
  return found;
}

function dissolves({ columns: { detail, light, broken }, length }: Changes): Passage[] {
  const found: { passage: Passage; off: number }[] = [];
  for (const pictures of LENGTHS) {
    for (let k = 0; k + pictures < length; k++) {
      const [before, after] = [detail[k] as number, detail[k + pictures] as number];
      const most = max(before, after);
      const middle = detail[k + (pictures >> 1)] as number;
      if (most < 1 || middle > DISSOLVE.lowest * min(before, after)) continue;
      const off = offOf(detail, k, pictures);
      if (off > DISSOLVE.off * most || brokenWithin(broken, k, k + pictures) || !evenly(light, k, pictures)) continue;
      found.push({ passage: { from: k + 2, to: k + pictures + 1, kind: 'dissolve' }, off: off / most });
    }
  }
  // The best of those that lie over each other.
  const chosen: Passage[] = [];
  for (const { passage } of found.sort((a, b) => a.off - b.off))
    if (!chosen.some((c) => passage.from < c.to && passage.to > c.from)) chosen.push(passage);
  return chosen;
}

/** Mean difference from what mixing would leave of both ends' detail. */
function offOf(detail: Float32Array, k: number, pictures: number): number {
  const [before, after] = [detail[k] as number, detail[k + pictures] as number];
  let sum = 0;
  for (let i = 1; i < pictures; i++) {
    const t = i / pictures;
    sum += abs((detail[k + i] as number) - (1 - t) ** 2 * before - t ** 2 * after);
  }
  return sum / (pictures - 1);
}

function brokenWithin(broken: Float32Array, from: number, to: number): boolean {
  for (let i = from; i <= to; i++) if (broken[i]) return true;
  return false;
}

function evenly(light: Float32Array, k: number, pictures: number): boolean {
  let all = 0;
  for (let i = 1; i <= pictures; i++) all += light[k + i] as number;
  let sum = 0;
  for (let i = 1; i <= pictures; i++) {
    sum += light[k + i] as number;
    if (abs(sum - (all * i) / pictures) > DISSOLVE.light) return false;
  }
  return true;
}
