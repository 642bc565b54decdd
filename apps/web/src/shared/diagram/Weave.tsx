import { useElementSize } from '@mantine/hooks';
import { refreshPattern } from '@thawline/core/cadence';
import { formatRate } from '@thawline/core/time';
import { memo } from 'react';
import { halfOf } from './halves.js';
import { layoutWeave, threadPath } from './layout.js';
import { ScreenLine } from './ScreenLine.js';
import { WeaveFrames } from './WeaveFrames.js';
import { WeavePictures } from './WeavePictures.js';
import { WholeWeave } from './WholeWeave.js';
import classes from './weave.module.css';
import type { WeaveProps } from './weaveProps.js';
import { BOX, LEFT, weaveScale } from './weaveScale.js';

/**
 * Source pictures above, output frames below, a thread from each frame to the picture it shows; steps underneath. Closer there
 * is a film strip of the pictures themselves, further away the whole clip is one painting.
 */
export const Weave = memo(function Weave(props: WeaveProps) {
  const { mapping, map, at, firstFrame, sourceLabel, timelineLabel, zoom, screen, pictureAt, shape, onFrame } = props;
  const { ref, width } = useElementSize();
  const { pictures } = map;
  const scale = weaveScale({ width, zoom, pictures, at, strip: pictureAt !== null, aspect: shape, screen: screen !== null });
  if (!scale) return <WholeWeave {...props} />;
  const { unit, from, shown, x, top, bottom, height } = scale;
  const layout = layoutWeave(mapping, map, from, from + shown);
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
            <rect x={LEFT - 4} y="0" width={Math.max(0, width - LEFT + 4)} height={height} />
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
                d={threadPath(x(thread.at), top + BOX, x(frame.at), bottom + halfOf(frame.frame, props.fields, BOX).y)}
                className={classes.thread}
                data-kind={
                  frame.hitch ? 'hitch' : frame.state === 'held' ? 'held' : frame.threads.length > 1 ? 'blend' : undefined
                }
                style={{ strokeWidth: 1 + 1.6 * thread.share * (frame.hitch ? 1.2 : 0.6) }}
              />
            )),
          )}
          <WeavePictures layout={layout} scale={scale} pictureAt={pictureAt} />
          <WeaveFrames layout={layout} scale={scale} at={at} firstFrame={firstFrame} fields={props.fields} onFrame={onFrame} />
          {screen && (
            <ScreenLine
              frames={layout.frames.map((f) => f.frame)}
              x={x}
              unit={unit}
              y={bottom + 52}
              mapping={mapping}
              screen={screen}
              firstFrame={firstFrame * (props.fields ? 2 : 1)}
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
