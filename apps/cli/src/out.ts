import type { Progress } from '@thawline/work';

/** What a command says: JSON on standard output, progress on standard error. */

export function print(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value)}\n`);
}

/** One line that is written over itself on a terminal; a line now and then elsewhere. */
export function progressLine(): Progress {
  let last = Number.NEGATIVE_INFINITY;
  return (done, total, phase) => {
    const now = performance.now();
    if (now - last < (process.stderr.isTTY ? 100 : 2000) && done !== total) return;
    last = now;
    const text = total === null ? `${phase}: ${done}` : `${phase}: ${done} of ${total}`;
    process.stderr.write(process.stderr.isTTY ? `\r\x1b[K${text}${done === total ? '\n' : ''}` : `${text}\n`);
  };
}
