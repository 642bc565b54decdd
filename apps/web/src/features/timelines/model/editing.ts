import {
  type Clip,
  type Command,
  clipEnd,
  clipsToPaste,
  copyClips,
  type Project,
  type Timeline,
  timelineLength,
} from '@thawline/project';
import { useCallback, useMemo } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { headedFor, useGo } from '../../../shared/state/places.js';
import { newId, useView } from '../../../shared/state/view.js';

/** What is chosen on a timeline: the clip of the address and those chosen beside it, as they stand in the document. */
export function useChoice(timeline: Timeline | undefined, clipId: string | undefined): readonly Clip[] {
  const beside = useView((s) => s.chosenClips);
  return useMemo(() => {
    const ids = new Set(clipId && beside.includes(clipId) ? beside : clipId ? [clipId] : []);
    return ids.size === 0 ? [] : (timeline?.clips.filter((c) => ids.has(c.id)) ?? []);
  }, [timeline, clipId, beside]);
}

/** Chooses clips: plain replaces, `beside` adds or takes away, `through` takes all between the last chosen and this. */
export function useChoose(timeline: Timeline): (clip: Clip | null, how?: 'only' | 'beside' | 'through') => void {
  const go = useGo();
  return useCallback(
    (clip, how = 'only') => {
      const { chosenClips, set } = useView.getState();
      if (!clip) {
        set({ chosenClips: [] });
        go('timelines', timeline.id);
        return;
      }
      const before = timeline.clips.filter((c) => chosenClips.includes(c.id)).map((c) => c.id);
      if (how === 'beside' && before.includes(clip.id)) {
        const left = before.filter((id) => id !== clip.id);
        set({ chosenClips: left });
        go('timelines', timeline.id, left.at(-1));
        return;
      }
      const last = timeline.clips.find((c) => c.id === before.at(-1));
      const between = how === 'through' && last ? clipsBetween(timeline, last, clip) : [clip.id];
      set({ chosenClips: how === 'only' ? [clip.id] : [...new Set([...before, ...between, clip.id])] });
      go('timelines', timeline.id, clip.id);
    },
    [timeline, go],
  );
}

/** Shift chooses through to the clip, ctrl adds it or takes it away. */
export function how(event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): 'only' | 'beside' | 'through' {
  return event.shiftKey ? 'through' : event.ctrlKey || event.metaKey ? 'beside' : 'only';
}

/** Clips of the two clips' lanes between the two, both included. */
function clipsBetween(timeline: Timeline, a: Clip, b: Clip): string[] {
  const from = Math.min(a.start, b.start);
  const to = Math.max(clipEnd(a), clipEnd(b));
  return timeline.clips
    .filter((c) => (c.laneId === a.laneId || c.laneId === b.laneId) && c.start >= from && clipEnd(c) <= to)
    .map((c) => c.id);
}

type Range = NonNullable<Timeline['range']>;

