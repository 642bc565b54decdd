import type { Verdict } from '@thawline/core/truth';
import { flagsOf } from './findings.js';

/** How many pictures show the same, counted: runs[n] pictures were on screen for n pictures. Index 0 is never used. */
export function runLengths(verdict: Pick<Verdict, 'pictures' | 'held'>): number[] {
  const held = flagsOf(verdict.held, verdict.pictures);
  const runs: number[] = [0];
  let length = 1;
  const close = (): void => {
    while (runs.length <= length) runs.push(0);
    runs[length] = (runs[length] ?? 0) + 1;
  };
  for (let k = 1; k < verdict.pictures; k++) {
    if (held[k]) length++;
    else {
      close();
      length = 1;
    }
  }
  close();
  return runs;
}
