import type { FrameCause, TimelineCheck } from '@thawline/project';
import { CAUSES } from '../model/timelineChecks.js';
import classes from './check.module.css';

/** One line for each cause, in the order of the list. */
const LINES: readonly FrameCause[] = ['rate', 'cut', 'source', 'skip', 'jump'];
const LINE = 16;
/** A frame of hours is narrower than a dot: its mark is drawn this wide at least, in parts of 1000. */
const LEAST = 1.2;

/** All frames in one line a cause; a press goes to that frame. */
export function Band({ check, at, onFrame }: { check: TimelineCheck; at: number; onFrame: (frame: number) => void }) {
  const { from, to } = check.range;
  const scale = 1000 / Math.max(1, to - from);
  const lines = LINES.filter((cause) => check.frames[cause] > 0);
  const height = Math.max(1, lines.length) * LINE;
  const press = (event: React.MouseEvent<HTMLButtonElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    onFrame(from + Math.floor(((event.clientX - box.left) / box.width) * (to - from)));
  };
  // One path a line, whatever the number of findings.
  const path = (cause: FrameCause, y: number): string =>
    check.findings
      .filter((f) => f.cause === cause)
      .map((f) => {
        const width = Math.max(LEAST, (f.to - f.from) * scale);
        return `M${((f.from - from) * scale).toFixed(2)} ${y + 2}h${width.toFixed(2)}v${LINE - 4}h${(-width).toFixed(2)}z`;
      })
      .join('');
  const here = (at - from + 0.5) * scale;
  return (
    <div className={classes.band}>
      <div>
        {lines.map((cause) => (
          <small key={cause} style={{ height: LINE, lineHeight: `${LINE}px` }}>
            {CAUSES[cause]}
          </small>
        ))}
      </div>
      <button type="button" aria-label="Go to where this was pressed" onClick={press}>
        <svg viewBox={`0 0 1000 ${height}`} preserveAspectRatio="none" style={{ height }} aria-hidden="true">
          {lines.map((cause, i) => (
            <path key={cause} d={path(cause, i * LINE)} data-cause={cause} />
          ))}
          <line x1={here} x2={here} y1={0} y2={height} vectorEffect="non-scaling-stroke" />
        </svg>
      </button>
    </div>
  );
}
