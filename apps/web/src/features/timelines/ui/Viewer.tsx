import { ActionIcon, Group, SegmentedControl, UnstyledButton } from '@mantine/core';
import { IconBackground, IconRepeat } from '@tabler/icons-react';
import { SHARES } from '@thawline/core/cadence';
import { isHighRange, type Pose } from '@thawline/core/picture';
import {
  asSeen,
  type Clip,
  clipEnd,
  dissolveShare,
  type Layer,
  layersAt,
  momentsAFrame,
  picturesOfLayers,
  type ShownPicture,
  segmentAt,
  shownAt,
  showsSphere,
  sourceOf,
  type Timeline,
  timelineColour,
  timelineLength,
} from '@thawline/project';
import { type ComponentProps, type CSSProperties, useEffect, useMemo, useRef, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { drawFramed, fieldLines, previewSize } from '../../../shared/player/draw.js';
import { type MadeFrame, madeAt } from '../../../shared/player/looks.js';
import { type MadeFrameKey, type MadePreview, useMade } from '../../../shared/player/made.js';
import { fetchAhead } from '../../../shared/player/pictures.js';
import { Transport } from '../../../shared/player/Transport.js';
import type { Playing } from '../../../shared/player/usePlayer.js';
import { AROUNDS, BACKDROPS, useView } from '../../../shared/state/view.js';
import { count } from '../../../shared/words.js';
import { changedPose, poseOf, withPose } from '../model/pose.js';
import { AroundView } from './AroundView.js';
import { LayerPicture } from './LayerPicture.js';
import { PlaceField } from './PlaceField.js';
import { PoseHandles } from './PoseHandles.js';
import classes from './viewer.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly chosen: readonly Clip[];
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly playing: Playing;
  readonly placeRef: React.RefObject<HTMLInputElement | null>;
}

/** Moments whose pictures are made ahead of the one that is looked at. */
const MADE_AHEAD = 12;
const NOTHING: readonly MadeFrameKey[] = [];

/**
 * The exact picture of the playhead's frame, or the player over it. A blend is two pictures, the second as transparent as its share says; it
 * stands for a picture made by motion until that is made. Of two fields each gives its own lines.
 */
export function Viewer({ timeline: kept, chosen, frame, setFrame, playing, placeRef }: Props) {
  const { project, timings, run } = useProject();
  const [draft, setDraft] = useState<Pose | null>(null);
  const posing = useView((s) => s.posing);
  const backdrop = useView((s) => s.backdrop);
  const around = useView((s) => s.around);
  const posed = posing ? posedClip(kept, chosen, frame) : undefined;
  const timeline = useMemo(() => (posed && draft ? withPose(kept, posed, draft) : kept), [kept, posed, draft]);
  const shown = useMemo(() => shownAt(project, timeline, frame, timings), [project, timeline, frame, timings]);
  const before = useMemo(
    () => (frame > 0 ? shownAt(project, timeline, frame - 1, timings) : null),
    [project, timeline, frame, timings],
  );
  const over = segmentAt(timeline, frame)?.dissolve;
  const seen = asSeen(timeline);
  const at = frame * momentsAFrame(timeline);
  const second = useMemo(
    () => (timeline.fields ? shownAt(project, seen, at + 1, timings) : null),
    [project, timeline, seen, at, timings],
  );
  useEffect(() => {
    if (playing.on) return;
    for (const by of [1, 2, 3, -1])
      for (const { source, picture } of at + by < 0 ? [] : picturesOfLayers(layersAt(project, seen, at + by, timings)))
        if (source && !source.lost) fetchAhead(source.mediaId, [picture]);
  }, [project, seen, at, timings, playing.on]);
  const ahead = useMemo(
    () =>
      Array.from({ length: MADE_AHEAD }, (_, i) => madeAt(project, seen, at + i, timings)?.moment).filter((m) => m !== undefined),
    [project, seen, at, timings],
  );
  const pictures = useMade('view', playing.on ? NOTHING : ahead);
  const first = useMoment(seen, at);
  const sphere = useMemo(() => showsSphere(project, timeline, { from: frame, to: frame + 1 }), [project, timeline, frame]);
  const made = first.own ? pictures.get(first.own.moment) : undefined;
  const isHigh = useMemo(() => isHighRange(timelineColour(project, timeline).colour.transfer), [project, timeline]);
  const looping = useView((s) => s.looping);
  const lay = (pose: Pose): void => {
    const wanted = posed && changedPose(poseOf(posed), pose);
    // Drawn as it was let go until the project has it.
    setDraft(wanted ? pose : null);
    if (!wanted) return;
    void run({ type: 'setPose', timelineId: kept.id, clipIds: [posed.id], pose: wanted }).finally(() => setDraft(null));
  };
  const set = useView((s) => s.set);
  return (
    <section className={`well ${classes.viewer}`} aria-label="Viewer">
      <div
        className={`${classes.screen} ${classes.backdrop}`}
        data-backdrop={backdrop}
        style={
          { aspectRatio: `${timeline.width} / ${timeline.height}`, '--shape': timeline.width / timeline.height } as CSSProperties
        }
        data-testid="viewer"
        data-frame={frame}
        data-picture={shown?.picture ?? 'none'}
      >
        <MomentPictures timeline={timeline} moment={first} pictures={pictures} />
        {timeline.fields && (
          <div className={classes.field} data-lines={fieldLines(timeline.fields, 'second')} data-testid="viewer-second-field">
            <SecondField timeline={timeline} at={at + 1} pictures={pictures} />
          </div>
        )}
        <canvas
          ref={playing.canvas}
          className={`${classes.player} ${classes.backdrop}`}
          data-backdrop={backdrop}
          width={Math.min(960, timeline.width)}
          height={Math.round((Math.min(960, timeline.width) * timeline.height) / timeline.width)}
          hidden={!playing.on}
          data-testid="player"
        />
        {sphere && around !== 'whole' && (
          <AroundView timeline={timeline} layers={first.layers} playing={playing} around={around} />
        )}
        {posed && !playing.on && <Handles timeline={timeline} clipId={posed.id} onDraft={setDraft} onPose={lay} />}
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
            ? `${shown.source.name} \u00b7 ${pictureWords(shown, second)} of ${shown.source.pictures}`
            : timelineLength(timeline) > 0
              ? 'nothing here'
              : 'empty timeline'}
        </span>
        <span className="number">
          {over
            ? `dissolve ${Math.round((dissolveShare(over, frame) / SHARES) * 100)}%`
            : stateOf({ shown, before, layers: first.layers, moment: first.own?.moment, made })}
        </span>
      </Group>
      <Group
        justify="space-between"
        wrap={timeline.fields || isHigh || sphere ? 'wrap' : 'nowrap'}
        gap="4px 10px"
        className={classes.transport ?? ''}
      >
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
          <ActionIcon
            variant="filled"
            color="dark"
            size="sm"
            aria-label={`Behind the pictures: ${backdrop}`}
            title={`Where nothing is you see ${backdrop}. Press for the next; no render changes by it`}
            onClick={() => set({ backdrop: BACKDROPS[(BACKDROPS.indexOf(backdrop) + 1) % BACKDROPS.length] ?? 'black' })}
          >
            <IconBackground size={14} />
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
        {isHigh && (
          <span className={classes.counted} data-testid="high-range-shown" title="The render keeps the high dynamic range">
            HDR, shown converted for a standard screen
          </span>
        )}
        {sphere && (
          <SegmentedControl
            size="xs"
            aria-label="How it is looked at"
            data={[
              { value: 'whole', label: 'All of it' },
              { value: 'view', label: 'Look around' },
              { value: 'seam', label: 'Its seam' },
            ]}
            value={around}
            onChange={(value) => set({ around: AROUNDS.find((a) => a === value) ?? 'whole' })}
          />
        )}
        {timeline.fields && <FieldsShown timeline={timeline} playing={playing} />}
      </Group>
    </section>
  );
}

