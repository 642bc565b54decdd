import { useQueries } from '@tanstack/react-query';
import { address } from '@thawline/contract';
import { WAVE_CHUNK, WAVE_LEVELS } from '@thawline/core/sound';
import { useMemo } from 'react';

/** A stretch of a waveform: bins of equal length, least and largest sample of each, -1 to 1. */
export interface Wave {
  /** Seconds of a bin. */
  readonly bin: number;
  readonly lows: Float32Array;
  readonly highs: Float32Array;
  /** Moment of the first bin, from the sound's own start. */
  readonly from: number;
}

/** The level whose bins are no wider than a pixel, or the finest. */
export function levelFor(secondsPerPixel: number): number {
  let level = 0;
  while (level + 1 < WAVE_LEVELS.length && (WAVE_LEVELS[level + 1] as number) <= secondsPerPixel) level++;
  return level;
}

async function chunk(media: string, level: number, index: number): Promise<Int16Array | null> {
  const reply = await fetch(address('wave', { media, level, chunk: index }));
  // Not made yet: asked for again when its job is done.
  if (reply.status !== 200) return null;
  return new Int16Array(await reply.arrayBuffer());
}

/**
 * What of a source's waveform is needed to draw a stretch.
 * @param from in seconds from the sound's own start
 * @returns null while it is on its way or not made
 */
export function useWave(mediaId: string, from: number, to: number, pixels: number): Wave | null {
  const level = levelFor((to - from) / Math.max(1, pixels));
  const bin = WAVE_LEVELS[level] as number;
  const first = Math.max(0, Math.floor(from / bin / WAVE_CHUNK));
  const last = Math.max(first, Math.floor(to / bin / WAVE_CHUNK));
  const results = useQueries({
    queries: Array.from({ length: last - first + 1 }, (_, i) => ({
      queryKey: ['wave', mediaId, level, first + i],
      queryFn: () => chunk(mediaId, level, first + i),
      staleTime: Number.POSITIVE_INFINITY,
      enabled: to > 0 && mediaId !== '',
    })),
  });
  const loaded = results.map((r) => r.dataUpdatedAt).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the replies are new objects at each draw; when they came says whether they changed
  return useMemo(() => {
    const parts = results.map((r) => r.data);
    if (!parts[0]) return null;
    const count = parts.reduce((sum, p) => sum + (p?.length ?? 0) / 2, 0);
    const [lows, highs] = [new Float32Array(count), new Float32Array(count)];
    let at = 0;
    for (const part of parts) {
      if (!part) break;
      for (let i = 0; i < part.length; i += 2, at++) {
        lows[at] = (part[i] as number) / 32767;
        highs[at] = (part[i + 1] as number) / 32767;
      }
    }
    return { bin, lows, highs, from: first * WAVE_CHUNK * bin };
  }, [loaded, mediaId, level, first, last]);
}
