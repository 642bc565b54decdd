/** Sizes of the weave, in pixels a frame: film strip, single pictures, threads alone, and (0) the whole clip. */
export const WEAVE_ZOOMS = [96, 38, 14, 5, 0] as const;

/** The next size, closer or wider; the ends stay. */
export function wider(zoom: number, closer: boolean): number {
  const at = WEAVE_ZOOMS.findIndex((z) => z <= zoom);
  const next = Math.max(0, Math.min(WEAVE_ZOOMS.length - 1, (at < 0 ? WEAVE_ZOOMS.length - 1 : at) + (closer ? -1 : 1)));
  return WEAVE_ZOOMS[next] ?? 38;
}

/**
 * The nearest of some frames that lies within reach of one of the moved edges, as the move that puts that edge on it; the
 * wanted move when none does.
 * @param edges frames that are moved
 * @param by wanted move, in frames
 * @param reach frames
 */
export function snapped(edges: readonly number[], by: number, places: readonly number[], reach: number): number {
  let best = by;
  let nearest = reach;
  for (const edge of edges)
    for (const place of places) {
      const apart = Math.abs(place - edge - by);
      if (apart <= nearest) {
        nearest = apart;
        best = place - edge;
        if (apart === 0) return by;
      }
    }
  return best;
}
