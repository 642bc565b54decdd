/**
 * Lets everybody else have their turn. Within one change of a large document, parsing, applying, writing its text and storing it would
 * otherwise be one long stretch in which nobody is answered: awaiting what is there already gives no turn away.
 */
export function yieldTurn(): Promise<void> {
  return new Promise((resolve) => setImmediate(resolve));
}
