import { nominalRate } from '@thawline/core/time';
import { type Clip, type Command, clipEnd, type Timeline, timelineLength } from '@thawline/project';
import { useHotkeys } from 'react-hotkeys-hook';
import { useProject } from '../api/project.js';
import { keysOf, type ShortcutName } from '../shell/shortcuts.js';
import { useGo } from '../state/places.js';
import { useView } from '../state/view.js';
import { nextFinding } from './findings.js';

interface Props {
  readonly timeline: Timeline;
  readonly clip: Clip | null;
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly hitches: readonly number[];
}

/** The keys of the timeline: nothing to see. */
export function TimelineKeys({ timeline, clip, frame, setFrame, hitches }: Props) {
  const { run } = useProject();
  const go = useGo();
  const second = nominalRate(timeline.rate);
  const zoom = useView((s) => s.zooms[timeline.id] ?? 0);
  const setZoom = useView((s) => s.setZoom);
  const key = (name: ShortcutName, act: () => void): void => {
    useHotkeys(keysOf(name), act, { preventDefault: true }, [act]);
  };
  const onClip = (make: (clip: Clip) => Command): (() => void) => {
    return () => {
      if (clip) void run(make(clip));
    };
  };
  const timelineId = timeline.id;
  const move = (byFrames: number, byLanes: number) =>
    onClip((c) => ({ type: 'moveClips', timelineId, clipIds: [c.id], byFrames, byLanes }));
  const trim = (head: number, tail: number) =>
    onClip((c) => ({ type: 'trimClip', timelineId, clipId: c.id, start: Math.max(0, c.start + head), end: clipEnd(c) + tail }));
  const find = (way: 1 | -1) => () => {
    const next = nextFinding(hitches, frame, way);
    if (next !== null) setFrame(next);
  };
  key('back', () => setFrame(frame - 1));
  key('on', () => setFrame(frame + 1));
  key('backSecond', () => setFrame(frame - second));
  key('onSecond', () => setFrame(frame + second));
  key('first', () => setFrame(0));
  key('last', () => setFrame(timelineLength(timeline) - 1));
  key('nextFinding', find(1));
  key('previousFinding', find(-1));
  key('nudgeBack', move(-1, 0));
  key('nudgeOn', move(1, 0));
  key('laneUp', move(0, 1));
  key('laneDown', move(0, -1));
  key('headEarlier', trim(-1, 0));
  key('headLater', trim(1, 0));
  key('tailEarlier', trim(0, -1));
  key('tailLater', trim(0, 1));
  key('closer', () => setZoom(timelineId, Math.min(60, (zoom || 1) * 1.6)));
  key('wider', () => setZoom(timelineId, zoom <= 1 ? 0 : zoom / 1.6));
  key('remove', () => {
    if (clip)
      void run({ type: 'removeClips', timelineId, clipIds: [clip.id] }).then((done) => done && go('timelines', timelineId));
  });
  return null;
}
