import type { Changes } from '../measure/changes.js';
import { type BlockVotes, VOTES } from '../measure/votes.js';
import { cost, PATTERNS, type Pattern } from '../verdict/patterns.js';

// Taken once: inner loops read them without asking the global object, which costs much inside a test's sandbox.
const { exp, floor, max, min } = Math;

/** A part of the picture that has a rate of its own. */
export interface Part {
  /** The box around it, in shares of the picture. */
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly trueRate: number;
  /** As a stretch's: "new", "every-3", "one-in-5", "2:3". */
  readonly pattern: string;
  /** 0 to 1. */
  readonly certainty: number;
}

/** Parts of different rates, and what the fastest one says of each picture. */
export interface Parts {
  readonly parts: readonly Part[];
  /** Log odds for held, one a change, as heldEvidence; NaN where it says nothing. */
  readonly fastest: Float64Array;
}

/** Steps that are looked at together: long enough to show a rhythm, short enough that what moves stays in its blocks. */
const CHUNK = 48;
/** What changes without clear motion speaks so much against a hold. */
const HALF = 0.5;
/** A block speaks in a chunk with so many votes. */
const LEAST_VOTES = 16;
/** Share of votes that may speak against a label. */
const AGAINST = 0.12;
/** Blocks of one beat that touch: fewer are chance, but for those that clearly move in every picture. */
const LEAST_BLOCKS = 3;
const CLEARLY = 0.95;
/** Share of the chunks that the fastest part is seen in that another one has to be seen in, too. */
const OFTEN = 0.6;
/** Share of its changes that motion explains: a counter and grain change without any. More where none holds: grain over what holds is no motion. */
const BY_MOTION = { least: 0.5, whereAllIsNew: 0.85 } as const;
/** A part that is less certain is none. */
const SURE = 0.9;
/** A part of so few votes beside the largest one's is an accident. */
const LEAST_SHARE = 0.01;

/** Rhythms that a chunk is long enough for. */
const RHYTHMS: readonly Pattern[] = PATTERNS.filter(
  ({ name, cycle }) => name === '2:3' || (name.startsWith('every-') && cycle.length <= 6) || /^one-in-[456]$/.test(name),
);

/** One rhythm at one phase in one chunk. */
interface Group {
  readonly pattern: Pattern;
  readonly phase: number;
  readonly from: number;
  readonly to: number;
  readonly blocks: readonly number[];
}

/**
 * Parts of the picture that have rates of their own; null where all that moves has one. A part is blocks that touch and hold to one beat; the
 * fastest one has to move: what only changes is grain, or a counter.
 * @param storedRate pictures a second
 */
export function findParts(changes: Changes, storedRate: number): Parts | null {
  const { votes } = changes;
  if (!votes || votes.length < LEAST_VOTES) return null;
  const chunks = max(1, floor(changes.length / CHUNK));
  const groups: Group[] = [];
  for (let c = 0; c < chunks; c++) {
    const [from, to] = [floor((c * changes.length) / chunks), floor(((c + 1) * changes.length) / chunks)];
    groups.push(...groupsOf(votes, from, to));
  }
  const [fastestShare = 0] = groups.map((g) => g.pattern.newShare).sort((a, b) => b - a);
  // What holds for a while in the whole picture is a stretch, no part: both have to be seen beside each other.
  const beside = new Set(groups.filter((g) => g.pattern.newShare === fastestShare).map((g) => g.from));
  const names = [...new Set(groups.map((g) => g.pattern.name))];
  const byRhythm = names
    .map((name) => groups.filter((g) => g.pattern.name === name && beside.has(g.from)))
    .filter((some) => new Set(some.map((g) => g.from)).size >= max(1, OFTEN * beside.size))
    .sort((a, b) => shareOf(b) - shareOf(a));
  const sizes = byRhythm.map((some) => some.reduce((sum, g) => sum + g.blocks.length, 0));
  const kept = byRhythm.filter(
    (some, i) => (sizes[i] as number) > LEAST_SHARE * max(...sizes) && certaintyOf(some, votes) >= SURE,
  );
  const [fastest] = kept;
  if (!fastest || new Set(kept.map(shareOf)).size < 2) return null;
  return {
    parts: kept.map((some) => partOf(some, votes, storedRate)),
    fastest: evidenceOf(fastest, votes, changes.length),
  };
}

const shareOf = (some: readonly Group[]): number => some[0]?.pattern.newShare ?? 0;

