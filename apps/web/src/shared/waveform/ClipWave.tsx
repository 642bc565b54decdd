import { rateToNumber } from '@thawline/core/time';
import { type Clip, isSilent, type Source, soundSpan, type Timeline } from '@thawline/project';
import { memo, useLayoutEffect, useRef } from 'react';
import { useProject } from '../../api/ProjectProvider.js';
import { painterOf } from '../diagram/canvas.js';
import { paintWave } from './paint.js';
import { useWave } from './useWave.js';

interface Props {
  readonly clip: Clip;
  readonly source: Source;
  readonly timeline: Timeline;
  /** Pixels a frame. */
  readonly scale: number;
  readonly height: number;
  /** What of the clip is in sight, in pixels from its first frame. */
  readonly seen: { readonly from: number; readonly to: number };
  readonly className?: string | undefined;
}

/** The waveform of what a clip sounds, as loud as it is made; nothing where it is silent. A placed timeline's has none of its own. */
export const ClipWave = memo(function ClipWave({ clip, source, timeline, scale, height, seen, className }: Props) {
  const { timings } = useProject();
  const canvas = useRef<HTMLCanvasElement>(null);
  const span = soundSpan(source, clip, timeline, timings);
  const frames = clip.length * scale;
  const left = Math.max(0, Math.floor(seen.from));
  const width = Math.max(1, Math.min(Math.ceil(frames), Math.ceil(seen.to)) - left);
  const perPixel = (span.to - span.from) / Math.max(1, frames);
  const start = span.from - (source.sound?.startSeconds ?? 0) + left * perPixel;
  const end = start + width * perPixel;
  const wave = useWave(source.kind === 'timeline' ? '' : source.mediaId, start, end, width);
  const gain = 10 ** (clip.level / 20);
  const silent = isSilent(source, clip) || source.kind === 'timeline';
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, width, height);
    if (!painter || !wave || silent) return;
    const box = { left: 0, width, middle: height / 2, half: (height / 2) * gain, from: start, to: end };
    painter.context.beginPath();
    painter.context.rect(0, 0, width, height);
    painter.context.clip();
    paintWave(painter.context, wave, box, painter.color('--ice-ink'));
  }, [wave, width, height, gain, start, end, silent]);
  if (source.kind === 'timeline') return null;
  return (
    <canvas
      ref={canvas}
      className={className}
      style={{ left, width, height }}
      role="img"
      aria-label={`Sound of ${source.name}, ${(span.to - span.from).toFixed(2)} s at ${rateToNumber(timeline.rate)} frames a second`}
      data-ready={wave !== null || undefined}
    />
  );
});
