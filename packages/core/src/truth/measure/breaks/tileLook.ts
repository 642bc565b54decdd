import { median } from '../median.js';
import type { TileStep } from '../samples/tiles.js';
import { PLAIN, type TileTrack, UNUSUAL } from './tileTrack.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { abs, floor, max, min, sqrt } = Math;

/** What tiles say of one step, by the steps around it. */

/** Tiles that differ by more than this share of their detail were not found at all. */
const LOST = 0.4;
/** Tiles were not found where this share was not, and where that is usual of this share of it at most. */
const NOT_FOUND = { share: 0.35, usual: 0.4 } as const;
/**
 * All of a picture changed more than usual, if not by much, as in worn film, where nothing is quite found at any time: of the tiles half differ so
 * many times as much as usual, seven in ten so many times, and such a share is unusual or not found at all: a beam of light that changes leaves most as it was.
 */
const RISEN = { half: 1.8, most: 1, unusual: 0.6, lost: 0.1 } as const;
/**
 * At a cut tiles are found where chance has it; in motion, however quick, where their neighbours go. Share of the tiles that differ by so many
 * times more than usual and went so many coarse samples elsewhere, where they are usually within so many.
 */
const TORN = { times: 2, elsewhere: 1.5, usually: 0.75 } as const;
/** Share of a tile's detail, and squared 8-bit steps, below which what differs is no measure of anything. */
const FLOOR = { ofDetail: 0.002, coding: 0.3 } as const;
/** A tile is back when less than this share of what differed is left. */
const RETURNED = 0.5;
/** Shares of fewer tiles than this say nothing. */
export const LEAST_TILES = 4;
/** A band is damaged where this share of its tiles are unusual: what is damaged is so across the picture, a bird is not. */
const ROW = 0.65;
/** A row of tiles is quiet up to this share of odd ones. */
const QUIET = 0.25;
/** Contrast that falls or rises so many times from one picture to the next. */
const COLLAPSE = 2.5;

/** What there is to say of one step. */
export interface TileLook {
  /** Share of the tiles with detail that differ unusually from the picture before; that were not found; and that usually are not. */
  readonly unusual: number;
  readonly lost: number;
  readonly usualLost: number;
  /** Which tiles, and which of them have detail. */
  readonly odd: Uint8Array;
  readonly detailed: Uint8Array;
  readonly usual: Float32Array;
  readonly left: Float32Array;
  readonly collapsed: boolean;
}

/** @param sides steps of the same shot before k and after it, those next to it left out where it may have brought a fault */
export function lookAtTiles(track: TileTrack, k: number, sides: readonly (readonly number[])[]): TileLook {
  const count = track.tiles;
  const { tiles, deviation } = track.at(k);
  const [odd, detailed] = [new Uint8Array(count), new Uint8Array(count)];
  const [usual, found] = [new Float32Array(count), new Float32Array(count)];
  const was = k > 0 ? track.at(k - 1) : null;
  const gain = was ? max(0.5, min(2, sqrt((track.at(k).detail + 1) / (was.detail + 1)))) : 1;
  let [unusual, lost, all] = [0, 0, 0];
  const lostBeside = sides.map(() => 0);
  for (let t = 0; t < count; t++) {
    const own = max(tiles.own[t], was ? was.tiles.own[t] : 0);
    const around = sides.map((steps) => medianOf(steps, (i) => track.at(i).tiles.left[t]));
    usual[t] = max(...around, 0);
    if (own < PLAIN) continue;
    detailed[t] = 1;
    all++;
    const left = unexplained(tiles, t, gain);
    found[t] = left;
    const isLost = left > LOST * own;
    const most = UNUSUAL.times * usual[t] + UNUSUAL.ofDetail * own + UNUSUAL.coding;
    if (left > most || (isLost && usual[t] < (LOST / 2) * own)) {
      odd[t] = 1;
      unusual++;
    }
    if (isLost) lost++;
    around.forEach((one, i) => {
      if (one > LOST * own) lostBeside[i] = lostBeside[i] + 1;
    });
  }
  const contrast = was?.deviation ?? deviation;
  const known = all >= LEAST_TILES && sides.some((steps) => steps.length > 0);
  return {
    unusual: known ? unusual / all : 0,
    lost: known ? lost / all : 0,
    usualLost: all > 0 ? max(...lostBeside) / all : 0,
    odd,
    detailed,
    usual,
    left: found,
    collapsed: max(contrast, deviation) + 2 > COLLAPSE * (min(contrast, deviation) + 2),
  };
}