/** Everything that is done to chosen clips, for buttons and keys alike. The playhead is read when it is done. */
export function useEditing(timeline: Timeline, chosen: readonly Clip[], frameNow: () => number) {
  const { run, timings } = useProject();
  const choose = useChoose(timeline);
  return useMemo(() => {
    const timelineId = timeline.id;
    const ids = chosen.map((c) => c.id);
    const onChosen = (command: Command): void => {
      if (ids.length > 0) void run(command);
    };
    const copy = (): boolean => {
      const clipboard = copyClips(timeline, ids);
      if (clipboard) useView.getState().set({ clipboard });
      return clipboard !== null;
    };
    const remove = (): void => {
      if (ids.length === 0) return;
      void run({ type: 'removeClips', timelineId, clipIds: ids }).then((done) => done && headedFor('timelines') && choose(null));
    };
    // What is done at the clip or range as it stands: quick keys come before the last change is back.
    const timelineIn = (now: Project): Timeline => now.timelines.find((t) => t.id === timelineId) ?? timeline;
    const changeRange = (change: (range: Range) => Range): void =>
      void run((now) => {
        const stands = timelineIn(now);
        const range = change(stands.range ?? { from: 0, to: Math.max(1, timelineLength(stands)) });
        return { type: 'setRange', timelineId, range };
      });
    return {
      /** Clips that are chosen. */
      count: ids.length,
      move: (byFrames: number, byLanes: number) => onChosen({ type: 'moveClips', timelineId, clipIds: ids, byFrames, byLanes }),
      /** A lane down (1) or up (-1) on the screen: picture lanes are drawn from the top, sound lanes from their first. */
      lane: (down: 1 | -1) => {
        const kind = timeline.lanes.find((l) => l.id === chosen[0]?.laneId)?.kind;
        const byLanes = kind === 'sound' ? down : -down;
        onChosen({ type: 'moveClips', timelineId, clipIds: ids, byFrames: 0, byLanes });
      },
      trim: (head: number, tail: number) => {
        for (const clip of chosen.slice(0, 1))
          void run((now) => {
            const stands = timelineIn(now).clips.find((c) => c.id === clip.id) ?? clip;
            const [start, end] = [Math.max(0, stands.start + head), clipEnd(stands) + tail];
            return { type: 'trimClip', timelineId, clipId: clip.id, start, end };
          });
      },
      slip: (byPictures: number) => onChosen({ type: 'slipClips', timelineId, clipIds: ids, byPictures }),
      split: () => void run({ type: 'splitClips', timelineId, clipIds: ids, frame: frameNow(), seed: newId() }),
      closeGaps: (laneId: string | null) => void run({ type: 'closeGaps', timelineId, laneId }),
      link: (link: boolean) => onChosen({ type: 'linkClips', timelineId, clipIds: ids, link: link ? newId() : null }),
      unpack: () => {
        for (const clip of chosen.slice(0, 1))
          void run({ type: 'unpackClip', timelineId, clipId: clip.id, seed: newId() }).then((done) => done && choose(null));
      },
      copy,
      cut: () => {
        if (copy()) remove();
      },
      paste: () => {
        const { clipboard } = useView.getState();
        if (!clipboard) return;
        const frame = frameNow();
        let pasted: string[] = [];
        void run((now) => {
          const clips = clipsToPaste(now, { board: clipboard, timeline: timelineIn(now), at: frame, newId, known: timings });
          pasted = clips.map((c) => c.id);
          return { type: 'placeClips', timelineId, clips };
        }).then((done) => {
          if (done) useView.getState().set({ chosenClips: pasted });
        });
      },
      remove,
      chooseAll: () => {
        const last = timeline.clips.at(-1);
        if (!last) return;
        choose(last);
        useView.getState().set({ chosenClips: timeline.clips.map((c) => c.id) });
      },
      chooseNext: (way: 1 | -1) => {
        const order = [...timeline.clips].sort((a, b) => a.start - b.start || (a.laneId < b.laneId ? -1 : 1));
        const at = order.findIndex((c) => c.id === ids.at(-1));
        const next = order[at < 0 ? (way === 1 ? 0 : order.length - 1) : Math.min(order.length - 1, Math.max(0, at + way))];
        if (next) choose(next);
      },
      chooseNone: () => {
        if (ids.length > 0) choose(null);
      },
      inHere: () => {
        const from = frameNow();
        changeRange(({ to }) => ({ from, to: to > from ? to : from + 1 }));
      },
      outHere: () => {
        const to = frameNow() + 1;
        changeRange(({ from }) => ({ from: from < to ? from : to - 1, to }));
      },
      noRange: () => {
        if (timeline.range) void run({ type: 'setRange', timelineId, range: null });
      },
    };
  }, [timeline, chosen, frameNow, run, timings, choose]);
}

export type Editing = ReturnType<typeof useEditing>;
