import { useDraggable } from '@dnd-kit/core';
import { ActionIcon, Group, TextInput } from '@mantine/core';
import { IconZoomIn, IconZoomOut } from '@tabler/icons-react';
import { holds, type Source, type Timeline, timelineAsSource } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { useView } from '../../../shared/state/view.js';
import classes from './timelines.module.css';

/** So many can be seen at once; of more, those with the typed name. */
const MOST = 40;

interface Props {
  readonly timeline: Timeline;
  readonly onPlace: (source: Source, only?: 'picture' | 'sound') => void;
  readonly scale: number;
  /** What stands at its head. */
  readonly before: React.ReactNode;
}

/** What can be placed: sources, and the other timelines that do not hold this one. */
export function Tray({ timeline, onPlace, scale, before }: Props) {
  const { project } = useProject();
  const setZoom = useView((s) => s.setZoom);
  const [wanted, setWanted] = useState('');
  const all = useMemo(() => {
    const others = project.timelines.filter((t) => t.clips.length > 0 && !holds(project, t.id, timeline.id));
    return [...project.sources, ...others.map((t) => timelineAsSource(project, t))];
  }, [project, timeline.id]);
  const named = wanted.trim() === '' ? all : all.filter((s) => s.name.toLowerCase().includes(wanted.trim().toLowerCase()));
  return (
    <div className={classes.tray}>
      {before}
      <span className="quiet">Place</span>
      {all.length > MOST && (
        <TextInput
          aria-label="Name to place"
          placeholder="name"
          size="xs"
          w={90}
          value={wanted}
          onChange={(e) => setWanted(e.currentTarget.value)}
        />
      )}
      <div className={classes.sources}>
        {named.slice(0, MOST).map((source) => (
          <SourceChip key={source.id} source={source} onPlace={(only) => onPlace(source, only)} />
        ))}
        {named.length > MOST && <span className="quiet">and {named.length - MOST} more</span>}
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
  );
}

/** Shift places the picture alone, Alt the sound alone. */
function SourceChip({ source, onPlace }: { source: Source; onPlace: (only?: 'picture' | 'sound') => void }) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({
    id: `source-${source.id}`,
    data: { what: 'source', source },
  });
  const both = source.sound !== null && source.kind !== 'sound';
  return (
    <button
      type="button"
      ref={setNodeRef}
      className={classes.chip}
      data-kind={source.kind}
      data-lost={source.lost !== null || undefined}
      style={
        transform
          ? { transform: `translate(${transform.x}px, ${transform.y}px)`, zIndex: 20, opacity: isDragging ? 0.8 : 1 }
          : undefined
      }
      onClick={(e) => onPlace(both ? (e.altKey ? 'sound' : e.shiftKey ? 'picture' : undefined) : undefined)}
      title={`Place ${source.name} at the end${source.lost ? ' (not found yet)' : ''}${both ? '; with Shift its picture alone, with Alt its sound alone' : ''}`}
      {...listeners}
      {...attributes}
    >
      {source.name} <span className="number quiet">{rateLabel(source)}</span>
    </button>
  );
}