/** Share of the tiles with detail that were torn from their neighbours. */
export function tornShare(track: TileTrack, k: number, { detailed, usual, left }: TileLook, near: readonly number[]): number {
  const steps = near.map((i) => track.at(i).tiles);
  const here = track.at(k).tiles;
  const has = (t: number): boolean => detailed[t] === 1;
  const own = commonMotion(here, has);
  const others = steps.map((step) => commonMotion(step, has));
  let [torn, all] = [0, 0];
  for (let t = 0; t < detailed.length; t++) {
    if (!detailed[t]) continue;
    all++;
    if (times(left, usual, here, t) <= TORN.times) continue;
    const us = steps.map((step, i) => step.u[t] - (others[i]?.u as number));
    const vs = steps.map((step, i) => step.v[t] - (others[i]?.v as number));
    const [u, v] = [median(us), median(vs)];
    const off = max(abs(here.u[t] - own.u - u), abs(here.v[t] - own.v - v));
    const usually = median(us.map((x, i) => max(abs(x - u), abs(vs[i] - v))));
    if (off > TORN.elsewhere && usually < TORN.usually) torn++;
  }
  return all > 0 ? torn / all : 0;
}

/** Of the tiles that are unusual now, the share that two pictures on both sides have in common. */
export function shareBack({ odd, usual, left, detailed, collapsed }: TileLook, twoBack: TileStep): number {
  let [back, all] = [0, 0];
  for (let t = 0; t < odd.length; t++) {
    if (!detailed[t] || !(odd[t] || collapsed)) continue;
    const own = twoBack.own[t];
    all++;
    const limit = 2 * UNUSUAL.times * usual[t] + 2 * UNUSUAL.ofDetail * own + 2 * UNUSUAL.coding;
    if (twoBack.left[t] <= max(limit, RETURNED * left[t])) back++;
  }
  return all > 0 ? back / all : 0;
}

/** Rows of tiles: all, those that are odd all across on either side, and those with next to nothing odd, plain ones among them. */
export function tileRows(columns: number, a: TileLook, b: TileLook): { all: number; odd: number; quiet: number } {
  let [all, oddRows, quiet] = [0, 0, 0];
  for (let first = 0; first < a.odd.length; first += columns) {
    let [detailed, odd] = [0, 0];
    for (let t = first; t < first + columns; t++) {
      if (!a.detailed[t] && !b.detailed[t]) continue;
      detailed++;
      if (a.odd[t] || b.odd[t]) odd++;
    }
    all++;
    if (detailed > 0 && odd >= ROW * detailed) oddRows++;
    if (odd <= QUIET * detailed) quiet++;
  }
  return { all, odd: oddRows, quiet };
}

/** Whether all changed more than usual. */
export function isRisen(tiles: TileStep, { detailed, usual, left, unusual, lost }: TileLook): boolean {
  if (unusual < RISEN.unusual && lost < RISEN.lost) return false;
  const rises = Array.from(detailed.keys())
    .filter((t) => detailed[t])
    .map((t) => times(left, usual, tiles, t))
    .sort((a, b) => a - b);
  const atShare = (share: number): number => rises[floor(rises.length * share)] ?? 0;
  return atShare(0.5) >= RISEN.half && atShare(0.3) >= RISEN.most;
}

/** How many times as much as usual a tile differs. */
function times(left: Float32Array, usual: Float32Array, { own }: TileStep, t: number): number {
  return left[t] / (usual[t] + FLOOR.ofDetail * own[t] + FLOOR.coding);
}

/** The middle of the motion of some tiles, in coarse samples; 0 where there are none. @param has whether tile t is one of them */
export function commonMotion({ u, v }: TileStep, has: (t: number) => boolean): { u: number; v: number } {
  const middle = (of: Float32Array): number => median(Array.from(of).filter((_, t) => has(t))) || 0;
  return { u: middle(u), v: middle(v) };
}

/** Whether much of it was not found where most usually is. */
export function isNotFound({ lost, usualLost }: TileLook): boolean {
  return lost >= NOT_FOUND.share && usualLost <= NOT_FOUND.usual * lost;
}

/** What is left of a tile where contrast changed all over by so many times: a flash or a fade leaves nothing. */
function unexplained(tiles: TileStep, t: number, gain: number): number {
  const [left, own, other] = [tiles.left[t], tiles.own[t], tiles.other[t]];
  return min(left, max(0, own + gain * gain * other - gain * (own + other - left)));
}

function medianOf(steps: readonly number[], of: (k: number) => number): number {
  return steps.length === 0 ? 0 : median(steps.map(of));
}
