import { clockTimecode } from '@thawline/core/time';
import type { Timeline } from '@thawline/project';
import { rulerFrames } from '../model/scale.js';
import { LABELS } from './LaneRow.js';
import classes from './lanes.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly scale: number;
  readonly total: number;
  readonly from: number;
  readonly room: number;
  readonly onFrame: (frame: number) => void;
}

/** Timecode as far apart as it stays readable, in to out, marks; a press goes to that frame. */
export function Ruler({ timeline, scale, total, from, room, onFrame }: Props) {
  const lines = rulerFrames(timeline, 88 / scale, Math.max(0, (from - 100) / scale), Math.min(total, from + room + 200) / scale);
  const { range } = timeline;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys move the playhead everywhere on the view
    // biome-ignore lint/a11y/useKeyWithClickEvents: as above
    <div
      className={classes.ruler}
      onClick={(e) => onFrame(Math.floor((e.clientX - e.currentTarget.getBoundingClientRect().left - LABELS) / scale))}
      data-testid="ruler"
    >
      {range && (
        <i
          className={classes.range}
          style={{ left: LABELS + range.from * scale, width: Math.max(2, (range.to - range.from) * scale) }}
          title={`In ${clockTimecode(range.from, timeline)}, out ${clockTimecode(range.to, timeline)}`}
          data-testid="range"
        />
      )}
      {lines.map((f) => (
        <span key={f} className="number" style={{ left: LABELS + f * scale }}>
          {clockTimecode(f, timeline)}
        </span>
      ))}
      {timeline.marks
        .filter((m) => m.frame * scale > from - 20 && m.frame * scale < from + room + 20)
        .map((m) => (
          <i key={m.id} className={classes.mark} style={{ left: LABELS + m.frame * scale }} title={m.name || 'mark'} />
        ))}
    </div>
  );
}
