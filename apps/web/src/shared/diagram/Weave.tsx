import { useElementSize } from '@mantine/hooks';
import { type Mapping, refreshesOf, refreshPattern } from '@thawline/core/cadence';
import { formatRate, type Rate } from '@thawline/core/time';
import { memo } from 'react';
import { layoutWeave, threadPath } from './layout.js';
import { WholeWeave } from './WholeWeave.js';
import classes from './weave.module.css';
import type { WeaveProps } from './weaveProps.js';

const LEFT = 108;
const BOX = 26;
/** From this size on, pixels a frame, pictures and frames bear their numbers. */
const NUMBERED = 30;
/** From this size on the film strip is shown. */
const STRIP = 80;
/** Under this size, frames are columns of a painting. */
const DRAWN = 10;

const FILLS = { real: 'var(--sheet)', held: 'url(#frost)', blended: 'url(#dots)', made: 'url(#wave)' } as const;

/**
 * Source pictures above, output frames below, a thread from each frame to the picture it shows; steps underneath. Closer there
 * is a film strip of the pictures themselves, further away the whole clip is one painting.
 */
export const Weave = memo(function Weave(props: WeaveProps) {
  const { mapping, map, at, firstFrame, sourceLabel, timelineLabel, zoom, screen, pictureAt, shape, onFrame } = props;
  const { ref, width } = useElementSize();
  const room = Math.max(0, width - LEFT - 12);
  const frames = map.pictures.length;
  if (zoom < DRAWN && room / Math.max(1, frames) < DRAWN) return <WholeWeave {...props} />;
  // As many frames as keep the boxes of the denser row readable.
  const ends = [map.pictures[0] ?? 0, map.pictures[frames - 1] ?? 0] as const;
  const density = frames > 1 ? (ends[1] - ends[0]) / (frames - 1) : 1;
  const asked = zoom < DRAWN ? room / Math.max(1, frames) : zoom;
  const unit = Math.min(220, zoom >= NUMBERED ? Math.max(asked, (asked - 2) * Math.max(1, density)) : asked);
  const shown = Math.max(3, Math.floor(room / unit));
  const from = Math.max(0, Math.min(at - Math.floor(shown / 2), frames - shown));
  const layout = layoutWeave(mapping, map, from, from + shown);
  const x = (place: number): number => LEFT + (place - from + 0.5) * unit;
  const numbered = unit >= NUMBERED;
  const pictureWidth = Math.min(30, (unit / Math.max(1, density)) * 0.86);
  const frameWidth = Math.min(34, unit * 0.9);
  const strip = zoom >= STRIP && pictureAt !== null;
  const stripWidth = Math.min((unit / Math.max(1, density)) * 0.94, 150);
  const stripHeight = strip ? Math.min(72, stripWidth / shape) : 0;
  const top = 18 + (strip ? stripHeight + 6 : 0);
  const bottom = top + 74;
  const height = bottom + 48 + (screen ? 26 : 0);
  return (
    <div ref={ref} className={classes.weave}>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing whose parts can be pressed */}
      <svg
        width="100%"
        height={height}
        role="group"
        aria-label={`Weave of ${sourceLabel} into ${timelineLabel}`}
        data-testid="weave"
        data-unit={Math.round(unit)}
      >
        <defs>
          <pattern id="frost" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(35)">
            <rect width="7" height="7" fill="var(--sheet)" />
            <rect width="3.5" height="7" fill="var(--ice)" />
          </pattern>
          <pattern id="dots" width="6" height="6" patternUnits="userSpaceOnUse">
            <rect width="6" height="6" fill="var(--sand-soft)" />
            <circle cx="3" cy="3" r="1.1" fill="var(--ink)" />
          </pattern>
          <pattern id="wave" width="10" height="8" patternUnits="userSpaceOnUse">
            <rect width="10" height="8" fill="var(--sand-soft)" />
            <path d="M0 4q2.5-3.4 5 0t5 0" fill="none" stroke="var(--sand)" strokeWidth="1.4" />
          </pattern>
          <clipPath id="weave-room">
            <rect x={LEFT - 4} y="0" width={room + 16} height={height} />
          </clipPath>
        </defs>
        <RowLabel y={top + 12} name={props.rows?.above ?? 'source'} value={sourceLabel} />
        <RowLabel y={bottom + 12} name={props.rows?.below ?? 'timeline'} value={timelineLabel} />
        {screen && (
          <RowLabel
            y={bottom + 56}
            name={`${formatRate(screen)} Hz screen`}
            value={refreshPattern(mapping.timeline, screen, 7).join(' ')}
          />
        )}
        <g clipPath="url(#weave-room)">
          {layout.frames.map((frame) =>
            frame.threads.map((thread) => (
              <path
                key={`${frame.frame}-${thread.picture}`}
                d={threadPath(x(thread.at), top + BOX, x(frame.at), bottom)}
                className={classes.thread}
                data-kind={
                  frame.hitch ? 'hitch' : frame.state === 'held' ? 'held' : frame.threads.length > 1 ? 'blend' : undefined
                }
                style={{ strokeWidth: 1 + 1.6 * thread.share * (frame.hitch ? 1.2 : 0.6) }}
              />
            )),
          )}
          {layout.pictures.map((p) => (
            <g key={p.picture} transform={`translate(${x(p.at)} 0)`} data-skipped={p.skipped || undefined}>
              {strip && (
                <image
                  href={pictureAt?.(p.picture)}
                  x={-stripWidth / 2}
                  y={top - 6 - stripHeight}
                  width={stripWidth}
                  height={stripHeight}
                  preserveAspectRatio="xMidYMid slice"
                  opacity={p.skipped ? 0.35 : 1}
                  data-testid={`strip-${p.picture}`}
                />
              )}
              <rect
                x={-pictureWidth / 2}
                y={top}
                width={pictureWidth}
                height={BOX}
                rx={numbered ? 3 : 1.5}
                className={p.skipped ? classes.skipped : classes.picture}
              />
              {numbered && pictureWidth >= 24 && !p.skipped && (
                <text x={0} y={top + 17} className={classes.pictureNumber}>
                  {p.picture}
                </text>
              )}
              {p.skipped && pictureWidth >= 24 && (
                <text
                  x={0}
                  y={strip ? top - 2 - stripHeight / 2 : top - 5}
                  className={classes.skippedWord}
                  data-over={strip || undefined}
                >
                  skipped
                </text>
              )}
            </g>
          ))}
          {layout.frames.map((frame) => (
            // biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing
            <g
              key={frame.frame}
              transform={`translate(${x(frame.at)} ${bottom})`}
              className={classes.frame}
              data-here={frame.frame === at || undefined}
              data-testid={`weave-frame-${frame.frame}`}
              role="button"
              tabIndex={-1}
              onClick={() => onFrame(frame.frame)}
              onKeyDown={(e) => e.key === 'Enter' && onFrame(frame.frame)}
            >
              <rect
                x={-frameWidth / 2}
                width={frameWidth}
                height={BOX}
                rx={numbered ? 3 : 1.5}
                fill={FILLS[frame.state]}
                data-state={frame.state}
              />
              {numbered && (
                <text x="0" y="17" className={classes.frameNumber} data-busy={frame.state !== 'real' || undefined}>
                  {firstFrame + frame.frame}
                </text>
              )}
              {(numbered || frame.hitch) && (
                <text x="0" y={BOX + 17} className={classes.step} data-hitch={frame.hitch || undefined}>
                  {frame.frame === 0
                    ? '\u00b7'
                    : frame.threads.length === 2
                      ? `${Math.round((frame.threads[1]?.share ?? 0) * 100)}%`
                      : `+${frame.step}`}
                </text>
              )}
            </g>
          ))}
          {screen && (
            <ScreenLine
              layout={layout.frames.map((f) => f.frame)}
              x={x}
              unit={unit}
              y={bottom + 52}
              mapping={mapping}
              screen={screen}
              firstFrame={firstFrame}
            />
          )}
        </g>
      </svg>
    </div>
  );
});

export function RowLabel({ y, name, value }: { y: number; name: string; value: string }) {
  return (
    <>
      <text x="0" y={y} className={classes.label}>
        {name}
      </text>
      <text x="0" y={y + 15} className={classes.rate}>
        {value}
      </text>
    </>
  );
}

/** Each refresh of the simulated screen as a tick beneath the frame it repeats; frames shown longer or shorter than most stand out. */
function ScreenLine({
  layout,
  x,
  unit,
  y,
  mapping,
  screen,
  firstFrame,
}: {
  layout: readonly number[];
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
      {layout.map((frame) => {
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
