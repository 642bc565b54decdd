import { Button, Popover, Select, Stack } from '@mantine/core';
import type { Solution, Tie } from '@thawline/core/align';
import { formatExact, formatRate, rateToNumber, snapRate, times } from '@thawline/core/time';
import {
  actionSpeed,
  apply,
  type Command,
  ownRate,
  type RefusalCode,
  readRate,
  readsUnevenly,
  type SoundWay,
  type Source,
  semitones,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../api/project.js';
import { Fact } from '../shell/Fact.js';
import { useGo } from '../state/places.js';
import { newId, useView } from '../state/view.js';
import { SOUND_CHOICES } from '../words.js';
import classes from './align.module.css';
import { framesApart } from './pair.js';

interface Props {
  readonly a: Source;
  readonly b: Source;
  readonly ties: readonly Tie[];
  readonly solution: Solution | null;
  readonly leftMs: number;
}

/** So near to 1001/1000, or the other way round, two rates were mistaken for each other; no clock is that wrong. */
const THOUSAND_PPM = 3;

/** What the ties say, in numbers, and what to do with it. */
export function PairFacts({ a, b, ties, solution, leftMs }: Props) {
  if (!solution) {
    return (
      <section className={`sheet ${classes.facts}`} data-testid="pair-facts">
        <p className="quiet">
          One tie tells where {b.name} lies to {a.name}; two far apart tell how fast its clock runs, too.
        </p>
      </section>
    );
  }
  const rate = rateToNumber(readRate(a) ?? { num: 25, den: 1 });
  const apart = (minutes: number): string => framesApart(solution, minutes * 60, rate).toFixed(1);
  const later = solution.offsetSeconds >= 0;
  const nearThousand = Math.abs(Math.abs(solution.driftPpm) - 1000) < THOUSAND_PPM;
  return (
    <section className={`sheet ${classes.facts}`} data-testid="pair-facts">
      <Fact
        name={`${b.name} runs`}
        value={
          solution.drifts
            ? `${solution.driftPpm >= 0 ? '+' : '\u2212'}${Math.abs(solution.driftPpm).toFixed(1)} ppm`
            : 'alike, as far as told'
        }
        tone={solution.drifts && Math.abs(solution.driftPpm) > 1 ? 'rust' : undefined}
        size={solution.drifts ? 'large' : 'usual'}
        under={solution.drifts ? (nearThousand ? 'as 1001 to 1000' : '') : 'the ties lie too close for a drift'}
      />
      <Fact name="began" value={`${Math.abs(solution.offsetSeconds).toFixed(4)} s ${later ? 'earlier' : 'later'}`} />
      <Fact name="exact speed" value={formatExact(solution.ratio).replace('/', ' / ')} />
      <Fact
        name="if left alone"
        value={`${apart(10)} frames in 10 min`}
        under={`${apart(1)} in 1 min, ${apart(60)} in 60 min at ${formatRate(readRate(a) ?? { num: 25, den: 1 })}`}
      />
      <Fact
        name="left over"
        value={`${leftMs.toFixed(2)} ms`}
        tone={leftMs > 2 ? 'rust' : 'moss'}
        under={
          solution.outliers.length > 0
            ? `left out: tie ${solution.outliers.map((i) => i + 1).join(', ')}`
            : `over ${ties.length} ${ties.length === 1 ? 'tie' : 'ties'}`
        }
      />
      <PlaceIt a={a} b={b} ties={ties} solution={solution} />
    </section>
  );
}

/** Places the second recording: first what will be, then the button. */
function PlaceIt({ a, b, ties, solution }: { a: Source; b: Source; ties: readonly Tie[]; solution: Solution }) {
  const { project, run, timings } = useProject();
  const go = useGo();
  const last = useView((s) => s.lastTimeline);
  const [open, setOpen] = useState(false);
  const [onto, setOnto] = useState<string>(() => project.timelines.find((t) => t.id === last)?.id ?? 'new');
  const [way, setWay] = useState<SoundWay>('along');
  const [fresh, seed] = useMemo(() => [newId(), newId()], [project]);
  const timeline = project.timelines.find((t) => t.id === onto);
  const command: Command = {
    type: 'placeAligned',
    aId: a.id,
    bId: b.id,
    timelineId: timeline?.id ?? fresh,
    timeline: timeline ? null : pairTimeline(a, b),
    way: b.sound ? way : null,
    ties: ties.map(({ a: x, b: y }) => ({ a: x, b: y })),
    seed,
  };
  const outcome = open ? apply(project, command, timings) : null;
  const after = outcome?.ok ? outcome.project : null;
  const placed = after?.timelines.find((t) => t.id === command.timelineId);
  const clip = placed?.clips.filter((c) => c.sourceId === b.id).at(-1);
  const speed = placed && clip ? actionSpeed(b, clip, placed) : null;
  const own = ownRate(b);
  // Uneven pictures would be made even by a rate.
  const corrected = own && b.kind !== 'sound' && !b.variable ? times(own, solution.ratio) : null;
  const place = (): void => {
    setOpen(false);
    void run(command).then((done) => done && go('timelines', command.timelineId));
  };
  const readIt = (): void => {
    if (!corrected) return;
    setOpen(false);
    const reading = { rate: corrected, pictures: 'once' as const, from: 'typed' as const, sound: way };
    void run({ type: 'readAt', readings: [{ sourceId: b.id, reading }], uses: 'length', except: [] });
  };
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={380} withArrow shadow="md">
      <Popover.Target>
        <Button ml="auto" onClick={() => setOpen(!open)}>
          Place {b.name}&hellip;
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap="xs" data-testid="place-sheet">
          <Select
            label="On"
            allowDeselect={false}
            comboboxProps={{ withinPortal: false }}
            data={[
              ...project.timelines.map((t) => ({ value: t.id, label: `${t.name} \u00b7 ${formatRate(t.rate)}` })),
              { value: 'new', label: `a new timeline of both \u00b7 ${formatRate(pairTimeline(a, b).rate)}` },
            ]}
            value={onto}
            onChange={(value) => value && setOnto(value)}
          />
          {b.sound && (
            <Select
              label={`The sound of ${b.name}`}
              allowDeselect={false}
              comboboxProps={{ withinPortal: false }}
              data={[...SOUND_CHOICES]}
              value={way}
              onChange={(value) => value && setWay(value as SoundWay)}
            />
          )}
          <p className="quiet" data-testid="place-outcome">
            {placed && clip && speed
              ? `${b.name} begins at frame ${clip.start} of ${placed.name}, beside ${a.name}, and runs at ${(rateToNumber(speed) * 100).toFixed(4)} %${b.sound ? soundOutcome(way, semitones(speed)) : ''}.`
              : outcome && !outcome.ok && (REFUSED[outcome.code] ?? 'It cannot be placed there.')}
          </p>
          <Button onClick={place} disabled={!clip}>
            Place it on {placed?.name ?? timeline?.name ?? 'a new timeline'}
          </Button>
          {corrected && solution.drifts && (
            <Button variant="default" onClick={readIt}>
              Only read it at {rateToNumber(corrected).toFixed(5)}
            </Button>
          )}
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}

const REFUSED: Partial<Record<RefusalCode, string>> = {
  'uneven-anchor': 'It cannot be placed there: the clip it would follow is frozen, curved, or shows each picture once.',
  'past-source': 'It cannot be placed there: all of it lies before the timeline begins.',
};

function soundOutcome(way: SoundWay, tones: number): string {
  if (way === 'off') return ', without its sound';
  if (way === 'own') return '; its sound keeps its own speed and drifts away';
  if (way === 'pitch') return ', its sound exact to the sample, its pitch kept';
  const moved = tones === 0 ? '' : `, its pitch moved by ${tones.toFixed(3)} semitones`;
  return `, its sound exact to the sample${moved}`;
}

/** A timeline for the pair alone: at the leading one's rate and size. */
function pairTimeline(a: Source, b: Source): NonNullable<Extract<Command, { type: 'placeAligned' }>['timeline']> {
  const lead = a.kind === 'sound' ? b : a;
  // The average of uneven pictures is nobody's rate: what the camera was set to is.
  const own = readsUnevenly(lead) ? lead.stored : readRate(lead);
  const rate = own ?? { num: 25, den: 1 };
  const even = (n: number, usual: number): number => (n >= 16 ? Math.min(8192, 2 * Math.round(n / 2)) : usual);
  return {
    name: `${a.name} and ${b.name}`.slice(0, 120),
    rate: snapRate(rateToNumber(rate))?.rate ?? rate,
    width: even(lead.width, 1280),
    height: even(lead.height, 720),
  };
}
