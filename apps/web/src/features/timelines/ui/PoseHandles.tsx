import { useElementSize } from '@mantine/hooks';
import { cornersOf, layPicture, type Point, type Pose, pointBy } from '@thawline/core/picture';
import { type Clip, pictureSize, type Source, type Timeline } from '@thawline/project';
import { type KeyboardEvent, type PointerEvent, useState } from 'react';
import { anchoredAt, anchorOf, type Laying, movedBy, pictureAt, poseOf, scaledBy, turnedBy } from '../model/pose.js';
import classes from './viewer.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly clip: Clip;
  readonly source: Source;
  /** While a handle is pulled. */
  readonly onDraft: (pose: Pose) => void;
  /** It was let go, or a key was pressed. */
  readonly onPose: (pose: Pose) => void;
}

type Grip = 'move' | 'scale' | 'turn' | 'anchor';

/** What is pulled, from where, and how the picture lay then. */
interface Pull {
  readonly grip: Grip;
  readonly from: Point;
  readonly pose: Pose;
}

/** Of the screen: half a corner's side, and how far within its upper edge the turning handle stands. */
const [HALF, OFF] = [6, 26];
const ARROWS: Readonly<Record<string, Point>> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: -1 },
  ArrowDown: { x: 0, y: 1 },
};
/** Pixels of an arrow key with Shift. */
const FAR = 10;

/** The chosen picture's outline over the viewer: pulled inside it moves, at a corner it grows, at the round handle it turns; the cross is its anchor. */
export function PoseHandles({ timeline, clip, source, onDraft, onPose }: Props) {
  const { ref, width: wide } = useElementSize<HTMLDivElement>();
  const [pull, setPull] = useState<Pull | null>(null);
  const { width, height } = timeline;
  const laying: Laying = { source, frame: { width, height }, framing: clip.framing };
  const pose = poseOf(clip);
  const { raster, kept, matrix } = layPicture(pictureSize(source), timeline, { framing: clip.framing, pose });
  // Pixels of the frame that one of the screen is.
  const unit = wide > 0 ? width / wide : 1;
  const placed = (points: readonly Point[]): Point[] => points.map((p) => pointBy(matrix, p));
  const outline = placed(cornersOf({ x: 0, y: 0, ...raster }));
  const corners = placed(cornersOf(kept));
  const anchor = anchorOf(laying, pose);
  const top = pointBy(matrix, { x: kept.x + kept.width / 2, y: kept.y });
  const knob = pointBy(matrix, { x: kept.x + kept.width / 2, y: kept.y + Math.min(OFF * unit, kept.height / 4) });

  const at = (e: PointerEvent<SVGElement>): Point => {
    const box = (e.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
    return { x: ((e.clientX - box.left) / box.width) * width, y: ((e.clientY - box.top) / box.height) * height };
  };
  const pulled = (of: Pull, e: PointerEvent<SVGElement>): Pose => {
    const to = at(e);
    switch (of.grip) {
      case 'move':
        return movedBy(of.pose, timeline, { x: to.x - of.from.x, y: to.y - of.from.y });
      case 'scale':
        return scaledBy(laying, of.pose, of.from, to);
      case 'turn':
        return turnedBy(laying, of.pose, { from: of.from, to, free: e.altKey });
      case 'anchor':
        return anchoredAt(laying, of.pose, pictureAt(laying, of.pose, to));
      default:
        return of.grip satisfies never;
    }
  };
  const grip = (which: Grip) => ({
    'data-grip': which,
    onPointerDown: (e: PointerEvent<SVGElement>) => {
      if (e.button !== 0) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      setPull({ grip: which, from: at(e), pose });
    },
    onPointerMove: (e: PointerEvent<SVGElement>) => pull && onDraft(pulled(pull, e)),
    onPointerUp: (e: PointerEvent<SVGElement>) => {
      if (!pull) return;
      setPull(null);
      onPose(pulled(pull, e));
    },
    onPointerCancel: () => {
      if (!pull) return;
      setPull(null);
      onPose(pull.pose);
    },
  });
  const nudge = (e: KeyboardEvent): void => {
    const step = ARROWS[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    const far = e.shiftKey ? FAR : 1;
    onPose(movedBy(pose, timeline, { x: step.x * far, y: step.y * far }));
  };
  const list = (points: readonly Point[]): string => points.map(({ x, y }) => `${x},${y}`).join(' ');
  return (
    <div
      ref={ref}
      className={classes.handles}
      role="application"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the arrow keys move the picture
      tabIndex={0}
      aria-label={`${source.name}: pull to move it, or press the arrow keys`}
      onKeyDown={nudge}
      data-testid="pose-handles"
    >
      <svg viewBox={`0 0 ${width} ${height}`}>
        <polygon points={list(outline)} className={classes.outline} />
        <polygon points={list(corners)} className={classes.body} {...grip('move')} />
        <line x1={top.x} y1={top.y} x2={knob.x} y2={knob.y} className={classes.stem} />
        <circle cx={knob.x} cy={knob.y} r={HALF * unit} className={classes.grip} {...grip('turn')}>
          <title>Turn; with Alt past quarters</title>
        </circle>
        {corners.map((corner, i) => (
          <rect
            key={i}
            x={corner.x - HALF * unit}
            y={corner.y - HALF * unit}
            width={2 * HALF * unit}
            height={2 * HALF * unit}
            className={classes.grip}
            {...grip('scale')}
          >
            <title>Size, its shape kept</title>
          </rect>
        ))}
        <g className={classes.anchor} {...grip('anchor')}>
          <title>Anchor: what stays where it is</title>
          <circle cx={anchor.x} cy={anchor.y} r={HALF * unit} />
          <path
            d={`M${anchor.x - 1.6 * HALF * unit},${anchor.y}h${3.2 * HALF * unit}M${anchor.x},${anchor.y - 1.6 * HALF * unit}v${3.2 * HALF * unit}`}
          />
        </g>
      </svg>
    </div>
  );
}
