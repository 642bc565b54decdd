import { Button, Group, Popover } from '@mantine/core';
import { clockTimecode } from '@thawline/core/time';
import { type Clip, type Timeline, timelineLength } from '@thawline/project';
import { memo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useView } from '../../../shared/state/view.js';
import type { Editing } from '../model/editing.js';
import { PlaceField } from './PlaceField.js';
import classes from './timelines.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly chosen: readonly Clip[];
  readonly editing: Editing;
}

/** What is done to clips, and the in-to-out range. */
export const EditBar = memo(function EditBar({ timeline, chosen, editing }: Props) {
  const { run } = useProject();
  const clipboard = useView((s) => s.clipboard);
  const snapping = useView((s) => s.snapping);
  const set = useView((s) => s.set);
  const none = chosen.length === 0;
  const { range } = timeline;
  const setRange = (from: number, to: number) =>
    run({ type: 'setRange', timelineId: timeline.id, range: { from, to: Math.max(from + 1, to) } });
  const end = Math.max(1, timelineLength(timeline));
  return (
    <Group gap={6} wrap="nowrap" className={classes.editBar ?? ''} role="toolbar" aria-label="Editing">
      <Do
        name="Split"
        title="Split the chosen clips at the playhead, or all that lie under it"
        act={editing.split}
        off={timeline.clips.length === 0}
      />
      <Do
        name="Close gaps"
        title="Close gaps that lie on every lane"
        act={() => editing.closeGaps(null)}
        off={timeline.clips.length === 0}
      />
      <Do name="Copy" title="Copy the chosen clips" act={editing.copy} off={none} />
      <Do
        name="Paste"
        title={clipboard ? 'Paste at the playhead, in real time whatever the rate' : 'Nothing was copied yet'}
        act={editing.paste}
        off={!clipboard}
      />
      <Button
        variant={snapping ? 'light' : 'default'}
        size="compact-xs"
        aria-pressed={snapping}
        title="Clips that are dragged snap to cuts, the playhead, in and out"
        onClick={() => set({ snapping: !snapping })}
      >
        Snap
      </Button>
      <Popover shadow="md" position="bottom-start" trapFocus>
        <Popover.Target>
          <Button
            variant={range ? 'light' : 'default'}
            size="compact-xs"
            title="The range to loop and to render"
            data-testid="in-out"
          >
            {range ? `In ${clockTimecode(range.from, timeline)} out ${clockTimecode(range.to, timeline)}` : 'In, out'}
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <Group gap="xs" align="flex-end" wrap="nowrap">
            <PlaceField
              label="In"
              clock={timeline}
              value={range?.from ?? 0}
              onFrame={(f) => setRange(f, range && range.to > f ? range.to : Math.max(f + 1, end))}
            />
            <PlaceField
              label="Out"
              clock={timeline}
              value={range?.to ?? end}
              onFrame={(f) => setRange(Math.min(range?.from ?? 0, Math.max(0, f - 1)), f)}
            />
            <Do name="Clear" title="Clear in and out" act={editing.noRange} off={!range} />
          </Group>
        </Popover.Dropdown>
      </Popover>
    </Group>
  );
});

function Do({ name, title, act, off }: { name: string; title: string; act: () => void; off: boolean }) {
  return (
    <Button variant="default" size="compact-xs" title={title} disabled={off} onClick={act}>
      {name}
    </Button>
  );
}
