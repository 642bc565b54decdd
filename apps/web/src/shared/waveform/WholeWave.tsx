import type { Source } from '@thawline/project';
import { useLayoutEffect, useRef } from 'react';
import { painterOf } from '../diagram/canvas.js';
import { paintWave, raiseOf } from './paint.js';
import { useWave } from './useWave.js';

/** All of a source's sound at a glance, raised to fill its place. */
export function WholeWave({
  source,
  width,
  height,
  className,
}: {
  source: Source;
  width: number;
  height: number;
  className?: string | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const seconds = source.sound?.seconds ?? 0;
  const wave = useWave(source.sound ? source.mediaId : '', 0, seconds, width);
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, width, height);
    if (!painter || !wave) return;
    const half = (height / 2 - 1) * raiseOf(wave);
    const box = { left: 0, width, middle: height / 2, half, from: 0, to: seconds };
    paintWave(painter.context, wave, box, painter.color('--fjord'));
  }, [wave, width, height, seconds]);
  return (
    <canvas ref={canvas} className={className} style={{ width, height }} role="img" aria-label={`Sound of ${source.name}`} />
  );
}
