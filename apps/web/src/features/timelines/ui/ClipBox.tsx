import { useDraggable } from '@dnd-kit/core';
import { fitMakes } from '@thawline/core/cadence';
import { formatRate, sameRate } from '@thawline/core/time';
import {
  actionSpeed,
  type Clip,
  cadenceAsSeen,
  type Lane,
  momentsAFrame,
  passingRate,
  readsUnevenly,
  sourceOf,
  type Timeline,
} from '@thawline/project';
import { memo, useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { ClipWave } from '../../../shared/waveform/ClipWave.js';
import { percent, plural } from '../../../shared/words.js';
import { how, type useChoose } from '../model/editing.js';
import classes from './lanes.module.css';

interface Props {
  readonly clip: Clip;
  readonly timeline: Timeline;
  readonly lane: Lane;
  readonly scale: number;
  readonly chosen: boolean;
  /** What of the lane is in sight, in pixels; in steps, so that scrolling draws seldom. */
  readonly seen: { readonly from: number; readonly to: number };
  readonly onChoose: ReturnType<typeof useChoose>;
}

/** Height of a waveform on a lane, in pixels. */
const WAVE = 24;

/** One clip on a lane, with its cadence as a line: straight is even, a kink is a hitch, dots are blends. */
export const ClipBox = memo(function ClipBox({ clip, timeline, lane, scale, chosen, seen, onChoose }: Props) {
  const { project, timings } = useProject();
  const source = sourceOf(project, clip.sourceId);
  const body = useDraggable({ id: `clip-${clip.id}`, data: { what: 'clip', clip } });
  const cadence = useMemo(() => cadenceAsSeen(project, timeline, clip, timings), [project, timeline, clip, timings]);
  if (!source) return null;
  const width = clip.length * scale;
  const runs = passingRate(source, clip);
  const speed = actionSpeed(source, clip, timeline);
  const sped = clip.speed.num === clip.speed.den || clip.curve ? '' : ` at ${percent(speed)}`;
  const same = !runs || clip.fit === 'freeze' || (!readsUnevenly(source) && sameRate(runs, timeline.rate));
  const rates =
    clip.fit === 'freeze'
      ? 'frozen'
      : same && !sped
        ? formatRate(timeline.rate)
        : `${rateLabel(source)}${sped} \u2192 ${formatRate(timeline.rate)}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a button may not hold the grips
    <div
      ref={body.setNodeRef}
      {...body.listeners}
      {...body.attributes}
      className={classes.clip}
      data-kind={lane.kind}
      data-of={source.kind}
      data-lost={source.lost !== null || undefined}
      data-chosen={chosen || undefined}
      data-off={clip.off}
      data-testid={`clip-${source.name}-${lane.kind}`}
      style={{ left: clip.start * scale, width: Math.max(4, width) }}
      onClick={(e) => onChoose(clip, how(e))}
      onKeyDown={(e) => e.key === 'Enter' && onChoose(clip, how(e))}
      role="button"
      tabIndex={0}
      aria-label={`${source.name} on ${lane.name}, frame ${clip.start}, ${plural(clip.length, 'frame')}`}
      title={`${clip.label ?? source.name}, ${rates}${source.lost ? ', not found yet' : ''}`}
    >
      {lane.kind === 'sound' && source.sound && (
        <ClipWave
          clip={clip}
          source={source}
          timeline={timeline}
          scale={scale}
          height={WAVE}
          seen={{ from: seen.from - clip.start * scale, to: seen.to - clip.start * scale }}
          className={classes.wave}
        />
      )}
      <span className={classes.clipName}>
        <b>{clip.label ?? source.name}</b> <small className="number quiet">{rates}</small>
      </span>
      {lane.kind === 'picture' && cadence && (
        <svg className={classes.cadence} width={width} height="9" aria-hidden="true">
          <path
            d={clip.fit === 'motion' ? wavePath(width) : cadencePath(cadence.map.hitches, width, scale / momentsAFrame(timeline))}
            data-hitches={cadence.map.hitches.length > 0 || undefined}
            data-between={fitMakes(clip.fit) ? clip.fit : undefined}
          />
        </svg>
      )}
      <Grip clip={clip} end="head" />
      <Grip clip={clip} end="tail" />
    </div>
  );
});

/** A wave over the whole clip: made by motion. */
function wavePath(width: number): string {
  return `M0 6${'q2.5-3 5 0t5 0'.repeat(Math.min(400, Math.ceil(width / 10)))}`;
}

function Grip({ clip, end }: { clip: Clip; end: 'head' | 'tail' }) {
  const grip = useDraggable({ id: `${end}-${clip.id}`, data: { what: end, clip } });
  return (
    <span
      ref={grip.setNodeRef}
      {...grip.listeners}
      className={classes.grip}
      data-end={end}
      title={end === 'head' ? 'Drag to trim the head' : 'Drag to trim the tail'}
    />
  );
}

/**
 * A straight line with a kink at each hitch; kinks nearer than 5 pixels are drawn once.
 * @param scale pixels a moment
 */
function cadencePath(hitches: Int32Array, width: number, scale: number): string {
  let path = 'M0 5';
  let last = -10;
  for (const hitch of hitches) {
    const x = (hitch + 0.5) * scale;
    if (x - last < 5) continue;
    last = x;
    path += `L${(x - 2).toFixed(1)} 5L${(x - 0.7).toFixed(1)} 1L${(x + 0.7).toFixed(1)} 9L${(x + 2).toFixed(1)} 5`;
  }
  return `${path}L${width.toFixed(1)} 5`;
}
