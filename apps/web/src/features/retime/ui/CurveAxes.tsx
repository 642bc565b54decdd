import { ticks } from 'd3-array';
import { memo } from 'react';
import { count } from '../../../shared/words.js';
import { type CurveGeometry, MARGIN } from '../model/curveGeometry.js';
import classes from './retime.module.css';

/** Least distance of two marks, in CSS pixels. */
const APART = { across: 70, up: 34 } as const;
const marks = (most: number, room: number, apart: number): number[] => ticks(0, most, Math.max(2, Math.floor(room / apart)));

interface Props {
  readonly drawn: CurveGeometry;
  /** Frames of the clip, and how many a second. */
  readonly length: number;
  readonly perSecond: number;
}

/** Seconds across and pictures up, and the line on which every picture passes once. */
export const CurveAxes = memo(function CurveAxes({ drawn, length, perSecond }: Props) {
  const { x, y, across, up, span, top } = drawn;
  const once = Math.min(span, top);
  const left = once >= span * 0.7;
  return (
    <>
      {marks(length / perSecond, across, APART.across).map((s) => (
        <g key={`x${s}`}>
          <line x1={x(s * perSecond)} x2={x(s * perSecond)} y1={MARGIN.top} y2={MARGIN.top + up} className={classes.grid} />
          <text x={x(s * perSecond)} y={MARGIN.top + up + 16} className={classes.tick} textAnchor="middle">
            {Number(s.toFixed(2))} s
          </text>
        </g>
      ))}
      {marks(top, up, APART.up).map((p) => (
        <g key={`y${p}`}>
          <line x1={MARGIN.left} x2={MARGIN.left + across} y1={y(p)} y2={y(p)} className={classes.grid} />
          <text x={MARGIN.left - 8} y={y(p) + 4} className={classes.tick} textAnchor="end">
            {count(p)}
          </text>
        </g>
      ))}
      <rect data-ground x={MARGIN.left} y={MARGIN.top} width={across} height={up} fill="transparent" />
      <path d={`M${x(0)} ${y(0)}L${x(once)} ${y(once)}`} className={classes.cleanest} />
      <text
        x={x(once) + (left ? -6 : 6)}
        y={y(once) + (left ? 16 : 4)}
        textAnchor={left ? 'end' : 'start'}
        className={classes.tick}
        data-soft
      >
        every picture once
      </text>
    </>
  );
});
