import { halfOf, numberOf } from './halves.js';
import type { WeaveLayout } from './layout.js';
import classes from './weave.module.css';
import type { WeaveProps } from './weaveProps.js';
import { BOX, type WeaveScale } from './weaveScale.js';

const FILLS = { real: 'var(--sheet)', held: 'url(#frost)', blended: 'url(#dots)', made: 'url(#wave)' } as const;

interface Props extends Pick<WeaveProps, 'at' | 'firstFrame' | 'fields' | 'onFrame'> {
  readonly layout: WeaveLayout;
  readonly scale: WeaveScale;
}

/** The lower row: output frames, with their state and the step to each. */
export function WeaveFrames({ layout, scale, at, firstFrame, fields, onFrame }: Props) {
  const { x, bottom, numbered, frameWidth } = scale;
  const half = (frame: number): { y: number; height: number } => halfOf(frame, fields, BOX);
  return layout.frames.map((frame) => (
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
        {...half(frame.frame)}
        rx={numbered ? 3 : 1.5}
        fill={FILLS[frame.state]}
        data-state={frame.state}
      />
      {numbered && (
        <text
          x="0"
          y={fields ? half(frame.frame).y + 11 : 17}
          className={classes.frameNumber}
          data-busy={frame.state !== 'real' || undefined}
        >
          {numberOf(frame.frame, firstFrame, fields)}
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
  ));
}
