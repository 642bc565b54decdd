import { nominalRate } from '@thawline/core/time';
import { type Timeline, timelineLength } from '@thawline/project';
import type { ShortcutName } from '../../../shared/keys/shortcuts.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { useView } from '../../../shared/state/view.js';
import type { Editing } from '../model/editing.js';
import { nextFinding } from '../model/findings.js';
import { wider } from '../model/scale.js';

interface Props {
  readonly timeline: Timeline;
  readonly editing: Editing;
  readonly frameNow: () => number;
  readonly setFrame: (frame: number) => void;
  readonly hitches: readonly number[];
  readonly onPlay: () => void;
  readonly onSpeed: () => void;
  readonly onGoTo: () => void;
}

/** The keys of the timeline: nothing to see. */
export function TimelineKeys({ timeline, editing, frameNow, setFrame, hitches, onPlay, onSpeed, onGoTo }: Props) {
  const second = nominalRate(timeline.rate);
  const key = (name: ShortcutName, act: () => void): void => {
    useShortcut(name, act, { preventDefault: true });
  };
  const by = (frames: number) => () => setFrame(frameNow() + frames);
  const find = (way: 1 | -1) => () => {
    const next = nextFinding(hitches, frameNow(), way);
    if (next !== null) setFrame(next);
  };
  const zoom = (by: number) => () => {
    const { zooms, setZoom } = useView.getState();
    const now = zooms[timeline.id] ?? 0;
    setZoom(timeline.id, by > 1 ? Math.min(60, (now || 1) * by) : now <= 0.02 ? 0 : now * by);
  };
  const weave = (closer: boolean) => () => {
    const { weaveZoom, set } = useView.getState();
    set({ weaveZoom: wider(weaveZoom, closer) });
  };
  key('back', by(-1));
  key('on', by(1));
  key('backSecond', by(-second));
  key('onSecond', by(second));
  key('first', () => setFrame(0));
  // To the last frame; from there to the place behind it, where what comes next begins.
  key('last', () => {
    const length = timelineLength(timeline);
    setFrame(frameNow() >= length - 1 ? length : length - 1);
  });
  key('nextFinding', find(1));
  key('previousFinding', find(-1));
  key('nudgeBack', () => editing.move(-1, 0));
  key('nudgeOn', () => editing.move(1, 0));
  key('laneUp', () => editing.lane(-1));
  key('laneDown', () => editing.lane(1));
  key('headEarlier', () => editing.trim(-1, 0));
  key('headLater', () => editing.trim(1, 0));
  key('tailEarlier', () => editing.trim(0, -1));
  key('tailLater', () => editing.trim(0, 1));
  key('slipBack', () => editing.slip(-1));
  key('slipOn', () => editing.slip(1));
  key('split', editing.split);
  // With no clip chosen it stays the browser's own, for text.
  useShortcut('copy', () => void editing.copy(), { preventDefault: () => editing.count > 0 });
  key('cut', editing.cut);
  key('paste', editing.paste);
  key('allClips', editing.chooseAll);
  key('noClips', editing.chooseNone);
  key('nextClip', () => editing.chooseNext(1));
  key('previousClip', () => editing.chooseNext(-1));
  key('inHere', editing.inHere);
  key('outHere', editing.outHere);
  key('noRange', editing.noRange);
  key('closer', zoom(1.6));
  key('wider', zoom(1 / 1.6));
  key('weaveCloser', weave(true));
  key('weaveWider', weave(false));
  key('remove', editing.remove);
  key('play', onPlay);
  key('faster', onSpeed);
  key('goTo', onGoTo);
  return null;
}
