import { Button, Group, Menu } from '@mantine/core';
import { IconDots, IconPlus } from '@tabler/icons-react';
import { address } from '@thawline/contract';
import type { Lane, Timeline } from '@thawline/project';
import { memo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { frameRateLabel } from '../../../shared/rates/rates.js';
import { headedFor, useGo } from '../../../shared/state/places.js';
import { newId } from '../../../shared/state/view.js';
import classes from './timelines.module.css';

/** What lies over the view; `carry` comes with the rate that was typed already. */
export type Sheet = 'new' | 'edit' | 'open' | 'save' | { readonly carry: string };

/** The project's timelines, and what is done to one as a whole. */
export const TimelineBar = memo(function TimelineBar({
  timeline,
  onSheet,
}: {
  timeline: Timeline;
  onSheet: (sheet: Sheet) => void;
}) {
  const { id, project, run } = useProject();
  const sounding = timeline.clips.some((c) => timeline.lanes.some((l) => l.kind === 'sound' && l.id === c.laneId));
  const go = useGo();
  const timelineId = timeline.id;
  const addLane = (kind: Lane['kind']): void => {
    void run((now) => {
      const { lanes } = now.timelines.find((t) => t.id === timelineId) ?? timeline;
      const number = lanes.filter((l) => l.kind === kind).length + 1;
      const lane = { id: newId(), kind, name: `${kind === 'picture' ? 'Picture' : 'Sound'} ${number}`, kept: null };
      return { type: 'setLanes', timelineId, lanes: [...lanes, lane] };
    });
  };
  const used = new Set(timeline.clips.map((c) => c.laneId));
  const kept = timeline.lanes.filter((l, i) => used.has(l.id) || i === timeline.lanes.findIndex((o) => o.kind === l.kind));
  return (
    <Group gap={6} className={classes.tabs ?? ''}>
      {project.timelines.map((t) => (
        <button
          type="button"
          key={t.id}
          className={classes.tab}
          aria-pressed={t.id === timelineId}
          onClick={() => go('timelines', t.id)}
          title={t.name}
          data-testid={`tab-${t.name}`}
        >
          <span>{t.name}</span> <b className="number">{frameRateLabel(t)}</b>
        </button>
      ))}
      <Button variant="default" size="compact-md" leftSection={<IconPlus size={15} />} onClick={() => onSheet('new')}>
        Timeline
      </Button>
      <span className={classes.spring} />
      <Button variant="default" size="compact-md" disabled={timeline.clips.length === 0} onClick={() => onSheet({ carry: '' })}>
        Carry to another rate&hellip;
      </Button>
      <Button variant="default" size="compact-md" onClick={() => onSheet('open')}>
        Open edit file
      </Button>
      <Button variant="default" size="compact-md" onClick={() => onSheet('save')}>
        Save edit file
      </Button>
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="default" size="compact-md" aria-label="More for this timeline">
            <IconDots size={16} />
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onSheet('edit')}>Name, rate, frame size, timecode</Menu.Item>
          <Menu.Item
            onClick={() => {
              const made = newId();
              void run({ type: 'duplicateTimeline', timelineId, newId: made, name: `${timeline.name} copy`.slice(0, 120) }).then(
                (done) => done && headedFor('timelines') && go('timelines', made),
              );
            }}
          >
            Duplicate {timeline.name}
          </Menu.Item>
          <Menu.Item onClick={() => addLane('picture')}>Add a picture lane</Menu.Item>
          <Menu.Item onClick={() => addLane('sound')}>Add a sound lane</Menu.Item>
          <Menu.Item
            disabled={kept.length === timeline.lanes.length}
            onClick={() => void run({ type: 'setLanes', timelineId, lanes: kept })}
          >
            Remove empty lanes
          </Menu.Item>
          <Menu.Item onClick={() => go('render')}>Render {timeline.name}</Menu.Item>
          {(['s24', 'f32'] as const).map((form) => (
            <Menu.Item
              key={form}
              component="a"
              href={`${address('timelineWave', { project: id, timeline: timelineId })}?form=${form}`}
              download
              disabled={!sounding}
            >
              Save its sound as WAV, 48 kHz, {form === 's24' ? '24 bit' : 'float'}
              {timeline.range && ', in to out'}
            </Menu.Item>
          ))}
          <Menu.Divider />
          <Menu.Item
            onClick={() => {
              void run({ type: 'removeTimeline', timelineId }).then((done) => done && headedFor('timelines') && go('timelines'));
            }}
          >
            Remove {timeline.name}
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
});
