import { Button, Group, Modal, TextInput } from '@mantine/core';
import { allowsFields } from '@thawline/core/fields';
import { clockTimecode, formatRate, parseRate, sameRate } from '@thawline/core/time';
import { type CarryReport, reportCarry, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { RateField } from '../../../shared/rates/RateField.js';
import { useGo } from '../../../shared/state/places.js';
import { newId } from '../../../shared/state/view.js';
import { plural } from '../../../shared/words.js';
import classes from './sheets.module.css';

/** So many clips and cuts are listed; their sums count all. */
const LISTED = 60;

/** The edit at another rate, as a new timeline beside this one: first what each cut and clip comes to, then the button. */
export function CarrySheet({ timeline, asked, onClose }: { timeline: Timeline; asked: string; onClose: () => void }) {
  const { project, run, timings } = useProject();
  const go = useGo();
  const [typed, setTyped] = useState(asked);
  const [named, setNamed] = useState<string | null>(null);
  const rate = parseRate(typed);
  const report = useMemo(() => {
    const to = parseRate(typed);
    return to && !sameRate(to, timeline.rate) ? reportCarry(project, timeline, to, timings) : null;
  }, [project, timeline, timings, typed]);
  const name = named ?? (rate ? `${timeline.name} ${formatRate(rate)}` : timeline.name);
  const carry = async (): Promise<void> => {
    if (!rate || !report) return;
    const newTimeline = newId();
    if (
      await run({ type: 'carryTimeline', timelineId: timeline.id, newId: newTimeline, name: name.trim() || timeline.name, rate })
    ) {
      onClose();
      go('timelines', newTimeline);
    }
  };
  return (
    <Modal opened onClose={onClose} title={`Carry ${timeline.name} to another rate`} size="xl">
      <p className="quiet">
        Every cut goes to the nearest frame of the new rate, pictures stay in real time, clips that meet go on meeting. The
        timeline at {formatRate(timeline.rate)} stays as it is; a new one stands beside it.
      </p>
      <RateField label="Carry to" typed={typed} onType={setTyped} what="frames" hint="The rate of the new timeline." />
      <TextInput label="Called" mt="xs" value={name} maxLength={120} onChange={(e) => setNamed(e.currentTarget.value)} />
      {rate && sameRate(rate, timeline.rate) && <p className="quiet">That is its rate already. Duplicate it instead.</p>}
      {rate && timeline.fields && !allowsFields(rate) && (
        <p>
          Frames of two fields go up to 30 a second: those of the new timeline are <b>whole pictures</b>.
        </p>
      )}
      {report && <Report timeline={timeline} report={report} />}
      <Group justify="flex-end" mt="md">
        <Button disabled={!report} onClick={() => void carry()}>
          {report && rate ? `Carry to ${formatRate(rate)}` : 'Choose a rate'}
        </Button>
      </Group>
    </Modal>
  );
}

function Report({ timeline, report }: { timeline: Timeline; report: CarryReport }) {
  const { clips, cuts, furthestMs, halfFrameMs, pushed } = report;
  const gained = clips.filter((c) => c.hitches > c.hitchesBefore).length;
  const lost = clips.filter((c) => c.hitches < c.hitchesBefore).length;
  const short = clips.filter((c) => c.missing > 0);
  const hitches = (of: 'hitches' | 'hitchesBefore') => clips.reduce((n, c) => n + c[of], 0);
  const exact = cuts.filter((c) => Math.abs(c.ms) < 1e-6).length;
  return (
    <div data-testid="carry-report">
      <p>
        <b>{plural(cuts.length, 'cut')}</b>:{' '}
        {exact === cuts.length
          ? 'all stay at their very moment'
          : `${exact} stay at their very moment, the others move by at most `}
        {exact < cuts.length && (
          <>
            <b className="number">{furthestMs.toFixed(2)} ms</b> (half a frame is{' '}
            <span className="number">{halfFrameMs.toFixed(2)} ms</span>)
          </>
        )}
        . Hitches: <b className="number">{hitches('hitchesBefore')}</b> now,{' '}
        <b className={`number ${hitches('hitches') > 0 ? 'rust' : ''}`}>{hitches('hitches')}</b> then;{' '}
        {plural(gained, 'clip gains', 'clips gain')}, {plural(lost, 'loses', 'lose')} some.
      </p>
      {pushed > 0 && (
        <div className="notice" data-tone="sand">
          {plural(pushed, 'cut moves', 'cuts move')} further than that, so that pieces of under a frame keep one.
        </div>
      )}
      {short.length > 0 && (
        <div className="notice" data-tone="sand">
          {plural(short.length, 'clip has', 'clips have')} too few pictures and {short.length === 1 ? 'holds its' : 'hold their'}{' '}
          last one:{' '}
          {short
            .slice(0, 6)
            .map((c) => `${c.source.name}, ${plural(c.missing, 'frame')}`)
            .join('; ')}
        </div>
      )}
      <div className={classes.reportScroll}>
        <table className={classes.report}>
          <thead>
            <tr>
              {['Clip', 'Begins', 'was', 'moves by', 'Frames', 'Hitches'].map((h) => (
                <th key={h}>{h}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {clips.slice(0, LISTED).map(({ before, after, source, hitches: now, hitchesBefore }) => (
              <tr key={before.id}>
                <td>{before.label ?? source.name}</td>
                <td className="number">{clockTimecode(after.start, report.timeline)}</td>
                <td className="number quiet">{clockTimecode(before.start, timeline)}</td>
                <td className="number">{move(cuts.find((c) => c.frame === before.start)?.ms ?? 0)}</td>
                <td className="number">
                  {before.length} &rarr; {after.length}
                </td>
                <td className={`number ${now > hitchesBefore ? 'rust' : now < hitchesBefore ? 'moss' : ''}`}>
                  {hitchesBefore} &rarr; {now}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {clips.length > LISTED && <p className="quiet">and {clips.length - LISTED} more</p>}
      </div>
    </div>
  );
}

function move(ms: number): string {
  return Math.abs(ms) < 0.005 ? '0 ms' : `${ms > 0 ? '+' : '\u2212'}${Math.abs(ms).toFixed(2)} ms`;
}
