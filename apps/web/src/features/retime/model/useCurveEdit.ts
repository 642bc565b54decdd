import { type Curve, type CurveFault, curveFault, type Pin, positionAt } from '@thawline/core/cadence';
import {
  type ClipCadence,
  type Command,
  cadenceOf,
  curveOf,
  type Follow,
  type Project,
  type Timeline,
  type TimingOf,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { type CurvePlace, movedPin, nudgedHandle, withPinAt } from './curveGeometry.js';

const FAULTS: Record<CurveFault, string> = {
  'no-pins': 'There are no pins.',
  'two-on-a-frame': 'Another pin stands on that frame, or beyond it.',
  'past-source': 'The source has no such picture.',
  'bad-handles': 'That would run backward.',
};

/** A clip's pins as a project has them; null where it is gone. */
function pinsIn(project: Project, timelineId: string, clipId: string, timings: TimingOf): Curve | null {
  const timeline = project.timelines.find((t) => t.id === timelineId);
  const clip = timeline?.clips.find((c) => c.id === clipId);
  const cadence = timeline && clip ? cadenceOf(project, timeline, clip, timings) : null;
  return cadence && curveOf(cadence.mapping);
}

/**
 * The pins of a clip's time curve and the changes to them, each a command. A key pressed again before the last reply continues from the
 * pending pins.
 */
export function useCurveEdit(timeline: Timeline, { clip, source, mapping }: ClipCadence) {
  const { run, timings } = useProject();
  const [chosenFrame, setChosenFrame] = useState<number | null>(null);
  const [follow, setFollow] = useState<Follow>('move');
  const [asked, setAsked] = useState(false);
  const [ahead, setAhead] = useState<{ pins: Curve; changes: number } | null>(null);
  const stored = useMemo(() => curveOf(mapping), [mapping]);
  const curve = ahead?.pins ?? stored;
  // Who asked for it before need not ask again to change something else.
  const backward = asked || curveFault(curve, source.pictures) === 'bad-handles';
  const chosen = chosenFrame === null ? -1 : curve.findIndex((pin) => pin.frame === chosenFrame);
  const retimed = (pins: Curve, length?: number): Command =>
    ({
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
    }) as Command;
  /** Shows pins at once, and stores them as the command says. */
  const store = (pins: Curve, command: Parameters<typeof run>[0]): void => {
    setAhead((was) => ({ pins, changes: (was?.changes ?? 0) + 1 }));
    void run(command).finally(() => setAhead((was) => (was && was.changes > 1 ? { ...was, changes: was.changes - 1 } : null)));
  };
  const take = (pins: Curve, length?: number): void => store(pins, retimed(pins, length));
  const faultOf = (pins: Curve): string | null => {
    const fault = curveFault(pins, source.pictures, backward);
    return fault && FAULTS[fault];
  };
  /** Takes pins and chooses the one at a frame; returns why not where they are refused. */
  const tryPins = (pins: Curve, frame: number | null): string | null => {
    const wrong = faultOf(pins);
    if (wrong !== null) return wrong;
    take(pins);
    if (frame !== null) setChosenFrame(frame);
    return null;
  };
  /** Changes one pin from wherever an undo or change still on its way leaves it, and chooses it; returns why not where that is refused. */
  const adjust = (index: number, change: (pins: Curve) => Curve): string | null => {
    const pins = change(curve);
    if (JSON.stringify(pins) === JSON.stringify(curve)) return null;
    const wrong = faultOf(pins);
    if (wrong !== null) return wrong;
    store(pins, (now) => retimed(change(pinsIn(now, timeline.id, clip.id, timings) ?? curve)));
    setChosenFrame(pins[index]?.frame ?? null);
    return null;
  };
  const nudge = (index: number, by: CurvePlace): string | null => {
    const limits = { first: mapping.headTrim, pictures: source.pictures };
    return adjust(index, (pins) => {
      const pin = pins[index];
      return pin ? movedPin(pins, index, { frame: pin.frame + by.frame, picture: pin.picture + by.picture }, limits) : pins;
    });
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
    nudge,
    nudgeHandle: (by: Parameters<typeof nudgedHandle>[2]): string | null =>
      adjust(chosen, (pins) => nudgedHandle(pins, chosen, by, backward)),
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