/** Blocks of one beat that touch each other. */
function groupsOf(votes: BlockVotes, from: number, to: number): Group[] {
  const { blocks, columns } = votes.grid;
  const labels = Array.from({ length: blocks }, (_, b) => labelOf(votes, b, from, to));
  const keys = labels.map((label) => (label ? `${label.pattern.name} ${label.phase}` : ''));
  const seen = new Set<number>();
  const groups = new Map<string, Group & { blocks: number[] }>();
  for (let b = 0; b < blocks; b++) {
    const label = labels[b];
    const key = keys[b] as string;
    if (!label || seen.has(b)) continue;
    const touching = [b];
    seen.add(b);
    for (const at of touching) {
      for (const next of besides(at, columns, blocks)) {
        if (keys[next] !== key || seen.has(next)) continue;
        seen.add(next);
        touching.push(next);
      }
    }
    if (touching.length < LEAST_BLOCKS && !touching.every((at) => labels[at]?.clear)) continue;
    const group = groups.get(key);
    if (group) group.blocks.push(...touching);
    else groups.set(key, { pattern: label.pattern, phase: label.phase, from, to, blocks: touching });
  }
  const found = [...groups.values()];
  const restless = found.some((g) => g.pattern.newShare === 1) ? null : restlessIn(votes, found);
  return restless ? [...found, restless] : found;
}

/**
 * A block that moves in this share of the pictures that hold elsewhere does not hold, if it hardly ever holds itself, or if besides so much moves
 * in those pictures as a share of what does in new ones.
 */
const RESTLESS = { moves: 0.5, among: 0.6, holds: 0.1 } as const;
const UNREST = 0.15;

/** What moves now and then while most of the picture holds: too unevenly to keep a beat of its own, yet in pictures that should show nothing new. */
function restlessIn(votes: BlockVotes, groups: readonly Group[]): Group | null {
  const beat = groups.reduce<Group | null>((most, g) => (most && most.blocks.length >= g.blocks.length ? most : g), null);
  if (!beat) return null;
  const { from, to, phase } = beat;
  const { cycle } = beat.pattern;
  const { holds, moved, still, unrest } = unrestIn(votes, from, to, (k) => cycle[(k + phase) % cycle.length] === true);
  const blocks = Array.from(moved.keys()).filter((b) =>
    (still[b] as number) <= RESTLESS.holds * holds
      ? (moved[b] as number) >= RESTLESS.moves * holds
      : unrest >= UNREST && (moved[b] as number) >= RESTLESS.among * holds,
  );
  if (holds < LEAST_VOTES || blocks.length === 0) return null;
  return { pattern: PATTERNS[0] as Pattern, phase: 0, from, to, blocks };
}

/**
 * Where so much moves in pictures that hold, as a share of what does in new ones, or one block in so many of them, a beat of holds is less sure:
 * something small may move in every picture. Coders alone come up to about that.
 */
const DOUBTFUL = { unrest: 0.08, block: 0.35 } as const;

/** Whether something seems to move in pictures that hold. @param held of each change, 1 where it holds; from, to: changes */
export function isDoubtful({ votes }: Changes, held: Uint8Array, from: number, to: number): boolean {
  if (!votes) return false;
  const { holds, moved, unrest } = unrestIn(votes, from, to, (k) => held[k] === 1);
  if (holds < LEAST_VOTES) return false;
  return unrest > DOUBTFUL.unrest || moved.some((n) => n > DOUBTFUL.block * holds);
}

/**
 * How much moves in pictures that hold: of each block in how many of them it moves and in how many it holds, and of all what moves in one of
 * them as a share of what does in a new one.
 */
function unrestIn(votes: BlockVotes, from: number, to: number, isHeld: (k: number) => boolean) {
  const { blocks } = votes.grid;
  const [moved, still] = [new Uint32Array(blocks), new Uint32Array(blocks)];
  let [holds, inHeld, inNew] = [0, 0, 0];
  for (let k = from; k < to; k++) {
    const held = isHeld(k);
    if (held) holds++;
    for (let b = 0; b < blocks; b++) {
      const vote = votes.at(k, b);
      if (held && vote === VOTES.held) still[b] = (still[b] as number) + 1;
      if (vote !== VOTES.moved) continue;
      if (held) {
        inHeld++;
        moved[b] = (moved[b] as number) + 1;
      } else inNew++;
    }
  }
  const unrest = inNew === 0 ? 0 : inHeld / max(1, holds) / (inNew / max(1, to - from - holds));
  return { holds, moved, still, unrest };
}

function besides(b: number, columns: number, blocks: number): number[] {
  const x = b % columns;
  return [x > 0 ? b - 1 : -1, x < columns - 1 ? b + 1 : -1, b - columns, b + columns].filter((n) => n >= 0 && n < blocks);
}

interface Label {
  readonly pattern: Pattern;
  readonly phase: number;
  /** Whether it moves in nearly every picture. */
  readonly clear: boolean;
}

