import { alignSounds, type FoundTie, type Solution, type Strike, solveTies } from '@thawline/core/align';
import { MediaError } from '@thawline/media';
import type { SourceFile } from '../compose/input.js';
import type { JobContext } from '../jobs/context.js';
import { SoundError } from '../jobs/errors.js';
import { TemporaryRecording } from '../make/recording.js';

/** What aligning two files by their sound found. Times count from each file's first picture, of sound alone from its first sample. */
export interface AlignResult {
  readonly ties: readonly FoundTie[];
  readonly solution: Solution | null;
  /** Under 0.5 the sounds do not match. */
  readonly certainty: number;
  readonly strikesA: readonly Strike[];
  readonly strikesB: readonly Strike[];
}

/** Two recordings of one event. */
export interface FilePair {
  readonly a: SourceFile;
  readonly b: SourceFile;
}

export async function align(context: JobContext, { a, b }: FilePair): Promise<AlignResult> {
  const { media, progress, signal } = context;
  const seconds = { a: 0, b: 0 };
  const total = Math.round((a.probe.sound?.seconds ?? 0) + (b.probe.sound?.seconds ?? 0));
  // One that fails ends the other, too.
  const stop = new AbortController();
  const both = signal ? AbortSignal.any([signal, stop.signal]) : stop.signal;
  const take = (which: 'a' | 'b', file: SourceFile): Promise<TemporaryRecording> =>
    TemporaryRecording.of(
      media,
      file.path,
      file.probe,
      (done) => {
        seconds[which] = done;
        progress(Math.min(total, Math.round(seconds.a + seconds.b)), total, 'listening');
      },
      both,
    ).catch((error: unknown) => {
      stop.abort();
      throw error instanceof MediaError && error.code !== 'aborted' ? new SoundError(error, which) : error;
    });
  const taken = await Promise.allSettled([take('a', a), take('b', b)]);
  const recordings = taken.flatMap((t) => (t.status === 'fulfilled' ? [t.value] : []));
  try {
    const failed = taken.filter((t) => t.status === 'rejected').map((t) => t.reason as unknown);
    if (failed.length > 0) throw failed.find((e) => e instanceof SoundError) ?? failed[0];
    const [first, second] = recordings as [TemporaryRecording, TemporaryRecording];
    const found = await alignSounds(first, second, (share) => {
      if (signal?.aborted) throw new MediaError('aborted');
      progress(Math.round(share * 100), 100, 'comparing');
    });
    const [startA, startB] = [a.probe.sound?.startSeconds ?? 0, b.probe.sound?.startSeconds ?? 0];
    const ties = found.ties.map((t) => ({ ...t, a: t.a + Math.round(startA * 1e6), b: t.b + Math.round(startB * 1e6) }));
    const later = (strikes: readonly Strike[], by: number): Strike[] => strikes.map((s) => ({ ...s, seconds: s.seconds + by }));
    return {
      ties,
      solution: solveTies(ties),
      certainty: found.certainty,
      strikesA: later(first.outline.strikes, startA),
      strikesB: later(second.outline.strikes, startB),
    };
  } finally {
    for (const recording of recordings) await recording.close();
  }
}
