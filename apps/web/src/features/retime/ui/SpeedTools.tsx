import { Button, Group, NumberInput, Popover, TextInput } from '@mantine/core';
import type { Curve } from '@thawline/core/cadence';
import {
  averageRate,
  formatDecimalRate,
  nominalRate,
  over,
  parseRate,
  parseSpeed,
  type Rate,
  rateToNumber,
  readLength,
  SPEED_MAX,
  SPEED_MIN,
  secondsOf,
} from '@thawline/core/time';
import {
  apply,
  type ClipCadence,
  type Command,
  type Follow,
  frozen,
  lengthSpeed,
  ownRate,
  reversed,
  slowed,
  type Timeline,
} from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks } from '../../../api/queries.js';
import { plural, speedWords } from '../../../shared/words.js';
import { cleanestSlow } from '../model/frames.js';
import classes from './retime.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly cadence: ClipCadence;
  readonly n: number;
  readonly follow: Follow;
  readonly onPins: (pins: Curve, length?: number) => void;
}

type Kind = 'percent' | 'rate' | 'length';
const LABELS: Record<Kind, string> = { percent: 'Speed', rate: 'Shown at', length: 'Length' };

/** One speed all through, typed three ways; and the changes that place pins by themselves: slow here, stop, turn round. */
export function SpeedTools({ timeline, cadence, n, follow, onPins }: Props) {
  const { id, project, run, timings } = useProject();
  const checks = useChecks(id);
  const { clip, source, mapping } = cadence;
  const [typed, setTyped] = useState<{ kind: Kind; text: string } | null>(null);
  const own = ownRate(source);
  const check = checks.get(source.mediaId)?.verdict;
  const cleanest = cleanestSlow(source, timeline.rate, check?.held.length ?? 0);
  const command = (speed: Rate): Command => ({
    type: 'retimeClip',
    timelineId: timeline.id,
    clipId: clip.id,
    speed,
    backward: false,
    follow,
  });
  const read = (kind: Kind, text: string): Rate | null => {
    if (kind === 'percent') return parseSpeed(/%\s*$/.test(text) || text.includes('/') ? text : `${text}%`);
    const asked = kind === 'rate' ? parseRate(text) : null;
    const speed =
      kind === 'rate'
        ? asked && own && over(asked, own)
        : lengthSpeed(clip, source, { timeline, frames: readLength(text, timeline) ?? 0, known: timings });
    return speed && rateToNumber(speed) >= SPEED_MIN && rateToNumber(speed) <= SPEED_MAX ? speed : null;
  };
  const speed = typed && read(typed.kind, typed.text);
  const take = (wanted: Rate | null): void => {
    if (wanted) void run(command(wanted)).then((done) => done && setTyped(null));
  };
  /** What a speed comes to: from doing it to a copy. */
  const outcome = (wanted: Rate): string => {
    const applied = apply(project, command(wanted), timings);
    if (!applied.ok)
      return applied.code === 'overlap' ? 'There is no room for that: let what follows move.' : 'No clip can run at that.';
    const after = applied.project.timelines.find((t) => t.id === timeline.id);
    const now = after?.clips.find((c) => c.id === clip.id);
    if (!after || !now) return '';
    const by = now.length - clip.length;
    const moved = after.clips.filter((c) => timeline.clips.find((was) => was.id === c.id)?.start !== c.start).length;
    const runs = `Runs ${plural(now.length, 'frame')}, ${secondsOf(now.length, timeline.rate).toFixed(2)} s`;
    const than = by === 0 ? '' : `, ${plural(Math.abs(by), 'frame')} ${by > 0 ? 'longer' : 'shorter'}`;
    return `${speedWords(rateToNumber(wanted), 3)}. ${runs}${than}${moved > 0 ? `; ${plural(moved, 'clip after it moves', 'clips after it move')}` : ''}${clip.curve ? '; its curve goes' : ''}.`;
  };
  const field = (kind: Kind, value: string, placeholder: string) => (
    <TextInput
      size="xs"
      w={kind === 'percent' ? 110 : kind === 'rate' ? 124 : 100}
      aria-label={LABELS[kind]}
      leftSection={<small className="quiet">{LABELS[kind].toLowerCase()}</small>}
      leftSectionWidth={kind === 'rate' ? 62 : 48}
      classNames={{ input: 'number' }}
      placeholder={placeholder}
      value={typed?.kind === kind ? typed.text : value}
      error={typed?.kind === kind && typed.text !== '' && !speed}
      onChange={(e) => setTyped({ kind, text: e.currentTarget.value })}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take(speed);
        if (e.key === 'Escape') setTyped(null);
      }}
    />
  );
  const constant = clip.curve || !own ? null : currentSpeed(cadence);
  return (
    <div className={classes.tools} data-testid="speed-tools">
      <Group gap={6} align="center">
        {field('percent', constant === null ? '' : speedWords(constant, 3), 'curve')}
        {own && field('rate', constant === null ? '' : formatDecimalRate(constant * rateToNumber(own)), 'curve')}
        {field('length', String(clip.length), '')}
        {cleanest && (
          <Button
            size="compact-md"
            variant="default"
            onClick={() => take(cleanest)}
            ml="auto"
            title="The slowest without a made picture"
          >
            Every picture once: {speedWords(rateToNumber(cleanest), 3)}
          </Button>
        )}
      </Group>
      <Group gap={6} mt={8} justify="space-between">
        <Group gap={6}>
          <SlowHere cadence={cadence} n={n} onPins={onPins} />
          <Freeze cadence={cadence} n={n} onPins={onPins} />
          <Button size="compact-md" variant="default" onClick={() => onPins(reversed(mapping), clip.length)}>
            Reverse
          </Button>
        </Group>
        <Button
          size="compact-md"
          variant="default"
          disabled={!clip.curve}
          onClick={() =>
            void run({ type: 'retimeClip', timelineId: timeline.id, clipId: clip.id, pins: null, backward: false, follow })
          }
        >
          No curve
        </Button>
      </Group>
      <p className={classes.outcome} role="status" data-wrong={(typed && !speed) || undefined}>
        {typed
          ? speed
            ? `${outcome(speed)} Enter takes it.`
            : typed.kind === 'length'
              ? 'Not a length: frames (120), seconds (8s) or timecode (8:00), at 1 % to 10,000 %.'
              : typed.kind === 'rate'
                ? 'Not a rate that can be shown. Try 25, or 24000/1001.'
                : 'Not a speed from 1 % to 10,000 %. Try 25 %, or 1/4.'
          : cleanest
            ? `Slower than ${speedWords(rateToNumber(cleanest), 3)} pictures have to be made: ${check ? `the check found ${plural(source.pictures - check.held.length, 'new picture')} of ${source.pictures}` : 'not checked yet, so that every stored picture counts as new'}.`
            : ''}
      </p>
    </div>
  );
}

