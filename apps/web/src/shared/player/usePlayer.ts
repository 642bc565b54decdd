import { type Timeline, timelineLength } from '@thawline/project';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useProject } from '../../api/ProjectProvider.js';
import { useView, VIEWING_SPEEDS, type ViewingSpeed } from '../state/view.js';
import { Player, type PlayerCount } from './player.js';

export interface Playing {
  readonly on: boolean;
  readonly speed: ViewingSpeed;
  readonly count: PlayerCount | null;
  readonly canvas: React.RefObject<HTMLCanvasElement | null>;
  readonly toggle: () => void;
  readonly setSpeed: (speed: ViewingSpeed) => void;
  /** Half, once, twice, four times, and half again. */
  readonly nextSpeed: () => void;
}

/** How often what follows the player (weave, caption) is drawn anew, in ms; the picture itself and the playhead wait for nothing. */
const FOLLOW_MS = 120;

/** A player for a timeline: stops where the edit, the timeline or the place changes. */
export function usePlayer(timeline: Timeline | undefined, frameNow: () => number, setFrame: (frame: number) => void): Playing {
  const { id, project, timings } = useProject();
  const canvas = useRef<HTMLCanvasElement>(null);
  const player = useRef<Player | null>(null);
  const [on, setOn] = useState(false);
  const [count, setCount] = useState<PlayerCount | null>(null);
  const speed = useView((s) => s.viewingSpeed);
  const looping = useView((s) => s.looping);
  const stop = useCallback(() => {
    const running = player.current;
    if (!running) return;
    player.current = null;
    const at = running.stop();
    useView.getState().set({ live: null });
    setFrame(at);
    setOn(false);
  }, [setFrame]);
  const start = useCallback(
    (at: ViewingSpeed) => {
      if (!timeline || timeline.clips.length === 0 || !canvas.current) return;
      let followed = 0;
      setOn(true);
      setCount(null);
      player.current = new Player({
        projectId: id,
        project,
        timeline,
        timings,
        canvas: canvas.current,
        // From behind the last frame it begins anew.
        from: frameNow() >= timelineLength(timeline) ? 0 : frameNow(),
        speed: at,
        loop: looping,
        onFrame: (frame, counted) => {
          useView.getState().set({ live: frame });
          if (performance.now() - followed < FOLLOW_MS) return;
          followed = performance.now();
          setFrame(frame);
          setCount(counted);
        },
        onEnd: (frame) => {
          stop();
          setFrame(frame);
        },
      });
    },
    [id, project, timeline, timings, looping, frameNow, setFrame, stop],
  );
  const toggle = useCallback(() => {
    if (player.current) stop();
    else start(useView.getState().viewingSpeed);
  }, [start, stop]);
  const setSpeed = useCallback(
    (next: ViewingSpeed) => {
      useView.getState().set({ viewingSpeed: next });
      if (!player.current) return;
      stop();
      start(next);
    },
    [start, stop],
  );
  const nextSpeed = useCallback(() => {
    const at = VIEWING_SPEEDS.indexOf(useView.getState().viewingSpeed);
    setSpeed(VIEWING_SPEEDS[(at + 1) % VIEWING_SPEEDS.length] ?? 1);
  }, [setSpeed]);
  // Another edit, timeline or way of looping is another thing to play.
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is played is read when it starts; anything else of it is another thing to play
  useEffect(() => stop, [stop, timeline, project, looping]);
  return { on, speed, count, canvas, toggle, setSpeed, nextSpeed };
}
