/**
 * What stands before and after a place.
 * @param places ascending
 * @returns the nearest on each side, not the place itself, and the index of the first at or after it (-1 for none)
 */
export function around(
  places: readonly number[],
  at: number,
): { readonly previous: number | undefined; readonly next: number | undefined; readonly index: number } {
  let [low, high] = [0, places.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((places[middle] as number) < at) low = middle + 1;
    else high = middle;
  }
  const next = places[low] === at ? places[low + 1] : places[low];
  return { previous: places[low - 1], next, index: low < places.length ? low : -1 };
}
