import { type Mapping, refreshesOf, refreshPattern } from '@thawline/core/cadence';
import type { Rate } from '@thawline/core/time';
import classes from './weave.module.css';

/** Each refresh of the simulated screen as a tick beneath the frame it repeats; frames shown longer or shorter than most stand out. */
export function ScreenLine({
  frames,
  x,
  unit,
  y,
  mapping,
  screen,
  firstFrame,
}: {
  frames: readonly number[];
  x: (place: number) => number;
  unit: number;
  y: number;
  mapping: Mapping;
  screen: Rate;
  firstFrame: number;
}) {
  const usual = usualCount(mapping.timeline, screen);
  return (
    <g data-testid="screen-line">
      {frames.map((frame) => {
        const refreshes = refreshesOf(firstFrame + frame, mapping.timeline, screen);
        const odd = refreshes !== usual;
        const step = (unit * 0.9) / Math.max(1, refreshes);
        return (
          <g key={frame} data-refreshes={refreshes}>
            {Array.from({ length: refreshes }, (_, k) => (
              <rect
                key={k}
                x={x(frame) - unit * 0.45 + k * step + step * 0.08}
                y={y}
                width={Math.max(0.8, step * 0.84)}
                height={8}
                className={odd ? classes.refreshOdd : classes.refresh}
              />
            ))}
            {refreshes === 0 && (
              <text x={x(frame)} y={y + 8} className={classes.skippedWord}>
                never
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** How many refreshes most frames get. */
function usualCount(timeline: Rate, screen: Rate): number {
  const counts = new Map<number, number>();
  for (const n of refreshPattern(timeline, screen, 60)) counts.set(n, (counts.get(n) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 1;
}
