import {
  DndContext,
  type DragEndEvent,
  type DragMoveEvent,
  type DragStartEvent,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { ActionIcon, Group } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { IconZoomIn, IconZoomOut } from '@tabler/icons-react';
import { formatTimecode, nominalRate } from '@thawline/core/time';
import {
  apply,
  type Clip,
  type Command,
  clipEnd,
  clipsFor,
  type Lane,
  type Source,
  type Timeline,
  timelineLength,
} from '@thawline/project';
import { useMemo, useRef, useState } from 'react';
import { useProject } from '../api/project.js';
import { rateLabel } from '../rates/rates.js';
import { useGo } from '../state/places.js';
import { newId, useView } from '../state/view.js';
import { ClipBox } from './ClipBox.js';
import classes from './timelines.module.css';

const LABELS = 84;
const LANE = 35;

/** What is being dragged. */
type Dragged =
  | { readonly what: 'source'; readonly source: Source }
  | { readonly what: 'clip' | 'head' | 'tail'; readonly clip: Clip };

interface Props {
  readonly timeline: Timeline;
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly chosen: string | null;
}

/** Lanes with clips: drag sources in, drag clips and their ends, press the ruler to go there. */
export function Lanes({ timeline, frame, setFrame, chosen }: Props) {
  const { project, run, timings } = useProject();
  const go = useGo();
  const { ref, width } = useElementSize();
  const scroller = useRef<HTMLDivElement>(null);
  const zoom = useView((s) => s.zooms[timeline.id] ?? 0);
  const setZoom = useView((s) => s.setZoom);
  const [scroll, setScroll] = useState(0);
  const [preview, setPreview] = useState<{ command: Command | null; ok: boolean } | null>(null);
  const length = timelineLength(timeline);
  const room = Math.max(200, width - LABELS - 8);
  const fitted = room / Math.max(nominalRate(timeline.rate) * 4, length * 1.06);
  const scale = Math.max(zoom, fitted);
  const total = Math.max(room, (length + nominalRate(timeline.rate) * 5) * scale);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const shown = useMemo(() => {
    if (!preview?.command) return timeline;
    const applied = apply(project, preview.command, timings);
    return (applied.ok && applied.project.timelines.find((t) => t.id === timeline.id)) || timeline;
  }, [preview, project, timeline, timings]);
  const lanes = [
    ...timeline.lanes.filter((l) => l.kind === 'picture').reverse(),
    ...timeline.lanes.filter((l) => l.kind === 'sound'),
  ];

  const commandOf = (event: DragMoveEvent | DragEndEvent): Command | null => {
    const dragged = event.active.data.current as Dragged | undefined;
    if (!dragged) return null;
    const by = Math.round(event.delta.x / scale);
    const over = event.over?.data.current as { lane: Lane } | undefined;
    if (dragged.what === 'source') {
      const box = scroller.current?.getBoundingClientRect();
      const initial = event.active.rect.current.translated;
      if (!over || !box || !initial) return null;
      const start = Math.max(0, Math.round((initial.left - box.left + scroll - LABELS) / scale));
      const laneId = over.lane.kind === 'picture' ? over.lane.id : undefined;
      return {
        type: 'placeClips',
        timelineId: timeline.id,
        clips: clipsFor({ timeline, source: dragged.source, fit: 'nearest', start, laneId, newId }, timings),
      };
    }
    // As it stands in the project: what is drawn while dragging is already moved.
    const clip = timeline.clips.find((c) => c.id === dragged.clip.id);
    if (!clip) return null;
    if (dragged.what === 'clip') {
      const kin = timeline.lanes.filter((l) => l.kind === over?.lane.kind);
      const own = kin.findIndex((l) => l.id === clip.laneId);
      const byLanes = own >= 0 && over ? kin.findIndex((l) => l.id === over.lane.id) - own : 0;
      return { type: 'moveClips', timelineId: timeline.id, clipIds: [clip.id], byFrames: Math.max(-clip.start, by), byLanes };
    }
    const start = dragged.what === 'head' ? Math.max(0, Math.min(clip.start + by, clipEnd(clip) - 1)) : clip.start;
    const end = dragged.what === 'tail' ? Math.max(clip.start + 1, clipEnd(clip) + by) : clipEnd(clip);
    return { type: 'trimClip', timelineId: timeline.id, clipId: clip.id, start, end };
  };
  const onMove = (event: DragMoveEvent): void => {
    const command = commandOf(event);
    setPreview({ command, ok: command !== null && apply(project, command, timings).ok });
  };
  const onEnd = (event: DragEndEvent): void => {
    const command = commandOf(event);
    setPreview(null);
    const nothing = command?.type === 'moveClips' && command.byFrames === 0 && command.byLanes === 0;
    if (command && !nothing) void run(command);
  };
  const place = (source: Source): void => {
    const clips = clipsFor({ timeline, source, fit: 'nearest', newId }, timings);
    void run({ type: 'placeClips', timelineId: timeline.id, clips }).then((done) => {
      if (done && clips[0]) {
        setFrame(clips[0].start);
        go('timelines', timeline.id, clips[0].id);
      }
    });
  };
  const choose = (event: DragStartEvent): void => {
    const dragged = event.active.data.current as Dragged | undefined;
    if (dragged && dragged.what !== 'source') go('timelines', timeline.id, dragged.clip.id);
  };
  return (
    <DndContext
      sensors={sensors}
      autoScroll={{ layoutShiftCompensation: false }}
      onDragStart={choose}
      onDragMove={onMove}
      onDragEnd={onEnd}
      onDragCancel={() => setPreview(null)}
    >
      <div className={classes.tray}>
        <span className="quiet">Place</span>
        <div className={classes.sources}>
          {project.sources.map((source) => (
            <SourceChip key={source.id} source={source} onPlace={() => place(source)} />
          ))}
        </div>
        {project.sources.length === 0 && <span className="quiet">nothing yet: add files in Sources</span>}
        <Group gap={4} ml="auto" wrap="nowrap">
          <ActionIcon variant="default" size="sm" aria-label="See more" onClick={() => setZoom(timeline.id, scale / 1.6)}>
            <IconZoomOut size={14} />
          </ActionIcon>
          <ActionIcon
            variant="default"
            size="sm"
            aria-label="Look closer"
            onClick={() => setZoom(timeline.id, Math.min(60, scale * 1.6))}
          >
            <IconZoomIn size={14} />
          </ActionIcon>
        </Group>
      </div>
      <div ref={ref}>
        <div ref={scroller} className={classes.lanes} onScroll={(e) => setScroll(e.currentTarget.scrollLeft)}>
          <div style={{ width: total + LABELS, position: 'relative' }}>
            <Ruler timeline={timeline} scale={scale} total={total} from={scroll} room={room} onFrame={setFrame} />
            {lanes.map((lane) => (
              <LaneRow key={lane.id} lane={lane}>
                {shown.clips
                  .filter((c) => c.laneId === lane.id && inSight(c, scale, scroll, room))
                  .map((clip) => (
                    <ClipBox
                      key={clip.id}
                      clip={clip}
                      timeline={shown}
                      lane={lane}
                      scale={scale}
                      chosen={clip.id === chosen}
                      onChoose={() => go('timelines', timeline.id, clip.id)}
                    />
                  ))}
              </LaneRow>
            ))}
            <div className={classes.playhead} style={{ left: LABELS + (frame + 0.5) * scale }} />
            {preview && !preview.ok && <div className={classes.refused}>no room or no pictures there</div>}
          </div>
        </div>
      </div>
    </DndContext>
  );
}

/** Clips out of sight are not drawn. */
function inSight(clip: Clip, scale: number, scroll: number, room: number): boolean {
  return clipEnd(clip) * scale > scroll - 200 && clip.start * scale < scroll + room + 300;
}

function LaneRow({ lane, children }: { lane: Lane; children: React.ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: `lane-${lane.id}`, data: { lane } });
  return (
    <div
      ref={setNodeRef}
      className={classes.lane}
      style={{ height: LANE }}
      data-over={isOver || undefined}
      data-testid={`lane-${lane.id}`}
    >
      <span className={classes.laneName}>{lane.name}</span>
      <div style={{ position: 'absolute', left: LABELS, right: 0, top: 0, bottom: 0 }}>{children}</div>
    </div>
  );
}

