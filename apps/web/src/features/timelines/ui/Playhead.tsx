import { useEffect, useRef } from 'react';
import { useView } from '../../../shared/state/view.js';
import { LABELS } from './LaneRow.js';
import classes from './lanes.module.css';

interface Props {
  readonly timelineId: string;
  readonly scale: number;
  readonly scroller: React.RefObject<HTMLDivElement | null>;
  readonly room: number;
}

/** Follows the playhead, or the player while it runs, without drawing anything else anew; the lanes turn the page for it. */
export function Playhead({ timelineId, scale, scroller, room }: Props) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let last = -1;
    const show = (follow: boolean): void => {
      const { live, playheads } = useView.getState();
      const frame = live ?? playheads[timelineId] ?? 0;
      if (frame === last && follow) return;
      last = frame;
      const x = (frame + 0.5) * scale;
      if (line.current) line.current.style.transform = `translateX(${LABELS + x}px)`;
      const view = scroller.current;
      if (!follow || !view) return;
      if (x < view.scrollLeft || x > view.scrollLeft + room) view.scrollLeft = Math.max(0, x - room / (live === null ? 2 : 12));
    };
    show(false);
    return useView.subscribe(() => show(true));
  }, [timelineId, scale, scroller, room]);
  return <div ref={line} className={classes.playhead} data-testid="playhead" />;
}
