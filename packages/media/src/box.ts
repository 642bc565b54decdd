import type { ChildProcess } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import type { Readable, Writable } from 'node:stream';

/** What an FFmpeg may take: so much memory, and no time without progress. A damaged or hostile file harms its own process alone. */

const GIGABYTE = 2 ** 30;

/** util-linux's prlimit, which sets limits and then becomes the program. */
const PRLIMIT = ['/usr/bin/prlimit', '/bin/prlimit'].find((path) => existsSync(path)) ?? null;

/** prlimit's exit code where the program could not be started. */
export const NOT_STARTED = 127;

/** Signals that a program gets for its own mistakes; SIGXCPU and SIGXFSZ are limits, SIGKILL comes from outside. */
export const CRASHES: ReadonlySet<NodeJS.Signals> = new Set([
  'SIGSEGV',
  'SIGABRT',
  'SIGBUS',
  'SIGFPE',
  'SIGILL',
  'SIGTRAP',
  'SIGSYS',
]);

/**
 * Bytes of address space for one FFmpeg. Decoders and encoders keep several pictures a thread, and use a thread a core, so that a machine
 * with many cores needs more. `THAWLINE_FFMPEG_GB` sets it; 0 sets no limit.
 */
export function memoryLimit(kind: 'decode' | 'encode', cores: number, asked: string | undefined): number | null {
  const typed = Number(asked);
  if (asked !== undefined && asked.trim() !== '' && Number.isFinite(typed) && typed >= 0)
    return typed === 0 ? null : Math.round(typed * GIGABYTE);
  return kind === 'decode' ? (3 + 0.5 * cores) * GIGABYTE : (6 + cores) * GIGABYTE;
}

/** The program, or what sets its limits and then becomes it. */
export function boxed(program: string, failure: 'decode-failed' | 'encode-failed' | 'unreadable'): string[] {
  const kind = failure === 'encode-failed' ? 'encode' : 'decode';
  const bytes = memoryLimit(kind, availableParallelism(), process.env.THAWLINE_FFMPEG_GB);
  if (PRLIMIT === null || bytes === null) return [program];
  return [PRLIMIT, `--as=${bytes}`, '--core=0', '--', program];
}

/** Interval of looking at a process's progress, and time without any after which it is ended. */
const LOOK_EVERY_MS = 5_000;
const STANDSTILL_MS = 60_000;

/**
 * Ends a process that does nothing: it uses no processor, reads and writes nothing, and it is not we who keep it waiting (by not reading
 * what it wrote, or not giving it what it reads).
 */
export function watchStandstill(
  child: ChildProcess,
  { everyMs = LOOK_EVERY_MS, afterMs = STANDSTILL_MS } = {},
): { readonly found: () => boolean; readonly end: () => void } {
  let last = '';
  let still = 0;
  let found = false;
  const timer = setInterval(() => {
    const now = effortOf(child.pid ?? 0);
    const progress = now === null || now !== last || waitsForUs(child.stdout, child.stdin);
    last = now ?? '';
    still = progress ? 0 : still + everyMs;
    if (still < afterMs) return;
    found = true;
    child.kill('SIGKILL');
  }, everyMs);
  timer.unref();
  return { found: () => found, end: () => clearInterval(timer) };
}

/** Processor time and bytes moved so far, as text that changes when either does; null where the system does not say. */
function effortOf(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
    // The name before may hold anything; fields 14 and 15 (user and system time) come after its bracket.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return `${fields[11]} ${fields[12]} ${readFileSync(`/proc/${pid}/io`, 'latin1')}`;
  } catch {
    // It ended, or this system has no such files.
    return null;
  }
}

function waitsForUs(out: Readable | null, input: Writable | null): boolean {
  const unread = out !== null && !out.destroyed && out.readableLength > 0;
  const ungiven = input !== null && !input.destroyed && !input.writableEnded && input.writableLength === 0;
  return unread || ungiven;
}
