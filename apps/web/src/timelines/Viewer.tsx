import { ActionIcon, Group } from '@mantine/core';
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-react';
import { formatTimecode } from '@thawline/core/time';
import { type Shown, shownAt, type Timeline, timelineLength } from '@thawline/project';
import { type CSSProperties, useEffect, useMemo } from 'react';
import { useProject } from '../api/project.js';
import { fetchAhead, pictureAddress } from '../player/pictures.js';
import classes from './timelines.module.css';

/** The exact picture of the playhead's frame. A blend is two pictures, the second as transparent as its share says. */
export function Viewer({ timeline, frame, setFrame }: { timeline: Timeline; frame: number; setFrame: (frame: number) => void }) {
  const { project, timings } = useProject();
  const shown = useMemo(() => shownAt(project, timeline, frame, timings), [project, timeline, frame, timings]);
  const before = useMemo(
    () => (frame > 0 ? shownAt(project, timeline, frame - 1, timings) : null),
    [project, timeline, frame, timings],
  );
  useEffect(() => {
    if (shown)
      fetchAhead(
        shown.source.mediaId,
        [1, 2, 3, -1].map((by) => shown.picture + by).filter((p) => p >= 0 && p < shown.source.pictures),
      );
  }, [shown]);
  return (
    <section className={`well ${classes.viewer}`} aria-label="Viewer">
      <div
        className={classes.screen}
        style={
          { aspectRatio: `${timeline.width} / ${timeline.height}`, '--shape': timeline.width / timeline.height } as CSSProperties
        }
        data-testid="viewer"
        data-frame={frame}
        data-picture={shown?.picture ?? 'none'}
      >
        {shown && (
          <img
            src={pictureAddress(shown.source.mediaId, shown.picture)}
            alt={`Picture ${shown.picture} of ${shown.source.name}`}
          />
        )}
        {shown && shown.nextShare > 0 && (
          <img
            src={pictureAddress(shown.source.mediaId, Math.min(shown.source.pictures - 1, shown.picture + 1))}
            alt=""
            style={{ opacity: shown.nextShare / 256 }}
          />
        )}
      </div>
      <Group justify="space-between" wrap="nowrap" className={classes.caption ?? ''}>
        <span className="number">{formatTimecode(frame, timeline.rate)}</span>
        <span className={classes.captionName}>
          {shown
            ? `${shown.source.name} \u00b7 picture ${shown.picture} of ${shown.source.pictures}`
            : timelineLength(timeline) > 0
              ? 'nothing here: black'
              : 'empty timeline'}
        </span>
        <span className="number">{state(shown, before)}</span>
        <Group gap={4} wrap="nowrap">
          <ActionIcon variant="filled" color="dark" size="sm" aria-label="One frame back" onClick={() => setFrame(frame - 1)}>
            <IconChevronLeft size={15} />
          </ActionIcon>
          <ActionIcon variant="filled" color="dark" size="sm" aria-label="One frame on" onClick={() => setFrame(frame + 1)}>
            <IconChevronRight size={15} />
          </ActionIcon>
        </Group>
      </Group>
    </section>
  );
}

function state(shown: Shown | null, before: Shown | null): string {
  if (!shown) return '';
  if (shown.nextShare > 0) return `blend ${Math.round((shown.nextShare / 256) * 100)}%`;
  return before?.clip.id === shown.clip.id && before.picture === shown.picture && before.nextShare === 0 ? 'held' : 'new';
}
