import { useElementSize } from '@mantine/hooks';
import { useLayoutEffect, useMemo, useRef } from 'react';
import { painterOf } from './canvas.js';
import { numberOf } from './halves.js';
import { columnsOf } from './layout.js';
import classes from './weave.module.css';
import type { WeaveProps } from './weaveProps.js';

const LEFT = 108;
const HEIGHT = 84;

/**
 * A whole clip in one painting: a column for each pixel. Ink where every picture is new, ice where it is held, sand where it is
 * blended, and above the line a rust kink as high as there are hitches in that column.
 */
export function WholeWeave({ mapping, map, at, firstFrame, sourceLabel, timelineLabel, zoom, fields, onFrame }: WeaveProps) {
  const { ref, width } = useElementSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const room = Math.max(1, Math.floor(width - LEFT - 12));
  const frames = map.pictures.length;
  const unit = Math.max(zoom, room / frames);
  const seen = Math.min(frames, Math.floor(room / unit));
  const from = Math.max(0, Math.min(at - Math.floor(seen / 2), frames - seen));
  const columns = useMemo(
    () => columnsOf(mapping, map, { from, to: from + seen, columns: Math.min(room, seen) }),
    [mapping, map, from, seen, room],
  );
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, room, HEIGHT);
    if (!painter) return;
    const { context, color } = painter;
    const most = columns.reduce((m, c) => Math.max(m, c.hitches), 1);
    const wide = (seen * unit) / columns.length;
    columns.forEach((column, i) => {
      const x = i * wide;
      // A hair over, so that no seam shows between columns.
      const filled = wide + 0.6;
      if (column.frames === 0) return;
      const share = (n: number): number => (n / column.frames) * 22;
      context.fillStyle = color('--ink');
      context.fillRect(x, 44, filled, 22);
      context.fillStyle = color('--ice');
      context.fillRect(x, 44, filled, share(column.held));
      context.fillStyle = color('--sand');
      context.fillRect(x, 44, filled, share(column.blended));
      if (column.hitches === 0) return;
      const high = 6 + (column.hitches / most) * 24;
      context.fillStyle = color('--rust');
      context.fillRect(x, 40 - high, Math.min(3, wide + 0.4), high);
    });
    context.fillStyle = color('--fjord');
    context.fillRect((at - from + 0.5) * unit - 1, 2, 2, HEIGHT - 10);
  }, [columns, room, at, from, seen, unit]);
  return (
    <div ref={ref} className={classes.whole}>
      <div className={classes.wholeLabels}>
        <span className="rust">hitches</span>
        <span>
          {sourceLabel} in {timelineLabel}
        </span>
        <span className="quiet number">
          {numberOf(from, firstFrame, fields)}&ndash;{numberOf(from + seen - 1, firstFrame, fields)}
        </span>
      </div>
      <canvas
        ref={canvas}
        className={classes.painting}
        style={{ left: LEFT, width: room, height: HEIGHT }}
        data-testid="weave-whole"
        onClick={(e) =>
          onFrame(Math.min(frames - 1, from + Math.floor((e.clientX - e.currentTarget.getBoundingClientRect().left) / unit)))
        }
      />
    </div>
  );
}
