import { Button, Checkbox, Group, NumberInput, SegmentedControl } from '@mantine/core';
import { type Curve, type CurveFault, curveFault, EASE, type Handles, type Pin, positionAt } from '@thawline/core/cadence';
import { type ClipCadence, curveOf, type Follow, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { count, plural } from '../../../shared/words.js';
import { CurveChart } from './CurveChart.js';
import classes from './retime.module.css';
import { SpeedTools } from './SpeedTools.js';

interface Props {
  readonly timeline: Timeline;
  readonly cadence: ClipCadence;
  readonly n: number;
  readonly onFrame: (n: number) => void;
}

const FAULTS: Record<CurveFault, string> = {
  'no-pins': 'There are no pins.',
  'two-on-a-frame': 'Another pin stands on that frame, or beyond it.',
  'past-source': 'The source has no such picture.',
  'bad-handles': 'That would run backward.',
};

/** A clip's time: the curve with its pins, the pin that is chosen, and the changes that make pins by themselves. */
export function CurvePanel({ timeline, cadence, n, onFrame }: Props) {
  const { run } = useProject();
  const { clip, source, mapping } = cadence;
  const [chosen, setChosen] = useState<number | null>(null);
  const [follow, setFollow] = useState<Follow>('move');
  const settled = useMemo(() => curveOf(mapping), [mapping]);
  // A key pressed again before the last reply continues from the pending value.
  const [ahead, setAhead] = useState<{ pins: Curve; changes: number } | null>(null);
  const curve = ahead?.pins ?? settled;
  const [asked, setAsked] = useState(false);
  // Who asked for it before need not ask again to change something else.
  const backward = asked || curveFault(curve, source.pictures) === 'bad-handles';
  const at = chosen === null ? -1 : curve.findIndex((pin) => pin.frame === chosen);
  const pin = curve[at];
  const take = (pins: Curve, length?: number): void => {
    const command = { type: 'retimeClip' as const, timelineId: timeline.id, clipId: clip.id, backward, follow };
    setAhead((was) => ({ pins, changes: (was?.changes ?? 0) + 1 }));
    const done = run({
      ...command,
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
  /** The pins with one of them otherwise. */
  const changed = (index: number, change: Partial<Pin>): Curve => curve.map((p, i) => (i === index ? { ...p, ...change } : p));
  const fault = (pins: Curve): string | null => {
    const found = curveFault(pins, source.pictures, backward);
    return found && FAULTS[found];
  };
  const set = (index: number, change: Partial<Pin>): string | null => {
    const pins = changed(index, change);
    const wrong = fault(pins);
    if (wrong) return wrong;
    take(pins);
    if (change.frame !== undefined) setChosen(change.frame);
    return null;
  };
  const here = n + mapping.headTrim;
  const pinHere = (): void => {
    const { picture } = positionAt(mapping, n);
    const before = curve.findLastIndex((p) => p.frame < here);
    take([...curve.slice(0, before + 1), { frame: here, picture, way: 'even' }, ...curve.slice(before + 1)]);
    setChosen(here);
  };
  return (
    <section className={`sheet ${classes.curve}`} data-testid="curve-panel">
      <div className={classes.head}>
        <h2 className="heading">
          Time curve{' '}
          <small className="quiet">{clip.curve ? plural(clip.curve.length, 'pin') : 'none: one speed all through'}</small>
        </h2>
        <Group gap={8} wrap="nowrap">
          <Button size="compact-sm" variant="default" disabled={curve.some((p) => p.frame === here)} onClick={pinHere}>
            Pin here
          </Button>
          <SegmentedControl
            size="xs"
            aria-label="What gives way"
            value={follow}
            onChange={(v) => setFollow(v as Follow)}
            data={[
              { value: 'move', label: 'what follows moves' },
              { value: 'keep', label: 'keeps its place' },
            ]}
          />
        </Group>
      </div>
      <CurveChart
        cadence={cadence}
        curve={curve}
        n={n}
        chosen={at}
        backward={backward}
        onChoose={(index) => setChosen(curve[index]?.frame ?? null)}
        onFrame={onFrame}
        onPins={(pins, frame) => {
          const wrong = fault(pins);
          if (wrong) return wrong;
          take(pins);
          setChosen(frame);
          return null;
        }}
      />
      <div className={classes.pin} data-testid="pin">
        {pin ? (
          <>
            <PinField
              label="Frame"
              value={pin.frame - mapping.headTrim}
              onTake={(v) => set(at, { frame: v + mapping.headTrim })}
            />
            <PinField label="Picture" value={pin.picture} onTake={(v) => set(at, { picture: v })} />
            <SegmentedControl
              size="xs"
              aria-label="On to the next pin"
              disabled={at === curve.length - 1}
              value={pin.way}
              onChange={(way) =>
                set(at, { way: way as Pin['way'], handles: way === 'eased' ? (pin.handles ?? EASE) : undefined })
              }
              data={[
                { value: 'even', label: 'even' },
                { value: 'eased', label: 'eased' },
                { value: 'held', label: 'held' },
              ]}
            />
            {pin.way === 'eased' && at < curve.length - 1 && (
              <Checkbox
                size="xs"
                mt={6}
                label="may run back"
                checked={backward}
                onChange={(e) => {
                  const { checked } = e.currentTarget;
                  setAsked(checked);
                  // Without it handles come back to their stretch.
                  if (!checked && pin.handles)
                    set(at, { handles: pin.handles.map((v) => Math.max(0, Math.min(1, v))) as unknown as Handles });
                }}
              />
            )}
            <Button
              size="compact-sm"
              variant="default"
              disabled={curve.length < 3}
              onClick={() => {
                take(curve.filter((_, i) => i !== at));
                setChosen(null);
              }}
            >
              Remove
            </Button>
          </>
        ) : (
          <span className="quiet">Pins are dragged, moved by the arrow keys, or typed. The playhead is at frame {count(n)}.</span>
        )}
      </div>
      <SpeedTools timeline={timeline} cadence={cadence} n={n} follow={follow} onPins={take} />
    </section>
  );
}

/** A whole number that is taken with Enter or when it is left; says beneath it why it was not. */
function PinField({ label, value, onTake }: { label: string; value: number; onTake: (value: number) => string | null }) {
  const [typed, setTyped] = useState<number | string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const take = (): void => {
    const said =
      typed === null || typed === value ? null : Number.isInteger(typed) ? onTake(typed as number) : 'A whole number is wanted.';
    setWrong(said);
    if (said === null) setTyped(null);
  };
  return (
    <NumberInput
      size="xs"
      w={104}
      aria-label={label}
      leftSection={<small className="quiet">{label.toLowerCase()}</small>}
      leftSectionWidth={52}
      classNames={{ input: 'number' }}
      hideControls
      allowDecimal={false}
      value={typed ?? value}
      error={wrong}
      onChange={(v) => {
        setTyped(v);
        setWrong(null);
      }}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take();
        if (e.key === 'Escape') {
          setTyped(null);
          setWrong(null);
        }
      }}
    />
  );
}