function currentSpeed({ mapping, clip, source }: ClipCadence): number {
  const own = ownRate(source);
  if (clip.fit === 'freeze' || !own) return 0;
  const passing = clip.fit === 'pictures' ? mapping.timeline : averageRate(mapping.timing);
  return passing ? rateToNumber(passing) / rateToNumber(own) : 1;
}

/** A button that opens a small form for its numbers and previews their effect. */
function Asking({
  label,
  doing,
  good,
  said,
  onTake,
  children,
}: {
  label: string;
  doing: string;
  good: boolean;
  said: string;
  onTake: () => void;
  children: React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" shadow="md" withArrow>
      <Popover.Target>
        <Button size="compact-md" variant="default" onClick={() => setOpen(!open)}>
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <div className={classes.form}>
          {children}
          <p className="quiet">{said}</p>
          <Button
            size="compact-md"
            disabled={!good}
            onClick={() => {
              onTake();
              setOpen(false);
            }}
          >
            {doing}
          </Button>
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}

function SlowHere({ cadence, n, onPins }: Pick<Props, 'cadence' | 'n' | 'onPins'>) {
  const { timings } = useProject();
  const { mapping, source } = cadence;
  const second = nominalRate(mapping.timeline);
  const [to, setTo] = useState<number | string>(25);
  const [ramp, setRamp] = useState<number | string>(Math.round(second / 2));
  const [slow, setSlow] = useState<number | string>(second * 2);
  const good = [to, ramp, slow].every((v) => typeof v === 'number' && v > 0) && Number(to) >= 1 && Number(to) < 100;
  const pins = good
    ? slowed(mapping, source, { n, speed: Number(to) / 100, ramp: Number(ramp), slow: Number(slow), known: timings })
    : [];
  // The four new ones among those that were there before.
  const at = pins.findIndex((p) => p.frame === n + mapping.headTrim);
  const [first, last] = [pins[at], pins[at + 3]];
  const past = (last?.picture ?? 0) >= source.pictures;
  return (
    <Asking
      label="Slow here"
      doing="Slow it"
      good={good && !past}
      said={
        !good
          ? 'Whole frames, and a speed under 100 %.'
          : past
            ? 'The source ends before that: take fewer frames.'
            : `From frame ${n}: pictures ${first?.picture} to ${last?.picture} take ${plural(Number(slow) + 2 * Number(ramp), 'frame')}; normal before and after.`
      }
      onTake={() => onPins(pins)}
    >
      <NumberInput size="xs" label="Down to, in %" value={to} onChange={setTo} min={1} max={99} />
      <NumberInput size="xs" label="Frames to get there" value={ramp} onChange={setRamp} min={1} allowDecimal={false} />
      <NumberInput size="xs" label="Frames at that speed" value={slow} onChange={setSlow} min={1} allowDecimal={false} />
    </Asking>
  );
}

function Freeze({ cadence, n, onPins }: Pick<Props, 'cadence' | 'n' | 'onPins'>) {
  const { mapping } = cadence;
  const [frames, setFrames] = useState<number | string>(nominalRate(mapping.timeline));
  return (
    <Asking
      label="Freeze here"
      doing="Freeze it"
      good={typeof frames === 'number' && frames >= 1}
      said={`Frame ${n} stands for so long; the rest follows later.`}
      onTake={() => onPins(frozen(mapping, n, Number(frames)))}
    >
      <NumberInput size="xs" label="Frames to hold" value={frames} onChange={setFrames} min={1} allowDecimal={false} />
    </Asking>
  );
}
