import { byWayOf, furthestApart, type Relation, relationOf, type Solution, solveTies, type Tie } from '@thawline/core/align';

/** Two recordings whose ties are known: found by sound, or settled by hand. */
export interface Edge {
  readonly aId: string;
  readonly bId: string;
  readonly ties: readonly Tie[];
}

/** A recording that follows the leading one, itself or by way of others. */
export interface Follower extends Edge {
  readonly solution: Solution;
  /** Its relation to the leading recording. */
  readonly there: Relation;
  /** When it is tied to others, too: the largest disagreement with its place by way of them, in seconds. */
  readonly contradicts: { readonly seconds: number; readonly byId: string } | null;
}

/**
 * All that follow one recording, each after the one it is tied to: those tied to it first, then those tied to them.
 * @param seconds the leading recording's length, over which ways round are compared
 */
export function followersOf(leadId: string, edges: readonly Edge[], seconds: number): Follower[] {
  const found: Follower[] = [];
  const places = new Map<string, Relation>([[leadId, { offset: 0, ratio: 1 }]]);
  const queue = [leadId];
  for (let next = queue.shift(); next !== undefined; next = queue.shift()) {
    const from = places.get(next) as Relation;
    for (const edge of edges.filter((e) => e.aId === next && !places.has(e.bId))) {
      const solution = solveTies(edge.ties);
      if (!solution) continue;
      const there = byWayOf(from, relationOf(solution));
      places.set(edge.bId, there);
      found.push({ ...edge, solution, there, contradicts: null });
      queue.push(edge.bId);
    }
  }
  return found.map((f) => ({ ...f, contradicts: worstWayRound(f, edges, places, seconds) }));
}

function worstWayRound(
  follower: Follower,
  edges: readonly Edge[],
  places: ReadonlyMap<string, Relation>,
  seconds: number,
): Follower['contradicts'] {
  let worst: Follower['contradicts'] = null;
  for (const edge of edges) {
    const from = places.get(edge.aId);
    const solution = edge.bId === follower.bId && edge.aId !== follower.aId && from ? solveTies(edge.ties) : null;
    if (!from || !solution) continue;
    const apart = furthestApart(follower.there, byWayOf(from, relationOf(solution)), 0, seconds);
    if (apart > (worst?.seconds ?? -1)) worst = { seconds: apart, byId: edge.aId };
  }
  return worst;
}
