import { Button, Group, Menu, SegmentedControl } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import { formatRate } from '@thawline/core/time';
import {
  actionSpeed,
  type Clip,
  clipEnd,
  conversionNote,
  type Framing,
  framedBy,
  type Source,
  sourceOf,
  type Timeline,
} from '@thawline/project';
import { memo, useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { frameRateLabel, rateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { percent, plural } from '../../../shared/words.js';
import type { Editing } from '../model/editing.js';
import { leftBy } from '../model/pose.js';
import classes from './clip.module.css';
import { DissolveRow } from './DissolveRow.js';
import { FitTable } from './FitTable.js';
import { PlaceField } from './PlaceField.js';
import { PosePanel } from './PosePanel.js';
import { SoundPanel } from './SoundPanel.js';
import { TypedNumber } from './TypedNumber.js';

interface Props {
  readonly timeline: Timeline;
  readonly chosen: readonly Clip[];
  readonly editing: Editing;
  readonly frameNow: () => number;
}

/** The chosen clips: the price of each fit, computed before one is chosen, and their place by number. */
export const ClipPanel = memo(function ClipPanel({ timeline, chosen, editing, frameNow }: Props) {
  const { project } = useProject();
  const clip = chosen[0];
  const source = clip && sourceOf(project, clip.sourceId);
  if (!clip || !source) {
    return (
      <section className={`sheet ${classes.panel}`}>
        <h2 className="heading">{timeline.name}</h2>
        <p className="quiet">
          {formatRate(timeline.rate)} frames a second{timeline.fields && ` of two fields, ${timeline.fields} first`},{' '}
          {timeline.width}&times;{timeline.height}
          {timeline.dropFrame && ', drop-frame timecode'}.{' '}
          {timeline.clips.length === 0
            ? 'Drag a source from the row below onto a lane, or press its name.'
            : 'Choose a clip below to compare what keeping its time or its pictures costs, and to place it by number. Shift and Ctrl choose several.'}
        </p>
      </section>
    );
  }
  return <Panel timeline={timeline} chosen={chosen} clip={clip} source={source} editing={editing} frameNow={frameNow} />;
});

function Panel({ timeline, chosen, clip, source, editing, frameNow }: Props & { clip: Clip; source: Source }) {
  const { run } = useProject();
  const go = useGo();
  const lane = timeline.lanes.find((l) => l.id === clip.laneId);
  const timelineId = timeline.id;
  const one = chosen.length === 1;
  const trim = (start: number, end: number) => run({ type: 'trimClip', timelineId, clipId: clip.id, start, end });
  const here = (part: 'head' | 'tail'): void => {
    const frame = frameNow();
    if (frame > clip.start && frame < clipEnd(clip))
      void (part === 'head' ? trim(frame, clipEnd(clip)) : trim(clip.start, frame));
  };
  const speed = actionSpeed(source, clip, timeline);
  const isPicture = lane?.kind === 'picture' && source.kind !== 'sound';
  const isPosing = useView((s) => s.posing) && isPicture;
  const set = useView((s) => s.set);
  return (
    <section className={`sheet ${classes.panel}`} data-testid="clip-panel">
      <Group justify="space-between" wrap="nowrap">
        <h2 className={`heading ${classes.clipTitle}`} title={source.name}>
          {one ? (clip.label ?? source.name) : plural(chosen.length, 'clip')}
        </h2>
        <span className="quiet">
          {one && <>{lane?.name} &middot; </>}
          {source.lost && (
            <button type="button" className={classes.findIt} onClick={() => go('sources', source.id)}>
              not found yet: find it,
            </button>
          )}{' '}
          {source.kind === 'sound' ? '' : source.kind === 'timeline' ? 'a timeline at ' : 'read at '}
          <b className="number">{rateLabel(source)}</b>
          {speed.num !== speed.den && clip.fit !== 'freeze' && !clip.curve && (
            <>
              , runs at <b className="number">{percent(speed)}</b>
            </>
          )}
          {clip.curve && ', along a curve'} in a timeline of <b className="number">{frameRateLabel(timeline)}</b>
        </span>
        {isPicture && (
          <Button
            variant={isPosing ? 'light' : 'default'}
            size="compact-sm"
            flex="none"
            aria-pressed={isPosing}
            onClick={() => set({ posing: !isPosing })}
          >
            Lay by hand
          </Button>
        )}
      </Group>
      {isPicture && <Conversion timeline={timeline} sourceId={source.id} />}
      {lane?.kind === 'sound' && source.sound ? (
        <SoundPanel timeline={timeline} chosen={chosen.filter((c) => isSound(timeline, c))} clip={clip} source={source} />
      ) : isPosing ? (
        <PosePanel timeline={timeline} chosen={chosen} clip={clip} source={source} />
      ) : (
        <FitTable timeline={timeline} chosen={chosen} />
      )}
      {!isPosing && (
        <Group gap={6} mt={6} align="flex-end">
          <PlaceField
            label="Begins"
            clock={timeline}
            value={clip.start}
            onFrame={(f) =>
              run({ type: 'moveClips', timelineId, clipIds: chosen.map((c) => c.id), byFrames: f - clip.start, byLanes: 0 })
            }
          />
          {one && (
            <>
              <PlaceField label="Head" clock={timeline} value={clip.start} onFrame={(f) => trim(f, clipEnd(clip))} />
              <PlaceField label="Tail" clock={timeline} value={clipEnd(clip)} onFrame={(f) => trim(clip.start, f)} />
              <Button variant="default" size="compact-md" onClick={() => here('head')}>
                Head here
              </Button>
              <Button variant="default" size="compact-md" onClick={() => here('tail')}>
                Tail here
              </Button>
            </>
          )}
          <Menu position="bottom-end">
            <Menu.Target>
              <Button
                variant="default"
                size="compact-md"
                ml="auto"
                aria-label={one ? 'More for this clip' : 'More for these clips'}
              >
                <IconDots size={16} />
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item
                onClick={() =>
                  void run({
                    type: 'setFit',
                    timelineId,
                    clipIds: chosen.map((c) => c.id),
                    fit: clip.fit === 'freeze' ? 'nearest' : 'freeze',
                  })
                }
              >
                {clip.fit === 'freeze' ? 'Let it run again' : 'Freeze its first picture'}
              </Menu.Item>
              <Menu.Item
                onClick={() => void run({ type: 'switchClips', timelineId, clipIds: chosen.map((c) => c.id), off: !clip.off })}
              >
                {clip.off ? 'Switch on' : 'Switch off: neither seen nor heard'}
              </Menu.Item>
              <Menu.Item onClick={() => editing.slip(-1)}>Slip: a picture earlier</Menu.Item>
              <Menu.Item onClick={() => editing.slip(1)}>Slip: a picture later</Menu.Item>
              <Menu.Item disabled={!chosen.some((c) => c.link)} onClick={() => editing.link(false)}>
                Unlink picture and sound
              </Menu.Item>
              <Menu.Item disabled={chosen.length < 2} onClick={() => editing.link(true)}>
                Link them
              </Menu.Item>
              {source.kind === 'timeline' && (
                <>
                  <Menu.Item onClick={() => go('timelines', source.id)}>Open {source.name}</Menu.Item>
                  <Menu.Item onClick={editing.unpack}>Unpack it in place</Menu.Item>
                </>
              )}
            </Menu.Dropdown>
          </Menu>
          <Button variant="default" size="compact-md" onClick={editing.remove}>
            Remove
          </Button>
        </Group>
      )}
      {one && !isPosing && lane?.kind === 'picture' && <DissolveRow key={clip.id} timeline={timeline} clip={clip} />}
      {!isPosing && lane?.kind === 'picture' && (clip.opacity !== undefined || liesOver(timeline, clip)) && (
        <OpacityRow timeline={timeline} chosen={chosen} clip={clip} />
      )}
      {lane?.kind === 'picture' && <FramingRow timeline={timeline} chosen={chosen} clip={clip} source={source} />}
    </section>
  );
}

const FRAMINGS: readonly { readonly value: Framing; readonly label: string }[] = [
  { value: 'inside', label: 'Fit inside' },
  { value: 'fill', label: 'Fill' },
  { value: 'as-is', label: 'As is' },
  { value: 'stretch', label: 'Stretch' },
];

/** Whether clips of lower lanes lie beneath a clip. */
function liesOver({ lanes, clips }: Timeline, clip: Clip): boolean {
  const lower = lanes
    .slice(
      0,
      lanes.findIndex((l) => l.id === clip.laneId),
    )
    .filter((l) => l.kind === 'picture');
  return clips.some((c) => lower.some((l) => l.id === c.laneId) && c.start < clipEnd(clip) && clip.start < clipEnd(c));
}

/** How much of a clip is seen over what lies beneath it; typed in per cent. */
function OpacityRow({ timeline, chosen, clip }: { timeline: Timeline; chosen: readonly Clip[]; clip: Clip }) {
  const { run } = useProject();
  const clipIds = chosen.map((c) => c.id);
  return (
    <Group gap="sm" mt={6}>
      <TypedNumber
        key={clip.id}
        label="Opacity"
        hidden
        min={0}
        max={100}
        step={5}
        suffix=" %"
        value={(clip.opacity ?? 1) * 100}
        onNumber={(percent) => void run({ type: 'setOpacity', timelineId: timeline.id, clipIds, opacity: percent / 100 })}
      />
      <span className="quiet">opacity over what lies beneath</span>
    </Group>
  );
}

/** How a picture of another size lies in the frame, with what is cut off; not there where sizes agree and nothing was chosen. */
function FramingRow({
  timeline,
  chosen,
  clip,
  source,
}: {
  timeline: Timeline;
  chosen: readonly Clip[];
  clip: Clip;
  source: Source;
}) {
  const { run } = useProject();
  if (source.width === timeline.width && source.height === timeline.height && clip.framing === 'inside') return null;
  const { matrix } = framedBy(source, timeline, { framing: clip.framing });
  const { free, hidden } = leftBy(source, timeline, { framing: clip.framing });
  const height = 30;
  const wide = (height * timeline.width) / timeline.height;
  return (
    <Group gap="sm" mt={6} wrap="nowrap" data-testid="framing">
      <span className="quiet">
        <span className="number">
          {source.width}&times;{source.height}
        </span>{' '}
        in{' '}
        <span className="number">
          {timeline.width}&times;{timeline.height}
        </span>
      </span>
      <SegmentedControl
        size="xs"
        data={[...FRAMINGS]}
        value={clip.framing}
        onChange={(framing) =>
          void run({ type: 'setFraming', timelineId: timeline.id, clipIds: chosen.map((c) => c.id), framing: framing as Framing })
        }
      />
      <svg width={wide + 24} height={height + 12} viewBox={`-12 -6 ${wide + 24} ${height + 12}`} role="img" aria-label="Crop">
        <rect
          x={matrix.e * wide}
          y={matrix.f * height}
          width={matrix.a * wide}
          height={matrix.d * height}
          className={classes.cropPicture}
        />
        <rect x={0} y={0} width={wide} height={height} className={classes.cropFrame} />
      </svg>
      <span className="quiet">
        {hidden > 0.0005
          ? `${(hidden * 100).toFixed(1)} % of the picture is cut off`
          : free > 0.0005
            ? `${(free * 100).toFixed(1)} % of the frame stays free`
            : 'the whole picture fills the frame'}
      </span>
    </Group>
  );
}

function isSound(timeline: Timeline, clip: Clip): boolean {
  return timeline.lanes.find((l) => l.id === clip.laneId)?.kind === 'sound';
}

/** What becomes of a source's colours in the timeline, where they do not stay. */
function Conversion({ timeline, sourceId }: { timeline: Timeline; sourceId: string }) {
  const { project } = useProject();
  const note = useMemo(() => conversionNote(project, timeline, sourceId), [project, timeline, sourceId]);
  return note && <p className={`quiet ${classes.conversion}`}>{note}</p>;
}
