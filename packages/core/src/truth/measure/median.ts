/** The middle one of some values, of two the larger; NaN of none. */
export function median(values: readonly number[]): number {
  return values.toSorted((a, b) => a - b)[values.length >> 1] ?? Number.NaN;
}
