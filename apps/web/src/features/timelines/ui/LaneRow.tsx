import { useDroppable } from '@dnd-kit/core';
import { Menu } from '@mantine/core';
import { type Clip, cadenceAsSeen, clipEnd, type Dissolving, dissolvesOf, type Lane, type Timeline } from '@thawline/project';
import { memo, useLayoutEffect, useMemo, useRef } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { painterOf } from '../../../shared/diagram/canvas.js';
import { plural } from '../../../shared/words.js';
import { how, type useChoose } from '../model/editing.js';
import { ClipBox } from './ClipBox.js';
import classes from './lanes.module.css';

export const LABELS = 84;
export const LANE = 32;
/** Clips narrower than this are painted, not made of elements: two thousand of them are then one picture. */
const BOXED = 26;

/** Waveforms are drawn for what is in sight, in steps of so many pixels. */
const SIGHT = 512;

interface Props {
  readonly lane: Lane;
  /** By start. */
  readonly clips: readonly Clip[];
  readonly timeline: Timeline;
  readonly scale: number;
  readonly scroll: number;
  readonly room: number;
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: ReturnType<typeof useChoose>;
}

/** One lane: boxes for the clips that are wide enough to hold a name, a painting for the others. */
export const LaneRow = memo(function LaneRow({ lane, clips, timeline, scale, scroll, room, chosen, onChoose }: Props) {
  const { setNodeRef, isOver } = useDroppable({ id: `lane-${lane.id}`, data: { lane } });
  const from = (scroll - 200) / scale;
  const to = (scroll + room + 300) / scale;
  const seen = clips.slice(firstEndingAfter(clips, from), firstStartingAt(clips, to));
  const boxed = seen.filter((c) => c.length * scale >= BOXED || (chosen.has(c.id) && seen.length < 400));
  const painted = boxed.length < seen.length;
  const first = Math.floor(scroll / SIGHT);
  const last = Math.ceil((scroll + room) / SIGHT);
  const sight = useMemo(() => ({ from: (first - 1) * SIGHT, to: (last + 1) * SIGHT }), [first, last]);
  return (
    <div
      ref={setNodeRef}
      className={classes.lane}
      style={{ height: LANE }}
      data-over={isOver || undefined}
      data-off={lane.off}
      data-testid={`lane-${lane.id}`}
    >
      <LaneName lane={lane} timeline={timeline} empty={clips.length === 0} />
      {/* biome-ignore lint/a11y/noStaticElementInteractions: keys choose clips everywhere on the view */}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: as above */}
      <div
        className={classes.laneClips}
        style={{ left: LABELS }}
        onClick={(event) => {
          if (event.target !== event.currentTarget && !(event.target instanceof HTMLCanvasElement)) return;
          const frame = Math.floor((event.clientX - event.currentTarget.getBoundingClientRect().left) / scale);
          const clip = clips[firstEndingAfter(clips, frame)];
          onChoose(clip && clip.start <= frame ? clip : null, how(event));
        }}
      >
        {painted && (
          <Painted clips={seen} timeline={timeline} lane={lane} scale={scale} scroll={scroll} room={room} chosen={chosen} />
        )}
        {boxed.map((clip) => (
          <ClipBox
            key={clip.id}
            clip={clip}
            timeline={timeline}
            lane={lane}
            scale={scale}
            chosen={chosen.has(clip.id)}
            seen={sight}
            onChoose={onChoose}
          />
        ))}
        {lane.kind === 'picture' && dissolvesOf(seen).map((d) => <DissolveMark key={d.into.id} dissolve={d} scale={scale} />)}
      </div>
    </div>
  );
});