/** The beat that a block keeps in a chunk; null where it says too little, or keeps none. */
function labelOf(votes: BlockVotes, b: number, from: number, to: number): Label | null {
  const counts = [0, 0, 0, 0];
  for (let k = from; k < to; k++) counts[votes.at(k, b)] = (counts[votes.at(k, b)] as number) + 1;
  const [none, held, changed, moved] = counts as [number, number, number, number];
  const all = to - from - none;
  if (all < min(LEAST_VOTES, (to - from) / 2) || moved < BY_MOTION.least * (moved + changed)) return null;
  if (held <= 0.5 * AGAINST * all)
    return moved < BY_MOTION.whereAllIsNew * (moved + changed)
      ? null
      : { pattern: PATTERNS[0] as Pattern, phase: 0, clear: moved >= CLEARLY * (to - from) };
  let best: Label | null = null;
  let least = AGAINST * all;
  for (const pattern of RHYTHMS) {
    const { cycle } = pattern;
    for (let phase = 0; phase < cycle.length; phase++) {
      let against = 0;
      for (let k = from; k < to && against < least; k++) {
        const vote = votes.at(k, b);
        if (vote === VOTES.none || (vote === VOTES.held) === cycle[(k + phase) % cycle.length]) continue;
        against += vote === VOTES.changed ? HALF : 1;
      }
      if (against < least) [best, least] = [{ pattern, phase, clear: false }, against];
    }
  }
  return best;
}

/** What a group's blocks say of step k: -1 all new, 1 all held, NaN nothing. */
function saidOf({ blocks }: Group, votes: BlockVotes, k: number): number {
  let [held, all] = [0, 0];
  for (const b of blocks) {
    const vote = votes.at(k, b);
    if (vote === VOTES.none) continue;
    all++;
    if (vote === VOTES.held) held++;
  }
  return all >= min(LEAST_BLOCKS, blocks.length) ? (2 * held) / all - 1 : Number.NaN;
}

/** As much as one picture may say (evidence.ts). */
const MOST = 6;

function evidenceOf(groups: readonly Group[], votes: BlockVotes, length: number): Float64Array {
  const evidence = new Float64Array(length).fill(Number.NaN);
  for (const group of groups)
    for (let k = group.from; k < group.to; k++) {
      const said = saidOf(group, votes, k);
      if (!Number.isNaN(said)) evidence[k] = MOST * said;
    }
  return evidence;
}

function partOf(groups: readonly Group[], votes: BlockVotes, storedRate: number): Part {
  const { grid } = votes;
  const all = groups.flatMap((g) => g.blocks);
  const columns = all.map((b) => b % grid.columns);
  const rows = all.map((b) => floor(b / grid.columns));
  // Not Math.min(...): hours have more chunks than a call takes arguments.
  const least = (values: readonly number[]): number => values.reduce((a, b) => min(a, b), Number.POSITIVE_INFINITY);
  const most = (values: readonly number[]): number => values.reduce((a, b) => max(a, b), 0);
  const [x, y] = [least(columns) / grid.columns, least(rows) / grid.rows];
  const pattern = groups[0]?.pattern as Pattern;
  return {
    x,
    y,
    width: (most(columns) + 1) / grid.columns - x,
    height: (most(rows) + 1) / grid.rows - y,
    trueRate: storedRate * pattern.newShare,
    pattern: pattern.name,
    certainty: certaintyOf(groups, votes),
  };
}

/** How much better its own beat explains what a part does than the next best one, as for stretches. */
function certaintyOf(groups: readonly Group[], votes: BlockVotes): number {
  let better = 0;
  for (const group of groups) {
    const said = Float32Array.from({ length: group.to - group.from }, (_, i) => saidOf(group, votes, group.from + i));
    const costs = [PATTERNS[0] as Pattern, ...RHYTHMS].map((pattern) => ({ pattern, cost: costOf(pattern, group.from, said) }));
    const own = costs.find((c) => c.pattern === group.pattern)?.cost ?? 0;
    const rivals = costs.filter((c) => c.pattern !== group.pattern).map((c) => c.cost);
    better += min(...rivals) - own;
  }
  return min(0.999, 1 / (1 + exp(-better / 3)));
}

/** @param said of the steps from `from` on */
function costOf({ cycle }: Pattern, from: number, said: Float32Array): number {
  let best = Number.POSITIVE_INFINITY;
  for (let phase = 0; phase < cycle.length; phase++) {
    let sum = 0;
    for (let i = 0; i < said.length && sum < best; i++) {
      const one = said[i] as number;
      if (Number.isNaN(one)) continue;
      sum += cost(MOST * one, cycle[(from + i + phase) % cycle.length] as boolean);
    }
    best = min(best, sum);
  }
  return best;
}
