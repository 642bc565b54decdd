import { frameAtOrAfter, type Rate, rate } from '../time/index.js';

/** Refresh rates that screens run at, in pictures a second. */
export const SCREEN_RATES: readonly Rate[] = [rate(50), rate(60000, 1001), rate(60), rate(120)];

/**
 * How many refreshes of a screen show frame n of a timeline, when frame 0 and a refresh begin together: those that begin
 * while it lasts. 0: the screen never shows it.
 */
export function refreshesOf(n: number, timeline: Rate, screen: Rate): number {
  return frameAtOrAfter(n + 1, timeline, screen) - frameAtOrAfter(n, timeline, screen);
}

/** The order in which frames are repeated, until it begins anew or `most` frames: 25 on 60 is 3 2 3 2 2. */
export function refreshPattern(timeline: Rate, screen: Rate, most = 12): number[] {
  const counts = Array.from({ length: most }, (_, n) => refreshesOf(n, timeline, screen));
  for (let length = 1; length <= most; length++) {
    const same = frameAtOrAfter(length, timeline, screen);
    if (same * timeline.num * screen.den === length * screen.num * timeline.den) return counts.slice(0, length);
  }
  return counts;
}