/** Two lines that cross over the frames in which one clip gives way to the next. */
function DissolveMark({ dissolve: { from, to }, scale }: { dissolve: Dissolving; scale: number }) {
  const width = Math.max(2, (to - from) * scale);
  return (
    <svg
      className={classes.dissolve}
      style={{ left: from * scale, width }}
      viewBox="0 0 10 10"
      preserveAspectRatio="none"
      role="img"
      aria-label={`Dissolve over ${plural(to - from, 'frame')}`}
    >
      <rect width="10" height="10" />
      <path d="M0 0L10 10M0 10L10 0" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** What a lane is called; a press offers what is done to it alone. */
function LaneName({ lane, timeline, empty }: { lane: Lane; timeline: Timeline; empty: boolean }) {
  const { run } = useProject();
  const timelineId = timeline.id;
  const lastOfKind = timeline.lanes.filter((l) => l.kind === lane.kind).length === 1;
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <button type="button" className={classes.laneName} title={lane.name}>
          {lane.name}
          {lane.off && <span className="quiet"> off</span>}
        </button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item
          onClick={() =>
            void run({ type: 'setLanes', timelineId, lanes: timeline.lanes.map((l) => (l.id === lane.id ? switched(l) : l)) })
          }
        >
          Switch {lane.name} {lane.off ? 'on' : 'off'}
        </Menu.Item>
        <Menu.Item disabled={empty} onClick={() => void run({ type: 'closeGaps', timelineId, laneId: lane.id })}>
          Close gaps on {lane.name}
        </Menu.Item>
        <Menu.Item
          disabled={!empty || lastOfKind}
          onClick={() => void run({ type: 'setLanes', timelineId, lanes: timeline.lanes.filter((l) => l.id !== lane.id) })}
        >
          Remove {lane.name}
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function switched({ off, ...lane }: Lane): Lane {
  return off ? lane : { ...lane, off: true };
}

function Painted({ clips, timeline, lane, scale, scroll, room, chosen }: Omit<Props, 'onChoose'>) {
  const { project, timings } = useProject();
  const canvas = useRef<HTMLCanvasElement>(null);
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, room, LANE);
    if (!painter) return;
    const { context, color } = painter;
    const [ink, rust, fill, line, picked] = [
      color('--ink'),
      color('--rust'),
      color(lane.kind === 'sound' ? '--sunk' : '--sheet'),
      color('--quiet'),
      color('--fjord'),
    ];
    for (const clip of clips) {
      const width = clip.length * scale;
      if (width >= BOXED) continue;
      const x = clip.start * scale - scroll;
      const drawn = Math.max(1, width - 0.5);
      context.fillStyle = chosen.has(clip.id) ? picked : fill;
      context.fillRect(x, 3, drawn, LANE - 7);
      if (width > 3) {
        context.strokeStyle = line;
        context.lineWidth = 0.7;
        context.strokeRect(x + 0.5, 3.5, drawn - 1, LANE - 8);
      } else {
        context.fillStyle = line;
        context.fillRect(x, 3, Math.min(0.7, width / 2), LANE - 7);
      }
      if (lane.kind === 'sound') continue;
      const hitches = cadenceAsSeen(project, timeline, clip, timings)?.map.hitches.length ?? 0;
      context.fillStyle = hitches > 0 ? rust : ink;
      context.fillRect(x, LANE - 9, drawn, hitches > 0 ? 3 : 1.5);
    }
  }, [project, timings, clips, timeline, lane, scale, scroll, room, chosen]);
  return (
    <canvas
      ref={canvas}
      className={classes.painted}
      style={{ left: scroll, width: room, height: LANE }}
      data-testid={`painted-${lane.id}`}
    />
  );
}

/** Index of the first clip that ends after a frame. */
function firstEndingAfter(clips: readonly Clip[], frame: number): number {
  let low = 0;
  let high = clips.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (clipEnd(clips[middle] as Clip) <= frame) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Index of the first clip that starts at a frame or later. */
function firstStartingAt(clips: readonly Clip[], frame: number): number {
  let low = 0;
  let high = clips.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((clips[middle] as Clip).start < frame) low = middle + 1;
    else high = middle;
  }
  return low;
}
