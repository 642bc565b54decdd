import { ActionIcon, Group, UnstyledButton } from '@mantine/core';
import { IconRepeat } from '@tabler/icons-react';
import { SHARES } from '@thawline/core/cadence';
import {
  dissolveShare,
  type Layer,
  layersAt,
  type ShownPicture,
  segmentAt,
  shownAt,
  type Timeline,
  timelineLength,
} from '@thawline/project';
import { type CSSProperties, useEffect, useMemo, useRef } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { drawFramed, previewSize } from '../../../shared/player/draw.js';
import { type MadeFrame, madeAt } from '../../../shared/player/looks.js';
import { type MadeFrameKey, type MadePreview, useMade } from '../../../shared/player/made.js';
import { fetchAhead, pictureAddress } from '../../../shared/player/pictures.js';
import { Transport } from '../../../shared/player/Transport.js';
import type { Playing } from '../../../shared/player/usePlayer.js';
import { useView } from '../../../shared/state/view.js';
import { count } from '../../../shared/words.js';
import { PlaceField } from './PlaceField.js';
import classes from './viewer.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly playing: Playing;
  readonly placeRef: React.RefObject<HTMLInputElement | null>;
}

/** Frames whose pictures are made ahead of the one that is looked at. */
const MADE_AHEAD = 12;
const NOTHING: readonly MadeFrameKey[] = [];

/**
 * The exact picture of the playhead's frame, or the player over it. A blend is two pictures, the second as transparent as its share says; it
 * stands for a picture made by motion until that is made.
 */
export function Viewer({ timeline, frame, setFrame, playing, placeRef }: Props) {
  const { project, timings } = useProject();
  const shown = useMemo(() => shownAt(project, timeline, frame, timings), [project, timeline, frame, timings]);
  const before = useMemo(
    () => (frame > 0 ? shownAt(project, timeline, frame - 1, timings) : null),
    [project, timeline, frame, timings],
  );
  const over = segmentAt(timeline, frame)?.dissolve;
  const layers = useMemo(() => layersAt(project, timeline, frame, timings), [project, timeline, frame, timings]);
  useEffect(() => {
    if (playing.on) return;
    for (const by of [1, 2, 3, -1])
      for (const { source, picture } of frame + by < 0 ? [] : layersAt(project, timeline, frame + by, timings))
        if (source && !source.lost) fetchAhead(source.mediaId, [picture]);
  }, [project, timeline, frame, timings, playing.on]);
  const own = useMemo(() => madeAt(project, timeline, frame, timings), [project, timeline, frame, timings]);
  const ahead = useMemo(
    () =>
      Array.from({ length: MADE_AHEAD }, (_, i) => madeAt(project, timeline, frame + i, timings)?.moment).filter(
        (m) => m !== undefined,
      ),
    [project, timeline, frame, timings],
  );
  const pictures = useMade('view', playing.on ? NOTHING : ahead);
  const made = own ? pictures.get(own.moment) : undefined;
  const looping = useView((s) => s.looping);
  const set = useView((s) => s.set);
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
        {layers.map((layer, i) => (
          <LayerPicture key={i} layer={layer} />
        ))}
        {own && made && <MadePicture timeline={timeline} frame={own} made={made} />}
        <canvas
          ref={playing.canvas}
          className={classes.player}
          width={Math.min(960, timeline.width)}
          height={Math.round((Math.min(960, timeline.width) * timeline.height) / timeline.width)}
          hidden={!playing.on}
          data-testid="player"
        />
      </div>
      <Group justify="space-between" wrap="nowrap" gap="xs" className={classes.caption ?? ''}>
        <PlaceField
          label="Playhead"
          hidden
          clock={timeline}
          value={frame}
          inputRef={placeRef}
          onFrame={(to) => {
            setFrame(to);
            return true;
          }}
        />
        <span className={classes.captionName}>
          {shown
            ? `${shown.source.name} \u00b7 ${shown.source.kind === 'timeline' ? 'frame' : 'picture'} ${shown.picture} of ${shown.source.pictures}`
            : timelineLength(timeline) > 0
              ? 'nothing here: black'
              : 'empty timeline'}
        </span>
        <span className="number">
          {over
            ? `dissolve ${Math.round((dissolveShare(over, frame) / SHARES) * 100)}%`
            : stateOf({ shown, before, layers, moment: own?.moment, made })}
        </span>
      </Group>
      <Group justify="space-between" wrap="nowrap" gap="xs" className={classes.transport ?? ''}>
        <Transport playing={playing.on} onPlay={playing.toggle} onStep={(by) => setFrame(frame + by)}>
          <ActionIcon
            variant={looping ? 'white' : 'filled'}
            color="dark"
            size="sm"
            aria-label="Loop"
            aria-pressed={looping}
            title="Loop from in to out, or all of it"
            onClick={() => set({ looping: !looping })}
          >
            <IconRepeat size={14} />
          </ActionIcon>
        </Transport>
        <Speeds playing={playing} />
        <span
          className={classes.counted}
          data-testid="player-count"
          title="Frames that the player itself left out: not the edit's hitches"
        >
          {playing.count ? `${count(playing.count.shown)} shown, player left out ${count(playing.count.dropped)}` : ''}
        </span>
      </Group>
    </section>
  );
}

