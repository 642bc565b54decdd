import { Button, Popover, Select, Stack } from '@mantine/core';
import type { Solution, Tie } from '@thawline/core/align';
import { formatRate, rateToNumber, snapRate, times } from '@thawline/core/time';
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
  type Timeline,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { frameRateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { newId, useView } from '../../../shared/state/view.js';
import { SOUND_CHOICES } from '../../../shared/words.js';

export interface PlaceStep {
  readonly a: Source;
  readonly b: Source;
  readonly ties: readonly Tie[];
  readonly solution: Solution;
}

/**
 * Places what follows a recording: first what will be, then the button.
 * @param steps each recording and the one it is placed by: the leading one, or one of an earlier step
 */
export function PlaceIt({ lead, steps }: { lead: Source; steps: readonly [PlaceStep, ...PlaceStep[]] }) {
  const { project, run, timings } = useProject();
  const go = useGo();
  const last = useView((s) => s.lastTimeline);
  const [open, setOpen] = useState(false);
  const [onto, setOnto] = useState<string>(() => project.timelines.find((t) => t.id === last)?.id ?? 'new');
  const [{ b, solution }, ...more] = steps;
  const called = more.length === 0 ? b.name : `all ${steps.length}`;
  const sounding = steps.some((s) => s.b.sound);
  const [way, setWay] = useState<SoundWay>('along');
  // biome-ignore lint/correctness/useExhaustiveDependencies: another project needs other ids, though they are not made of it
  const [fresh, seed] = useMemo(() => [newId(), newId()], [project]);
  const timeline = project.timelines.find((t) => t.id === onto);
  const command: Command = {
    type: 'placeAligned',
    aId: steps[0].a.id,
    bId: b.id,
    timelineId: timeline?.id ?? fresh,
    timeline: timeline ? null : pairTimeline(lead, steps),
    way: sounding ? way : null,
    ties: bare(steps[0].ties),
    more: more.map((s) => ({ aId: s.a.id, bId: s.b.id, ties: bare(s.ties) })),
    seed,
  };
  const outcome = open ? apply(project, command, timings) : null;
  const after = outcome?.ok ? outcome.project : null;
  const placed = after?.timelines.find((t) => t.id === command.timelineId);
  const clip = placed?.clips.filter((c) => c.sourceId === b.id).at(-1);
  const speed = placed && clip ? actionSpeed(b, clip, placed) : null;
  const own = ownRate(b);
  // Uneven pictures would be made even by a rate.
  const corrected = own && more.length === 0 && b.kind !== 'sound' && !b.variable ? times(own, solution.ratio) : null;
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
          Place {called}&hellip;
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap="xs" data-testid="place-sheet">
          <Select
            label="On"
            allowDeselect={false}
            comboboxProps={{ withinPortal: false }}
            data={[
              ...project.timelines.map((t) => ({ value: t.id, label: `${t.name} \u00b7 ${frameRateLabel(t)}` })),
              {
                value: 'new',
                label: `a new timeline of ${more.length === 0 ? 'both' : 'all'} \u00b7 ${formatRate(pairTimeline(lead, steps).rate)}`,
              },
            ]}
            value={onto}
            onChange={(value) => value && setOnto(value)}
          />
          {sounding && (
            <Select
              label={`The sound of ${called}`}
              allowDeselect={false}
              comboboxProps={{ withinPortal: false }}
              data={[...SOUND_CHOICES]}
              value={way}
              onChange={(value) => value && setWay(value as SoundWay)}
            />
          )}
          <p className="quiet" data-testid="place-outcome">
            {placed && clip && speed
              ? steps.map((s) => beginsWords(s, placed, way)).join(' ')
              : outcome && !outcome.ok && (REFUSED[outcome.code] ?? 'They cannot be placed there.')}
          </p>
          <Button onClick={place} disabled={!clip}>
            Place {more.length === 0 ? 'it' : 'them'} on {placed?.name ?? timeline?.name ?? 'a new timeline'}
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
  'uneven-anchor': 'It cannot be placed there: a clip it would follow is frozen, curved, or shows each picture once.',
  'past-source': 'It cannot be placed there: all of it lies before the timeline begins.',
};

/** The ties alone, without what is known of how they were found. */
function bare(ties: readonly Tie[]): Tie[] {
  return ties.map(({ a, b }) => ({ a, b }));
}

function beginsWords({ a, b }: PlaceStep, placed: Timeline, way: SoundWay): string {
  const clip = placed.clips.filter((c) => c.sourceId === b.id).at(-1);
  if (!clip) return '';
  const speed = actionSpeed(b, clip, placed);
  return `${b.name} begins at frame ${clip.start} of ${placed.name}, beside ${a.name}, and runs at ${(rateToNumber(speed) * 100).toFixed(4)} %${b.sound ? soundOutcome(way, semitones(speed)) : ''}.`;
}

function soundOutcome(way: SoundWay, tones: number): string {
  if (way === 'off') return ', without its sound';
  if (way === 'own') return '; its sound keeps its own speed and drifts away';
  if (way === 'pitch') return ', its sound exact to the sample, its pitch kept';
  const moved = tones === 0 ? '' : `, its pitch moved by ${tones.toFixed(3)} semitones`;
  return `, its sound exact to the sample${moved}`;
}

/** A timeline for these alone: at the leading one's rate and size; where that is a sound, at the first camera's. */
function pairTimeline(
  first: Source,
  steps: readonly PlaceStep[],
): NonNullable<Extract<Command, { type: 'placeAligned' }>['timeline']> {
  const all = [first, ...steps.map((s) => s.b)];
  const lead = all.find((s) => s.kind !== 'sound') ?? first;
  // For uneven timing the average is not a real rate; use the rate the camera was set to.
  const own = readsUnevenly(lead) ? lead.stored : readRate(lead);
  const rate = own ?? { num: 25, den: 1 };
  const even = (n: number | undefined, usual: number): number =>
    n !== undefined && n >= 16 ? Math.min(8192, 2 * Math.round(n / 2)) : usual;
  return {
    name: `${all[0]?.name} and ${steps.length === 1 ? all[1]?.name : `${steps.length} more`}`.slice(0, 120),
    rate: snapRate(rateToNumber(rate))?.rate ?? rate,
    width: even(lead.width, 1280),
    height: even(lead.height, 720),
  };
}
