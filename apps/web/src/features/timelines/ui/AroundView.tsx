import { drawView, viewOf } from '@thawline/core/picture';
import type { Layer, Timeline } from '@thawline/project';
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from 'react';
import { drawAt } from '../../../shared/player/draw.js';
import { drawnOf } from '../../../shared/player/looks.js';
import type { Playing } from '../../../shared/player/usePlayer.js';
import type { Around } from '../../../shared/state/view.js';
import classes from './viewer.module.css';

interface Props {
  readonly timeline: Timeline;
  /** What the playhead's frame is put together from. */
  readonly layers: readonly Layer[];
  readonly playing: Playing;
  readonly around: Exclude<Around, 'whole'>;
}

/** The whole picture is drawn no wider than this before one looks around in it. */
const WIDEST = 2048;
/** What is seen of it: pixels across. */
const VIEW_WIDTH = 640;
/** Degrees of an arrow key, and of what is seen. */
const [STEP, WIDE, WIDE_LEAST, WIDE_MOST] = [10, 90, 30, 120];
const AHEAD = { yaw: 0, pitch: 0, wide: WIDE };
const ARROWS: Readonly<Record<string, readonly [yaw: number, pitch: number]>> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, STEP],
  ArrowDown: [0, -STEP],
};

/** A picture of all around over the viewer: looked around in by pulling it or with the arrow keys, or with its seam in the middle. For looking alone. */
export function AroundView({ timeline, layers, playing, around }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [look, setLook] = useState(AHEAD);
  const [pulled, setPulled] = useState<{ x: number; y: number; from: typeof AHEAD } | null>(null);
  const height = Math.round((VIEW_WIDTH * timeline.height) / timeline.width);
  useEffect(() => {
    let wanted = true;
    const draw = drawing(canvas.current, around, look);
    if (!draw) return undefined;
    if (!playing.on) {
      const scale = Math.min(1, WIDEST / timeline.width);
      const size = { width: Math.round(timeline.width * scale), height: Math.round(timeline.height * scale) };
      const shown = drawAt(layers.map(drawnOf), size);
      // A picture that does not come is told where it is missed: here the one before stays.
      shown.then((whole) => wanted && draw(whole)).catch(() => undefined);
      return () => {
        wanted = false;
      };
    }
    const follow = (): void => {
      if (!wanted) return;
      if (playing.canvas.current) draw(playing.canvas.current);
      requestAnimationFrame(follow);
    };
    follow();
    return () => {
      wanted = false;
    };
  }, [timeline, layers, playing.on, playing.canvas, around, look]);
  const turn = (yaw: number, pitch: number, from = look): void =>
    setLook({ ...from, yaw: (from.yaw + yaw) % 360, pitch: Math.max(-90, Math.min(90, from.pitch + pitch)) });
  const keys = (e: KeyboardEvent): void => {
    const step = ARROWS[e.key];
    if (!step || around !== 'view') return;
    e.preventDefault();
    e.stopPropagation();
    turn(...step);
  };
  const pull = (e: PointerEvent<HTMLElement>): void => {
    if (!pulled || around !== 'view') return;
    const degrees = look.wide / e.currentTarget.clientWidth;
    turn((pulled.x - e.clientX) * degrees, (e.clientY - pulled.y) * degrees, pulled.from);
  };
  return (
    <div
      className={classes.around}
      role="application"
      aria-label={
        around === 'view'
          ? `Looking ${Math.round(look.yaw)}\u00b0 to the right, ${Math.round(look.pitch)}\u00b0 up: pull, or press the arrow keys; the wheel brings it nearer`
          : 'The seam in the middle'
      }
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the arrow keys look around
      tabIndex={0}
      data-testid="around"
      onKeyDown={keys}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setPulled({ x: e.clientX, y: e.clientY, from: look });
      }}
      onPointerMove={pull}
      onPointerUp={() => setPulled(null)}
      onPointerCancel={() => setPulled(null)}
      onWheel={(e) => setLook({ ...look, wide: Math.max(WIDE_LEAST, Math.min(WIDE_MOST, look.wide + Math.sign(e.deltaY) * 5)) })}
    >
      <canvas ref={canvas} className={classes.player} width={VIEW_WIDTH} height={height} />
    </div>
  );
}

/** Draws whole pictures as they are looked at, onto a canvas; null where there is none. */
function drawing(
  canvas: HTMLCanvasElement | null,
  around: Props['around'],
  look: typeof AHEAD,
): ((whole: HTMLCanvasElement | OffscreenCanvas) => void) | null {
  const context = canvas?.getContext('2d');
  if (!canvas || !context) return null;
  const { width, height } = canvas;
  if (around === 'seam')
    return (whole) => {
      for (const from of [-width / 2, width / 2]) context.drawImage(whole, from, 0, width, height);
    };
  const view = new ImageData(width, height);
  let places: { of: string; at: Float32Array } | null = null;
  return (whole) => {
    const pixels = (whole.getContext('2d') as CanvasRenderingContext2D | null)?.getImageData(0, 0, whole.width, whole.height);
    if (!pixels) return;
    const of = `${whole.width} ${whole.height}`;
    if (places?.of !== of) places = { of, at: viewOf(pixels, look, canvas) };
    drawView(pixels, places.at, view.data);
    context.putImageData(view, 0, 0);
  };
}
