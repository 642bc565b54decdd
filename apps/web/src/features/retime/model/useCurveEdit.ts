import { type Curve, type CurveFault, curveFault, type Pin, positionAt } from '@thawline/core/cadence';
import { type ClipCadence, curveOf, type Follow, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { withPinAt } from './curveGeometry.js';

const FAULTS: Record<CurveFault, string> = {
  'no-pins': 'There are no pins.',
  'two-on-a-frame': 'Another pin stands on that frame, or beyond it.',
  'past-source': 'The source has no such picture.',
  'bad-handles': 'That would run backward.',
};

/**
 * The pins of a clip's time curve and the changes to them, each a command. A key pressed again before the last reply continues from the
 * pending pins.
 */
export function useCurveEdit(timeline: Timeline, { clip, source, mapping }: ClipCadence) {
  const { run } = useProject();
  const [chosenFrame, setChosenFrame] = useState<number | null>(null);
  const [follow, setFollow] = useState<Follow>('move');
  const [asked, setAsked] = useState(false);
  const [ahead, setAhead] = useState<{ pins: Curve; changes: number } | null>(null);
  const stored = useMemo(() => curveOf(mapping), [mapping]);
  const curve = ahead?.pins ?? stored;
  // Who asked for it before need not ask again to change something else.
  const backward = asked || curveFault(curve, source.pictures) === 'bad-handles';
  const chosen = chosenFrame === null ? -1 : curve.findIndex((pin) => pin.frame === chosenFrame);
  const take = (pins: Curve, length?: number): void => {
    setAhead((was) => ({ pins, changes: (was?.changes ?? 0) + 1 }));
    const done = run({
      type: 'retimeClip',
      timelineId: timeline.id,
      clipId: clip.id,
      backward,
      follow,
      pins: pins.map(({ frame, picture, way, handles }) => ({
        frame,
        picture,
        way,
        ...(handles ? { handles: [...handles] } : {}),
      })),
      ...(length ? { length } : {}),
    } as Parameters<typeof run>[0]);
    void done.finally(() => setAhead((was) => (was && was.changes > 1 ? { ...was, changes: was.changes - 1 } : null)));
  };
  /** Takes pins and chooses the one at a frame; returns why not where they are refused. */
  const tryPins = (pins: Curve, frame: number | null): string | null => {
    const fault = curveFault(pins, source.pictures, backward);
    if (fault) return FAULTS[fault];
    take(pins);
    if (frame !== null) setChosenFrame(frame);
    return null;
  };
  const here = (n: number): number => n + mapping.headTrim;
  return {
    curve,
    chosen,
    pin: curve[chosen],
    follow,
    setFollow,
    backward,
    allowBackward: setAsked,
    choose: (index: number): void => setChosenFrame(curve[index]?.frame ?? null),
    take,
    tryPins,
    /** Changes the chosen pin. */
    set: (change: Partial<Pin>): string | null =>
      tryPins(
        curve.map((p, i) => (i === chosen ? { ...p, ...change } : p)),
        change.frame ?? null,
      ),
    hasPinAt: (n: number): boolean => curve.some((p) => p.frame === here(n)),
    pinAt: (n: number): void => {
      take(withPinAt(curve, here(n), positionAt(mapping, n).picture));
      setChosenFrame(here(n));
    },
    remove: (): void => {
      take(curve.filter((_, i) => i !== chosen));
      setChosenFrame(null);
    },
  };
}

export type CurveEdit = ReturnType<typeof useCurveEdit>;