const SPEED_WORDS = { 0.5: '\u00bd', 1: '1', 2: '2', 4: '4' } as const;

function Speeds({ playing }: { playing: Playing }) {
  return (
    <Group gap={2} wrap="nowrap" role="group" aria-label="Viewing speed">
      {([0.5, 1, 2, 4] as const).map((speed) => (
        <UnstyledButton
          key={speed}
          className={classes.speed ?? ''}
          aria-pressed={playing.speed === speed}
          title={`View at ${SPEED_WORDS[speed]} times the speed; the render never does`}
          onClick={() => playing.setSpeed(speed)}
        >
          &times;{SPEED_WORDS[speed]}
        </UnstyledButton>
      ))}
    </Group>
  );
}

function LayerPicture({ layer }: { layer: Layer }) {
  const { source, picture, opacity, box, seen } = layer;
  const percent = (n: number): string => `${n * 100}%`;
  const place = {
    left: percent(seen.x),
    top: percent(seen.y),
    width: percent(seen.width),
    height: percent(seen.height),
    opacity,
  };
  if (!source) return <div className={classes.layer} style={{ ...place, background: '#000' }} />;
  if (source.lost) {
    return (
      <div className={classes.layer} style={place} data-lost>
        {source.name} is not found yet
      </div>
    );
  }
  // The whole box, of which the cut-out is seen.
  const inner = {
    left: percent((box.x - seen.x) / seen.width),
    top: percent((box.y - seen.y) / seen.height),
    width: percent(box.width / seen.width),
    height: percent(box.height / seen.height),
  };
  return (
    <div className={classes.layer} style={place}>
      <img src={pictureAddress(source.mediaId, picture)} alt={`Picture ${picture} of ${source.name}`} style={inner} />
    </div>
  );
}

/** The picture that motion made, over the mix that stood for it. */
function MadePicture({ timeline, frame, made }: { timeline: Timeline; frame: MadeFrame; made: MadePreview }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width, height } = previewSize(timeline);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    context?.clearRect(0, 0, width, height);
    if (context) drawFramed(context, frame.framed, 1, made.bitmap);
  }, [frame, made, width, height]);
  return <canvas ref={canvas} className={classes.player} width={width} height={height} data-testid="viewer-made" />;
}

function stateOf({
  shown,
  before,
  layers,
  moment,
  made,
}: {
  readonly shown: ShownPicture | null;
  readonly before: ShownPicture | null;
  readonly layers: readonly Layer[];
  readonly moment: MadeFrameKey | undefined;
  readonly made: MadePreview | undefined;
}): string {
  if (!shown) return '';
  const several = moment && moment.seen.length > 1;
  if (made && several && moment.seen.every((one) => one.share === 0)) return `blend of ${moment.seen.length}`;
  if (made) return `made ${made.certainty.toFixed(2)}`;
  if (several) return 'to be made, shown sharp';
  if (layers.some((l) => l.toBeMade)) return 'to be made, shown mixed';
  if (shown.nextShare > 0) return `blend ${Math.round((shown.nextShare / SHARES) * 100)}%`;
  return before?.clip.id === shown.clip.id && before.picture === shown.picture && before.nextShare === 0 ? 'held' : 'new';
}