/** The chosen clip that is seen at a frame: what is laid by hand. */
function posedClip(timeline: Timeline, chosen: readonly Clip[], frame: number): Clip | undefined {
  const lanes = timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id);
  return chosen.find((c) => lanes.includes(c.laneId) && frame >= c.start && frame < clipEnd(c));
}

/** The handles of a clip of this very timeline: as it is drawn while something is pulled. */
function Handles({
  timeline,
  clipId,
  ...on
}: { timeline: Timeline; clipId: string } & Pick<ComponentProps<typeof PoseHandles>, 'onDraft' | 'onPose'>) {
  const { project } = useProject();
  const clip = timeline.clips.find((c) => c.id === clipId);
  const source = clip && sourceOf(project, clip.sourceId);
  return clip && source ? <PoseHandles timeline={timeline} clip={clip} source={source} {...on} /> : null;
}

/** "picture 24", or the two that the fields of the frame show. */
function pictureWords({ source, picture }: ShownPicture, second: ShownPicture | null): string {
  const one = source.kind === 'timeline' && !second ? 'frame' : 'picture';
  return second && second.source.id === source.id && second.picture !== picture
    ? `${one}s ${picture} and ${second.picture}`
    : `${one} ${picture}`;
}

/** Says what of fields is seen here: nobody has to guess where the combs come from. */
function FieldsShown({ timeline: { fields }, playing }: { timeline: Timeline; playing: Playing }) {
  const inTurn = playing.on && playing.speed <= 1;
  return (
    <span
      className={classes.counted}
      data-testid="fields-shown"
      title={
        inTurn
          ? 'Each field at its own moment, in its own lines, as a screen made for fields shows them'
          : 'Each field in its own lines, as a screen made for whole pictures shows them. Played, they come in turn'
      }
    >
      {playing.on && !inTurn ? 'first fields alone' : `two fields, ${fields} first`}
    </span>
  );
}

interface Moment {
  readonly layers: readonly Layer[];
  /** What is made for it. */
  readonly own: MadeFrame | null;
}

/** What a timeline shows at one of its frames. */
function useMoment(timeline: Timeline, frame: number): Moment {
  const { project, timings } = useProject();
  return useMemo(
    () => ({
      layers: layersAt(project, timeline, frame, timings),
      own: madeAt(project, timeline, frame, timings),
    }),
    [project, timeline, frame, timings],
  );
}

function MomentPictures({
  timeline,
  moment: { layers, own },
  pictures,
}: {
  timeline: Timeline;
  moment: Moment;
  pictures: ReturnType<typeof useMade>;
}) {
  const made = own ? pictures.get(own.moment) : undefined;
  return (
    <>
      {layers.map((layer, i) => (
        <LayerPicture key={i} layer={layer} aspect={timeline.width / timeline.height} />
      ))}
      {own && made && <MadePicture timeline={timeline} frame={own} made={made} />}
    </>
  );
}

function SecondField({ timeline, at, pictures }: { timeline: Timeline; at: number; pictures: ReturnType<typeof useMade> }) {
  return <MomentPictures timeline={timeline} moment={useMoment(asSeen(timeline), at)} pictures={pictures} />;
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
  if (picturesOfLayers(layers).some((l) => l.toBeMade)) return 'to be made, shown mixed';
  if (shown.nextShare > 0) return `blend ${Math.round((shown.nextShare / SHARES) * 100)}%`;
  return before?.clip.id === shown.clip.id && before.picture === shown.picture && before.nextShare === 0 ? 'held' : 'new';
}
