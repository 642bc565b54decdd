import { ActionIcon, Button, Group, NativeSelect, Popover, ScrollArea } from '@mantine/core';
import { IconZoomIn, IconZoomOut } from '@tabler/icons-react';
import { SCREEN_RATES } from '@thawline/core/cadence';
import { clockTimecode, formatRate } from '@thawline/core/time';
import { aspectOf, type Clip, cadenceAsSeen, momentsAFrame, segmentAt, type Timeline } from '@thawline/project';
import { useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { Weave } from '../../../shared/diagram/Weave.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { frameRateLabel, rateLabel } from '../../../shared/rates/rates.js';
import { useView } from '../../../shared/state/view.js';
import { count, plural } from '../../../shared/words.js';
import { nextFinding } from '../model/findings.js';
import { wider } from '../model/scale.js';
import classes from './weave.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly chosen: Clip | null;
  readonly hitches: readonly number[];
}

/** The weave of the clip under the playhead, from the whole clip to single pictures. */
export function WeavePanel({ timeline, frame, setFrame, chosen, hitches }: Props) {
  const { project, timings } = useProject();
  const zoom = useView((s) => s.weaveZoom);
  const screenIndex = useView((s) => s.screen);
  const set = useView((s) => s.set);
  const clip = segmentAt(timeline, frame)?.clip ?? chosen;
  const cadence = useMemo(
    () => (clip ? cadenceAsSeen(project, timeline, clip, timings) : null),
    [project, timeline, clip, timings],
  );
  const screen = SCREEN_RATES[screenIndex] ?? null;
  const mediaId = cadence && cadence.source.kind !== 'timeline' && !cadence.source.lost ? cadence.source.mediaId : null;
  const pictureAt = useMemo(() => (mediaId ? (picture: number) => pictureAddress(mediaId, picture) : null), [mediaId]);
  const moments = momentsAFrame(timeline);
  const onFrame = useMemo(() => (n: number) => setFrame(Math.floor(n / moments) + (clip?.start ?? 0)), [setFrame, clip, moments]);
  return (
    <div className={classes.weave}>
      <Group justify="space-between" wrap="nowrap" gap="xs">
        <h2 className={`heading ${classes.weaveName}`}>
          Weave {cadence && <span className="quiet">&middot; {cadence.source.name}</span>}
        </h2>
        <Group gap={6} wrap="nowrap">
          <Hitches timeline={timeline} frame={frame} setFrame={setFrame} hitches={hitches} />
          <NativeSelect
            size="xs"
            aria-label="Screen"
            title="How a screen of this rate repeats the frames"
            value={String(screenIndex)}
            data={[
              { value: '-1', label: 'no screen' },
              ...SCREEN_RATES.map((r, i) => ({ value: String(i), label: `${formatRate(r)} Hz` })),
            ]}
            onChange={(e) => set({ screen: Number(e.currentTarget.value) })}
          />
          <ActionIcon
            variant="default"
            size="sm"
            aria-label="See more of the weave"
            disabled={zoom === 0}
            onClick={() => set({ weaveZoom: wider(zoom, false) })}
          >
            <IconZoomOut size={14} />
          </ActionIcon>
          <ActionIcon
            variant="default"
            size="sm"
            aria-label="Weave closer"
            disabled={zoom >= 96}
            onClick={() => set({ weaveZoom: wider(zoom, true) })}
          >
            <IconZoomIn size={14} />
          </ActionIcon>
        </Group>
      </Group>
      {cadence ? (
        <Weave
          mapping={cadence.mapping}
          map={cadence.map}
          at={(frame - (clip?.start ?? 0)) * moments}
          firstFrame={clip?.start ?? 0}
          fields={timeline.fields}
          sourceLabel={rateLabel(cadence.source).replace('variable', 'var.')}
          timelineLabel={frameRateLabel(timeline)}
          zoom={zoom}
          screen={screen}
          pictureAt={pictureAt}
          shape={aspectOf(cadence.source)}
          onFrame={onFrame}
        />
      ) : (
        <p className="quiet">Place a source: the weave shows which of its pictures each frame takes.</p>
      )}
    </div>
  );
}

/** Listed at once around the playhead; the buttons reach the others. */
const LISTED = 300;

/** How many hitches there are, the way from one to the next, and the list of them. */
function Hitches({ timeline, frame, setFrame, hitches }: Omit<Props, 'chosen'>) {
  const next = nextFinding(hitches, frame, 1);
  const previous = nextFinding(hitches, frame, -1);
  const near = Math.max(0, hitches.findIndex((h) => h >= frame) - LISTED / 2);
  const listed = hitches.slice(near, near + LISTED);
  return (
    <>
      <Popover position="top" shadow="md" width={260} disabled={hitches.length === 0}>
        <Popover.Target>
          <button
            type="button"
            className={classes.hitches}
            data-some={hitches.length > 0 || undefined}
            data-testid="hitches"
            title="The list of hitches"
          >
            {hitches.length === 0
              ? 'no hitches'
              : next === null
                ? `${plural(hitches.length, 'hitch', 'hitches')}, none after this`
                : `${plural(hitches.length, 'hitch', 'hitches')}, next in ${plural(next - frame, 'frame')}`}
          </button>
        </Popover.Target>
        <Popover.Dropdown>
          <ScrollArea.Autosize mah={280}>
            <ul className={classes.hitchList} data-testid="hitch-list">
              {listed.map((h) => (
                <li key={h}>
                  <button type="button" className="number" aria-current={h === frame} onClick={() => setFrame(h)}>
                    {clockTimecode(h, timeline)}
                  </button>
                  <span className="quiet">{segmentAt(timeline, h)?.clip ? nameAt(timeline, h) : ''}</span>
                </li>
              ))}
            </ul>
          </ScrollArea.Autosize>
          {hitches.length > LISTED && <p className="quiet">{count(hitches.length)} in all; these lie around the playhead.</p>}
        </Popover.Dropdown>
      </Popover>
      <Button
        variant="default"
        size="compact-xs"
        disabled={previous === null}
        onClick={() => previous !== null && setFrame(previous)}
      >
        Previous hitch
      </Button>
      <Button variant="default" size="compact-xs" disabled={next === null} onClick={() => next !== null && setFrame(next)}>
        Next hitch
      </Button>
    </>
  );
}

function nameAt(timeline: Timeline, frame: number): string {
  const clip = segmentAt(timeline, frame)?.clip;
  return clip ? `frame ${frame - clip.start} of its clip` : '';
}
