/** Time that a newer reading takes to count for most, in seconds. */
const SETTLES = 12;
/** No estimate is given before this many seconds. */
const FIRST = 1.5;

/**
 * Tells how long something will still take from how it went lately: newer readings count for more, and what it says changes little by
 * little. What was there from the start was not done at this pace and is left out.
 */
export class EtaEstimator {
  private began: number | null = null;
  private last: { readonly at: number; readonly done: number } | null = null;
  /** Done a second. */
  private speed = 0;

  /** @param at seconds, of any clock that only goes forward */
  report(at: number, done: number): void {
    this.began ??= at;
    const { last } = this;
    if (!last || done < last.done) {
      this.last = { at, done };
      return;
    }
    const spent = at - last.at;
    if (spent < 0.25 || done === last.done) return;
    const now = (done - last.done) / spent;
    const weight = this.speed === 0 ? 1 : 1 - Math.exp(-spent / SETTLES);
    this.speed += (now - this.speed) * weight;
    this.last = { at, done };
  }

  /**
   * Seconds for the rest; null while that cannot be told.
   * @param after how long what comes then will take, as a share of the time for all of this
   */
  secondsLeft(at: number, total: number | null, after = 0): number | null {
    const { last, began, speed } = this;
    if (!last || began === null || total === null || speed <= 0 || at - began < FIRST) return null;
    // What is under way since the last reading counts, up to a standstill.
    const rest = Math.max(0, (total - last.done) / speed - Math.min(at - last.at, 1 / speed));
    return rest + (after * total) / speed;
  }
}
