import { NativeSelect, Table } from '@mantine/core';
import { clockTimecode, formatRate } from '@thawline/core/time';
import type { HoldingTimeline, SoundWay, SourceChange, UseChange, Uses } from '@thawline/project';
import { rateLabel } from '../../../shared/rates/rates.js';
import { clock, percent, plural } from '../../../shared/words.js';
import classes from './readat.module.css';

/** Most lines shown; the total is above the table. */
const SHOWN = 100;

/** For each source: rate, length, speed and pitch, before and after. */
export function Changes({ changes, sound }: { changes: readonly SourceChange[]; sound: SoundWay }) {
  return (
    <div className={classes.scroll}>
      <Table aria-label="Sources that change" verticalSpacing={4} stickyHeader>
        <Table.Thead>
          <Table.Tr>
            <Table.Th>Source</Table.Th>
            <Table.Th>Read at</Table.Th>
            <Table.Th>Runs</Table.Th>
            <Table.Th>Speed</Table.Th>
            <Table.Th>Sound</Table.Th>
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {changes.slice(0, SHOWN).map((c) => (
            <Table.Tr key={c.source.id} data-testid={`change-${c.source.name}`}>
              <Table.Td className={classes.name}>{c.source.name}</Table.Td>
              <Table.Td className="number">
                {rateLabel(c.source)} &rarr; {c.reading ? formatRate(c.reading.rate) : 'as measured'}
              </Table.Td>
              <Table.Td className="number">
                {clock(c.secondsBefore)} &rarr; {clock(c.seconds)}
              </Table.Td>
              <Table.Td className="number">{percent(c.speed)}</Table.Td>
              <Table.Td className="number">{c.source.sound ? heard(c, sound) : 'none'}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {changes.length > SHOWN && <p className="quiet">and {changes.length - SHOWN} more</p>}
    </div>
  );
}

function heard(change: SourceChange, sound: SoundWay): string {
  const moved =
    Math.abs(change.semitones) < 0.005
      ? 'as is'
      : `${change.semitones > 0 ? '+' : '\u2212'}${Math.abs(change.semitones).toFixed(2)} st`;
  switch (sound) {
    case 'along':
      return moved;
    case 'pitch':
      return moved === 'as is' ? moved : `pitch kept (else ${moved})`;
    case 'own':
      return 'own rate, 0 st';
    case 'off':
      return 'left out';
    default:
      return sound satisfies never;
  }
}

const CHOICES: readonly { value: Uses; label: string }[] = [
  { value: 'move', label: 'change length, move what follows' },
  { value: 'length', label: 'keep length' },
  { value: 'time', label: 'keep time' },
];

/** For each use on a timeline: its range, its frames and the resulting gap or overlap; each use can be set to one of the CHOICES. */
export function UseTable({ touched, onUses }: { touched: readonly UseChange[]; onUses: (clipId: string, uses: Uses) => void }) {
  return (
    <div className={classes.scroll}>
      <Table aria-label="Clips that are touched" verticalSpacing={4} stickyHeader>
        <Table.Thead>
          <Table.Tr>
            <Table.Th>On</Table.Th>
            <Table.Th>At</Table.Th>
            <Table.Th>Frames</Table.Th>
            <Table.Th>Pictures</Table.Th>
            <Table.Th>Result</Table.Th>
            <Table.Th>The clip is to</Table.Th>
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {touched.slice(0, SHOWN).map((use) => (
            <Table.Tr key={use.before.id} data-testid={`use-${use.source.name}`}>
              <Table.Td className={classes.name} title={use.source.name}>
                {use.timeline.name} <small className="quiet">{use.source.name}</small>
              </Table.Td>
              <Table.Td className="number">{clockTimecode(use.after.start, use.timeline)}</Table.Td>
              <Table.Td className="number">
                {use.before.length} &rarr; {use.after.length}
              </Table.Td>
              <Table.Td className="number">{ranges(use)}</Table.Td>
              <Table.Td>
                {outcome(use)}
                {use.silent > 0 && <span className="rust">; no sound for its last {plural(use.silent, 'frame')}</span>}
              </Table.Td>
              <Table.Td>
                <NativeSelect
                  size="xs"
                  aria-label={`${use.source.name} on ${use.timeline.name}`}
                  data={CHOICES.map((c) => ({ ...c }))}
                  value={use.uses}
                  onChange={(e) => onUses(use.before.id, e.currentTarget.value as Uses)}
                />
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {touched.length > SHOWN && <p className="quiet">and {touched.length - SHOWN} more</p>}
    </div>
  );
}

/** Timelines that hold one whose length changes: they show as many of its frames as before. */
export function Holding({ holding }: { holding: readonly HoldingTimeline[] }) {
  return (
    <ul className={classes.holding} data-testid="read-holding">
      {holding.map(({ timeline, inner, lacks }) => (
        <li key={`${timeline.id} ${inner.id}`}>
          {inner.name} stands in {timeline.name} as long as it was:{' '}
          {lacks > 0
            ? `its last ${plural(lacks, 'frame')} would not be seen there.`
            : `${plural(-lacks, 'frame')} at its end would be black there.`}
        </li>
      ))}
    </ul>
  );
}

function ranges(use: UseChange): string {
  const { before, after } = use.range;
  const same = before[0] === after[0] && before[1] === after[1];
  return same ? `${before[0]}\u2013${before[1]}` : `${before[0]}\u2013${before[1]} \u2192 ${after[0]}\u2013${after[1]}`;
}

function outcome(use: UseChange): string {
  const { natural } = use;
  const by = plural(Math.abs(natural), 'frame');
  if (use.uses === 'time') {
    const speed = use.after.speed;
    return speed.num === speed.den
      ? 'same pictures at the same frames'
      : `same pictures at the same frames, at ${percent(speed)}`;
  }
  if (natural === 0) return 'its length stays';
  if (use.uses === 'length') {
    const gap = use.gap > 0 ? `; a gap of ${plural(use.gap, 'frame')} comes` : '';
    return natural > 0 ? `would be ${by} longer: shows fewer pictures` : `would be ${by} shorter: shows more pictures${gap}`;
  }
  const moved =
    natural > 0
      ? `${by} longer: would overlap what follows, which moves`
      : `${by} shorter: would leave a gap, what follows moves up`;
  return use.gap > 0 ? `${moved}; ${plural(use.gap, 'frame')} stay free` : moved;
}
