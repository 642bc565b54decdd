import type { SourceOrder } from '../../../shared/state/view.js';

/** Choosing rows of a list by their ids, in the list's order. */

/** All from one to another, both included; that other alone where the first is not in the list. */
export function rangeOf(ids: readonly string[], from: string, to: string): string[] {
  const [a, b] = [ids.indexOf(from), ids.indexOf(to)];
  return a < 0 || b < 0 ? [to] : ids.slice(Math.min(a, b), Math.max(a, b) + 1);
}

/** The id so many rows from another one, at the ends the last one there is; undefined in an empty list. */
export function stepFrom(ids: readonly string[], here: string | null, by: number): string | undefined {
  const at = Math.max(0, ids.indexOf(here ?? ''));
  return ids[Math.min(ids.length - 1, Math.max(0, at + by))];
}

/** With one more, or without one that was among them. */
export function toggled(chosen: readonly string[], id: string): string[] {
  return chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
}

/** The order after pressing a head: up, down, and as the sources were added. */
export function nextOrder(
  list: { readonly order: SourceOrder; readonly down: boolean },
  pressed: SourceOrder,
): { readonly order: SourceOrder; readonly down: boolean } {
  if (list.order !== pressed) return { order: pressed, down: false };
  return list.down ? { order: 'added', down: false } : { order: pressed, down: true };
}
