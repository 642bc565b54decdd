import { KEPT, type TileStep, type Tiles } from '../samples/tiles.js';
import { KernelTiles } from '../samples/tiles.wasm.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { max, min, sqrt } = Math;

/** Steps of which all is remembered: those around a step that is being decided, on both sides. */
const SLOTS = 40;
/** Tiles with less detail than this (mean square, in squared 8-bit steps) have nothing to compare. */
export const PLAIN = 1.5;
/** What is left of a tile is unusual when it is so many times as much as around it, and more than this share of its detail and than coding. */
export const UNUSUAL = { times: 4, ofDetail: 0.02, coding: 0.3 } as const;
/** From this share of unusual tiles on, the pictures on both sides are compared as well. */
const LOOK_BACK = 0.1;

/** One step, from picture k to k + 1. */
export interface TrackedStep {
  readonly tiles: TileStep;
  /** Its later picture. */
  readonly mean: number;
  readonly deviation: number;
  /** Mean square detail of its later picture. */
  readonly detail: number;
  /** The later picture's tiles in the picture two before it; null where nothing called for it. */
  readonly twoBack: TileStep | null;
  /** How far the later picture is from those 1 to 6 before it (Tiles.apart); infinite where there is none. */
  readonly apart: readonly number[];
}

/** Follows the tiles of a clip from picture to picture, and remembers what the newest SLOTS steps were like. */
export class TileTrack {
  /** Steps so far. */
  length = 0;
  readonly tiles: number;
  /** Tiles a row. */
  readonly columns: number;
  private readonly tilesOf: Tiles;
  private readonly ring: TrackedStep[] = [];
  private pictures = 0;
  /** The first picture's: it has no step. */
  private firstDeviation = 0;

  constructor(width: number, height: number, tiles: Tiles = new KernelTiles(width, height)) {
    this.tilesOf = tiles;
    this.tiles = tiles.grid.tiles;
    this.columns = tiles.grid.columns;
  }

  /** Step k, one of the newest SLOTS. */
  at(k: number): TrackedStep {
    return this.ring[k % SLOTS] as TrackedStep;
  }

  /** @param bytes 8-bit luma, row-major without padding; not kept */
  push(bytes: Uint8Array): void {
    const { tilesOf, pictures } = this;
    tilesOf.push(bytes);
    this.pictures++;
    const { mean, deviation } = tilesOf.moments();
    if (pictures === 0) {
      this.firstDeviation = deviation;
      return;
    }
    const tiles = tilesOf.search(1);
    const apart = Array.from({ length: KEPT - 1 }, (_, i) => (i < pictures ? tilesOf.apart(i + 1) : Number.POSITIVE_INFINITY));
    const k = this.length++;
    const last = k > 0 ? this.at(k - 1) : null;
    const twoBack = last && (this.isOdd(k - 1, last) || this.isOdd(k, { tiles, deviation })) ? tilesOf.search(2) : null;
    this.ring[k % SLOTS] = { tiles, mean, deviation, detail: meanOf(tiles.own), twoBack, apart };
  }

  /** Whether a step is worth a second look, by what came before it. */
  private isOdd(k: number, { tiles, deviation }: Pick<TrackedStep, 'tiles' | 'deviation'>): boolean {
    const was = k > 0 ? this.at(k - 1) : null;
    const contrast = was?.deviation ?? this.firstDeviation;
    if (max(contrast, deviation) + 3 > 2 * (min(contrast, deviation) + 3)) return true;
    let [odd, all] = [0, 0];
    for (let t = 0; t < this.tiles; t++) {
      const own = max(tiles.own[t], was?.tiles.own[t] ?? 0);
      if (own < PLAIN) continue;
      const weight = sqrt(own);
      all += weight;
      const usual = was ? was.tiles.left[t] : 0;
      if (tiles.left[t] > UNUSUAL.times * usual + UNUSUAL.ofDetail * own + UNUSUAL.coding) odd += weight;
    }
    return odd > LOOK_BACK * all;
  }
}

function meanOf(values: Float32Array): number {
  let sum = 0;
  for (const v of values) sum += v;
  return values.length > 0 ? sum / values.length : 0;
}
