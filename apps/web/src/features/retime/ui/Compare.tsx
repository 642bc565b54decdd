import { Group, SegmentedControl, Select } from '@mantine/core';
import { rateToNumber } from '@thawline/core/time';
import { aspectOf, type ClipCadence } from '@thawline/project';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { type Look, lookAt, lookOf, momentOf, type Pictures, WAYS, type Way } from '../../../shared/player/looks.js';
import { type MadeFrameKey, useMade } from '../../../shared/player/made.js';
import { Transport } from '../../../shared/player/Transport.js';
import { LookCanvas } from './LookCanvas.js';
import classes from './retime.module.css';

type ComparedWay = Way | 'edit';
type Manner = 'wipe' | 'beside' | 'difference';

const NAMES: Record<ComparedWay, string> = {
  nearest: 'Nearest',
  blend: 'Blend',
  motion: 'Motion',
  pictures: 'Keep pictures',
  edit: 'As edited',
};
const CHOICES = (['edit', ...WAYS] as const).map((value) => ({ value, label: NAMES[value] }));

interface Props {
  readonly cadence: ClipCadence;
  readonly pictures: Pictures;
  readonly n: number;
  readonly onFrame: (n: number) => void;
}

/** Frames that are made ahead of the one that is looked at. */
const AHEAD = 12;

/** Two ways between the same pictures at the same frame: under a line that is dragged, side by side, or what differs. */
export function Compare({ cadence, pictures, n, onFrame }: Props) {
  const [left, setLeft] = useState<ComparedWay>('nearest');
  const [right, setRight] = useState<ComparedWay>(cadence.clip.fit === 'motion' ? 'edit' : 'motion');
  const [manner, setManner] = useState<Manner>('wipe');
  const [line, setLine] = useState(0.5);
  const { source, clip } = cadence;
  const look = useCallback(
    (shown: ComparedWay, frame: number) => (shown === 'edit' ? lookOf(cadence, frame) : lookAt(cadence, frame, shown)),
    [cadence],
  );
  const moments = useMemo(() => {
    const found: MadeFrameKey[] = [];
    for (let frame = n; frame < Math.min(clip.length, n + AHEAD); frame++)
      for (const side of [left, right]) {
        const moment = momentOf(pictures, look(side, frame));
        if (moment) found.push(moment);
      }
    return found;
  }, [n, left, right, clip.length, pictures, look]);
  const made = useMade('look', moments);
  const playing = usePlaying(cadence, n, onFrame, (frame) =>
    [left, right].every((side) => {
      const moment = momentOf(pictures, look(side, frame));
      return !moment || made.get(moment) !== undefined || made.isLost(moment);
    }),
  );
  useShortcut('play', playing.toggle, { preventDefault: true });
  const well = useRef<HTMLDivElement>(null);
  const drag = (event: React.PointerEvent): void => {
    const box = well.current?.getBoundingClientRect();
    if (box) setLine(Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)));
  };
  const sides = [look(left, n), look(right, n)] as const;
  const shape = aspectOf(source);
  return (
    <section className={`well ${classes.compare}`} aria-label="Compare">
      <div className={classes.room}>
        <div
          ref={well}
          className={classes.screen}
          style={{ aspectRatio: manner === 'beside' ? shape * 2 : shape, '--shape': shape } as React.CSSProperties}
          data-testid="compare"
          data-frame={n}
        >
          {manner === 'difference' ? (
            <LookCanvas pictures={pictures} look={sides[0]} against={sides[1]} made={made} />
          ) : (
            <>
              <div className={classes.side} style={manner === 'beside' ? { width: '50%' } : {}}>
                <LookCanvas pictures={pictures} look={sides[0]} made={made} testId="look-left" />
              </div>
              <div
                className={classes.side}
                style={manner === 'beside' ? { left: '50%', width: '50%' } : { clipPath: `inset(0 0 0 ${line * 100}%)` }}
              >
                <LookCanvas pictures={pictures} look={sides[1]} made={made} testId="look-right" />
              </div>
            </>
          )}
          {manner === 'wipe' && (
            <div
              className={classes.wipe}
              style={{ left: `${line * 100}%` }}
              role="slider"
              tabIndex={0}
              aria-label="Where the two meet"
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round(line * 100)}
              onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
              onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && drag(e)}
              onKeyDown={(e) => {
                const by = e.key === 'ArrowLeft' ? -0.05 : e.key === 'ArrowRight' ? 0.05 : 0;
                if (by === 0) return;
                e.stopPropagation();
                e.nativeEvent.stopImmediatePropagation();
                setLine(Math.max(0, Math.min(1, line + by)));
              }}
            />
          )}
        </div>
      </div>
      <Group justify="space-between" wrap="nowrap" gap="xs" className={classes.caption ?? ''}>
        <Side label="Left" value={left} onChange={setLeft} />
        <span className="number">{captionOf(source.kind === 'timeline' ? 'frame' : 'picture', ...sides)}</span>
        <Side label="Right" value={right} onChange={setRight} />
      </Group>
      <Group justify="space-between" gap="xs">
        <Transport playing={playing.on} onPlay={playing.toggle} onStep={(by) => onFrame(n + by)} />
        <SegmentedControl
          size="xs"
          aria-label="How the two are shown"
          value={manner}
          onChange={(v) => setManner(v as Manner)}
          data={[
            { value: 'wipe', label: 'wipe' },
            { value: 'beside', label: 'side by side' },
            { value: 'difference', label: 'difference' },
          ]}
        />
      </Group>
    </section>
  );
}

/** What is seen on both sides: one number where they show the same moment. */
function captionOf(what: string, left: Look, right: Look): string {
  const at = ({ picture, next, share }: Look): string => {
    const moment = picture + ((next - picture) * share) / 65536;
    return Number.isInteger(moment) ? String(moment) : moment.toFixed(3);
  };
  return at(left) === at(right) ? `${what} ${at(right)}` : `${what}s ${at(left)} and ${at(right)}`;
}

function Side({ label, value, onChange }: { label: string; value: ComparedWay; onChange: (shown: ComparedWay) => void }) {
  return (
    <Select
      size="xs"
      w={132}
      aria-label={label}
      allowDeselect={false}
      data={CHOICES}
      value={value}
      onChange={(v) => v && onChange(v as ComparedWay)}
    />
  );
}

/** Plays at the timeline's rate; a frame that is not made yet is waited for, since it is the made ones that are looked at. */
function usePlaying(cadence: ClipCadence, n: number, onFrame: (n: number) => void, isReady: (n: number) => boolean) {
  const [on, setOn] = useState(false);
  const now = useRef({ n, onFrame, isReady, length: cadence.clip.length });
  now.current = { n, onFrame, isReady, length: cadence.clip.length };
  const perSecond = rateToNumber(cadence.mapping.timeline);
  useEffect(() => {
    if (!on) return undefined;
    let due = performance.now();
    let frame = requestAnimationFrame(function tick(time) {
      const { n: at, onFrame: go, isReady: ready, length } = now.current;
      if (time >= due) {
        if (at + 1 >= length) {
          setOn(false);
          return;
        }
        if (ready(at + 1)) {
          due = Math.max(due + 1000 / perSecond, time);
          go(at + 1);
        }
      }
      frame = requestAnimationFrame(tick);
    });
    return () => cancelAnimationFrame(frame);
  }, [on, perSecond]);
  const toggle = useCallback(() => setOn((was) => !was), []);
  return { on, toggle };
}
