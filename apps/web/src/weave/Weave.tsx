import { useElementSize } from '@mantine/hooks';
import type { Mapping, StepMap } from '@thawline/core/cadence';
import { layoutWeave, threadPath } from './layout.js';
import classes from './weave.module.css';

interface Props {
  readonly mapping: Mapping;
  readonly map: StepMap;
  /** Frame of the clip in the middle. */
  readonly at: number;
  /** Number that the clip's first frame bears on the timeline. */
  readonly firstFrame: number;
  readonly sourceLabel: string;
  readonly timelineLabel: string;
  readonly onFrame: (frame: number) => void;
}

const LEFT = 108;
const TOP = 18;
const BOTTOM = 92;
const BOX = 26;

/** Source pictures above, output frames below, a thread from each frame to the picture it shows; steps underneath. */
export function Weave({ mapping, map, at, firstFrame, sourceLabel, timelineLabel, onFrame }: Props) {
  const { ref, width } = useElementSize();
  const room = Math.max(0, width - LEFT - 12);
  // As many frames as leave each picture's box readable, whichever row is denser.
  const ends = [map.pictures[0] ?? 0, map.pictures[map.pictures.length - 1] ?? 0] as const;
  const density = map.pictures.length > 1 ? (ends[1] - ends[0]) / (map.pictures.length - 1) : 1;
  const unit = Math.max(38, 36 * Math.max(1, density));
  const shown = Math.max(3, Math.floor(room / unit));
  const from = Math.max(0, Math.min(at - Math.floor(shown / 2), map.pictures.length - shown));
  const layout = layoutWeave(mapping, map, from, from + shown);
  const x = (place: number): number => LEFT + (place - from + 0.5) * unit;
  const pictureWidth = Math.min(30, (unit / Math.max(1, density)) * 0.86);
  return (
    <div ref={ref} className={classes.weave}>
      <svg
        width="100%"
        height={BOTTOM + 48}
        role="img"
        aria-label={`Weave of ${sourceLabel} into ${timelineLabel}`}
        data-testid="weave"
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
          <clipPath id="weave-room">
            <rect x={LEFT - 4} y="0" width={room + 16} height={BOTTOM + 48} />
          </clipPath>
        </defs>
        <text x="0" y={TOP + 12} className={classes.label}>
          source
        </text>
        <text x="0" y={TOP + 27} className={classes.rate}>
          {sourceLabel}
        </text>
        <text x="0" y={BOTTOM + 12} className={classes.label}>
          timeline
        </text>
        <text x="0" y={BOTTOM + 27} className={classes.rate}>
          {timelineLabel}
        </text>
        <g clipPath="url(#weave-room)">
          {layout.frames.map((frame) =>
            frame.threads.map((thread) => (
              <path
                key={`${frame.frame}-${thread.picture}`}
                d={threadPath(x(thread.at), TOP + BOX, x(frame.at), BOTTOM)}
                className={classes.thread}
                data-kind={frame.hitch ? 'hitch' : frame.held ? 'held' : frame.threads.length > 1 ? 'blend' : undefined}
                style={{ strokeWidth: 1 + 1.6 * thread.share * (frame.hitch ? 1.2 : 0.6) }}
              />
            )),
          )}
          {layout.pictures.map((p) => (
            <g
              key={p.picture}
              transform={`translate(${x(p.at) - pictureWidth / 2} ${TOP})`}
              data-skipped={p.skipped || undefined}
            >
              <rect width={pictureWidth} height={BOX} rx="3" className={p.skipped ? classes.skipped : classes.picture} />
              {pictureWidth >= 24 && !p.skipped && (
                <text x={pictureWidth / 2} y={17} className={classes.pictureNumber}>
                  {p.picture}
                </text>
              )}
              {p.skipped && pictureWidth >= 24 && (
                <text x={pictureWidth / 2} y={-5} className={classes.skippedWord}>
                  skipped
                </text>
              )}
            </g>
          ))}
          {layout.frames.map((frame) => (
            // biome-ignore lint/a11y/useSemanticElements: a button cannot stand inside a drawing
            <g
              key={frame.frame}
              transform={`translate(${x(frame.at) - 17} ${BOTTOM})`}
              className={classes.frame}
              data-here={frame.frame === at || undefined}
              data-testid={`weave-frame-${frame.frame}`}
              role="button"
              tabIndex={-1}
              onClick={() => onFrame(frame.frame)}
              onKeyDown={(e) => e.key === 'Enter' && onFrame(frame.frame)}
            >
              <rect
                width="34"
                height={BOX}
                rx="3"
                fill={frame.held ? 'url(#frost)' : frame.threads.length > 1 ? 'url(#dots)' : 'var(--sheet)'}
              />
              <text x="17" y="17" className={classes.frameNumber} data-busy={frame.threads.length > 1 || frame.held || undefined}>
                {firstFrame + frame.frame}
              </text>
              <text x="17" y={BOX + 17} className={classes.step} data-hitch={frame.hitch || undefined}>
                {frame.frame === 0
                  ? '\u00b7'
                  : frame.threads.length > 1
                    ? `${Math.round((frame.threads[1]?.share ?? 0) * 100)}%`
                    : `+${frame.step}`}
              </text>
            </g>
          ))}
        </g>
      </svg>
    </div>
  );
}