function SourceChip({ source, onPlace }: { source: Source; onPlace: () => void }) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({
    id: `source-${source.id}`,
    data: { what: 'source', source },
  });
  return (
    <button
      type="button"
      ref={setNodeRef}
      className={classes.chip}
      style={
        transform
          ? { transform: `translate(${transform.x}px, ${transform.y}px)`, zIndex: 20, opacity: isDragging ? 0.8 : 1 }
          : undefined
      }
      onClick={onPlace}
      title={`Place ${source.name} at the end`}
      {...listeners}
      {...attributes}
    >
      {source.name} <span className="number quiet">{rateLabel(source)}</span>
    </button>
  );
}

/** Timecode marks as far apart as they stay readable; a press goes to that frame. */
function Ruler({
  timeline,
  scale,
  total,
  from,
  room,
  onFrame,
}: {
  timeline: Timeline;
  scale: number;
  total: number;
  from: number;
  room: number;
  onFrame: (frame: number) => void;
}) {
  const base = nominalRate(timeline.rate);
  const every =
    [1, 2, 5, 10, base, base * 2, base * 5, base * 10, base * 30, base * 60, base * 300, base * 600].find(
      (n) => n * scale >= 84,
    ) ?? base * 3600;
  const first = Math.max(0, Math.floor((from - 100) / scale / every)) * every;
  const marks: number[] = [];
  for (let f = first; f * scale < Math.min(total, from + room + 200); f += every) marks.push(f);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys move the playhead everywhere on the view
    // biome-ignore lint/a11y/useKeyWithClickEvents: as above
    <div
      className={classes.ruler}
      onClick={(e) => onFrame(Math.floor((e.clientX - e.currentTarget.getBoundingClientRect().left - LABELS) / scale))}
      data-testid="ruler"
    >
      {marks.map((f) => (
        <span key={f} className="number" style={{ left: LABELS + f * scale }}>
          {formatTimecode(f, timeline.rate)}
        </span>
      ))}
    </div>
  );
}
