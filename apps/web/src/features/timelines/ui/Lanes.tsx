import {
  DndContext,
  type DragEndEvent,
  type DragMoveEvent,
  type DragStartEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { useElementSize } from '@mantine/hooks';
import { clockTimecode, nominalRate } from '@thawline/core/time';
import {
  apply,
  type Clip,
  type Command,
  clipsFor,
  type Lane,
  type Project,
  type Source,
  type Timeline,
  timelineLength,
} from '@thawline/project';
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { tell } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { headedFor, useGo } from '../../../shared/state/places.js';
import { newId, useView } from '../../../shared/state/view.js';
import { type Dragged, dropCommand, snapPlaces } from '../model/drag.js';
import { useChoose } from '../model/editing.js';
import { LABELS, LaneRow } from './LaneRow.js';
import classes from './lanes.module.css';
import { Playhead } from './Playhead.js';
import { Ruler } from './Ruler.js';
import { Tray } from './Tray.js';

/** Clips snap from this far, in pixels. */
const REACH = 8;
const CLOSEST = 60;

interface Props {
  readonly timeline: Timeline;
  readonly setFrame: (frame: number) => void;
  readonly frameNow: () => number;
  readonly chosen: readonly Clip[];
  /** Stands at the head of the row of what can be placed. */
  readonly bar: React.ReactNode;
}

/** Lanes with clips: drag sources in, drag clips and their ends, press the ruler to go there. */
export const Lanes = memo(function Lanes({ timeline, setFrame, frameNow, chosen, bar }: Props) {
  const { project, run, timings } = useProject();
  const go = useGo();
  const choose = useChoose(timeline);
  const { ref, width } = useElementSize();
  const scroller = useRef<HTMLDivElement>(null);
  const zoom = useView((s) => s.zooms[timeline.id] ?? 0);
  const [scroll, setScroll] = useState(0);
  const [preview, setPreview] = useState<{ command: Command | null; ok: boolean } | null>(null);
  const length = timelineLength(timeline);
  const room = Math.max(200, width - LABELS - 8);
  const fitted = room / Math.max(nominalRate(timeline.rate) * 4, length * 1.06);
  const scale = Math.max(zoom, fitted);
  const total = Math.max(room, (length + nominalRate(timeline.rate) * 5) * scale);
  useZoomByWheel(scroller, timeline.id, scale, fitted);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const shown = useMemo(() => {
    if (!preview?.command) return timeline;
    const applied = apply(project, preview.command, timings);
    return (applied.ok && applied.project.timelines.find((t) => t.id === timeline.id)) || timeline;
  }, [preview, project, timeline, timings]);
  const lanes = useMemo(
    () => [...timeline.lanes.filter((l) => l.kind === 'picture').reverse(), ...timeline.lanes.filter((l) => l.kind === 'sound')],
    [timeline.lanes],
  );
  const byLane = useMemo(() => {
    const found = new Map<string, Clip[]>();
    for (const clip of [...shown.clips].sort((a, b) => a.start - b.start))
      found.set(clip.laneId, [...(found.get(clip.laneId) ?? []), clip]);
    return found;
  }, [shown]);
  const ids = useMemo(() => new Set(chosen.map((c) => c.id)), [chosen]);

  /** The frame over which a dragged source's left edge is. */
  const wantedStart = (event: DragMoveEvent | DragEndEvent): number => {
    const box = scroller.current?.getBoundingClientRect();
    const at = event.active.rect.current.translated;
    return box && at ? Math.round((at.left - box.left + scroll - LABELS) / scale) : 0;
  };
  const commandOf = (event: DragMoveEvent | DragEndEvent): Command | null => {
    const dragged = event.active.data.current as Dragged | undefined;
    if (!dragged) return null;
    const frames = dragged.what === 'source' ? wantedStart(event) : Math.round(event.delta.x / scale);
    const over = (event.over?.data.current as { lane: Lane } | undefined)?.lane;
    const reach = Math.max(1, Math.round(REACH / scale));
    const snap = useView.getState().snapping ? { places: snapPlaces(timeline, frameNow()), reach } : null;
    return dropCommand(dragged, { timeline, timings, chosen: [...ids], frames, over, snap });
  };
  /** The notice when a source could not be placed where it was dropped; null when it was. */
  const elsewhere = (event: DragEndEvent, command: Command): string | null => {
    const dragged = event.active.data.current as Dragged | undefined;
    if (dragged?.what !== 'source' || command.type !== 'placeClips') return null;
    const wanted = wantedStart(event);
    const start = command.clips[0]?.start ?? wanted;
    const reach = Math.max(1, Math.round(REACH / scale));
    if (Math.abs(start - wanted) <= reach) return null;
    return `${dragged.source.name} had no room at ${clockTimecode(Math.max(0, wanted), timeline)}: it was placed at ${clockTimecode(start, timeline)}, the next free place.`;
  };
  const onMove = (event: DragMoveEvent): void => {
    const command = commandOf(event);
    setPreview({ command, ok: command !== null && apply(project, command, timings).ok });
  };
  const onEnd = (event: DragEndEvent): void => {
    const command = commandOf(event);
    setPreview(null);
    const nothing = command?.type === 'moveClips' && command.byFrames === 0 && command.byLanes === 0;
    if (!command || nothing) return;
    const taken = elsewhere(event, command);
    void run(command).then((done) => done && taken && tell(taken));
  };
  const place = (source: Source, only?: 'picture' | 'sound'): void => {
    let clips: Clip[] = [];
    const placing = (now: Project): Command => {
      const current = now.timelines.find((t) => t.id === timeline.id) ?? timeline;
      clips = clipsFor({ timeline: current, source, fit: 'nearest', only, newId }, timings);
      return { type: 'placeClips', timelineId: timeline.id, clips };
    };
    void run(placing).then((done) => {
      if (done && clips[0] && headedFor('timelines')) {
        setFrame(clips[0].start);
        useView.getState().set({ chosenClips: [clips[0].id] });
        go('timelines', timeline.id, clips[0].id);
      }
    });
  };
  const start = (event: DragStartEvent): void => {
    const dragged = event.active.data.current as Dragged | undefined;
    if (dragged && dragged.what !== 'source' && !ids.has(dragged.clip.id)) choose(dragged.clip);
  };
  return (
    <DndContext
      sensors={sensors}
      autoScroll={{ layoutShiftCompensation: false }}
      onDragStart={start}
      onDragMove={onMove}
      onDragEnd={onEnd}
      onDragCancel={() => setPreview(null)}
    >
      <Tray timeline={timeline} onPlace={place} scale={scale} before={bar} />
      <div ref={ref}>
        <div ref={scroller} className={classes.lanes} onScroll={(e) => setScroll(e.currentTarget.scrollLeft)} data-testid="lanes">
          <div style={{ width: total + LABELS, position: 'relative' }}>
            <Ruler timeline={timeline} scale={scale} total={total} from={scroll} room={room} onFrame={setFrame} />
            {lanes.map((lane) => (
              <LaneRow
                key={lane.id}
                lane={lane}
                clips={byLane.get(lane.id) ?? NONE}
                timeline={shown}
                scale={scale}
                scroll={scroll}
                room={room}
                chosen={ids}
                onChoose={choose}
              />
            ))}
            <Playhead timelineId={timeline.id} scale={scale} scroller={scroller} room={room} />
            {preview && !preview.ok && <div className={classes.refused}>no room or no pictures there</div>}
          </div>
        </div>
      </div>
    </DndContext>
  );
});

const NONE: readonly Clip[] = [];

/** Ctrl and the wheel zoom about the pointer: the frame beneath it stays there. */
function useZoomByWheel(
  scroller: React.RefObject<HTMLDivElement | null>,
  timelineId: string,
  scale: number,
  least: number,
): void {
  const anchor = useRef<{ frame: number; x: number } | null>(null);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return undefined;
    const onWheel = (event: WheelEvent): void => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left - LABELS;
      anchor.current = { frame: (element.scrollLeft + x) / scale, x };
      const next = Math.min(CLOSEST, Math.max(least, scale * Math.exp(-event.deltaY / 400)));
      useView.getState().setZoom(timelineId, next <= least * 1.001 ? 0 : next);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [scroller, timelineId, scale, least]);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (element && anchor.current) element.scrollLeft = anchor.current.frame * scale - anchor.current.x;
    anchor.current = null;
  }, [scroller, scale]);
}
