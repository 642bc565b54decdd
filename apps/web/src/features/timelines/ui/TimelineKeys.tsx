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
  const useKey = (name: ShortcutName, act: () => void): void => {
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
  useKey('back', by(-1));
  useKey('on', by(1));
  useKey('backSecond', by(-second));
  useKey('onSecond', by(second));
  useKey('first', () => setFrame(0));
  // To the last frame; from there to the place behind it, where what comes next begins.
  useKey('last', () => {
    const length = timelineLength(timeline);
    setFrame(frameNow() >= length - 1 ? length : length - 1);
  });
  useKey('nextFinding', find(1));
  useKey('previousFinding', find(-1));
  useKey('nudgeBack', () => editing.move(-1, 0));
  useKey('nudgeOn', () => editing.move(1, 0));
  useKey('laneUp', () => editing.lane(-1));
  useKey('laneDown', () => editing.lane(1));
  useKey('headEarlier', () => editing.trim(-1, 0));
  useKey('headLater', () => editing.trim(1, 0));
  useKey('tailEarlier', () => editing.trim(0, -1));
  useKey('tailLater', () => editing.trim(0, 1));
  useKey('slipBack', () => editing.slip(-1));
  useKey('slipOn', () => editing.slip(1));
  useKey('split', editing.split);
  // With no clip chosen it stays the browser's own, for text.
  useShortcut('copy', () => void editing.copy(), { preventDefault: () => editing.count > 0 });
  useKey('cut', editing.cut);
  useKey('paste', editing.paste);
  useKey('allClips', editing.chooseAll);
  useKey('noClips', editing.chooseNone);
  useKey('nextClip', () => editing.chooseNext(1));
  useKey('previousClip', () => editing.chooseNext(-1));
  useKey('inHere', editing.inHere);
  useKey('outHere', editing.outHere);
  useKey('noRange', editing.noRange);
  useKey('closer', zoom(1.6));
  useKey('wider', zoom(1 / 1.6));
  useKey('weaveCloser', weave(true));
  useKey('weaveWider', weave(false));
  useKey('remove', editing.remove);
  useKey('play', onPlay);
  useKey('faster', onSpeed);
  useKey('goTo', onGoTo);
  return null;
}
