import { SegmentedControl } from '@mantine/core';
import type { Fit } from '@thawline/core/cadence';
import { formatRate } from '@thawline/core/time';
import { apply, type Clip, passingRate, sourceOf, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { count, plural, speedWords } from '../../../shared/words.js';
import { clipsOfSameRate, type FitPrice, fitPrice, pictureClips, speedSpread, spread } from '../model/fitPrices.js';
import classes from './clip.module.css';

const ROWS: readonly (readonly [Fit, string, string])[] = [
  ['nearest', 'Keep time', 'nearest'],
  ['blend', 'Keep time', 'blend'],
  ['motion', 'Keep time', 'motion'],
  ['pictures', 'Keep pictures', ''],
  ['freeze', 'Freeze', ''],
];

/** Every fit with its length, speed, steps, hitches and pitch: from applying the command to a copy, not from a guess. */
export function FitTable({ timeline, chosen }: { timeline: Timeline; chosen: readonly Clip[] }) {
  const { project, run, timings } = useProject();
  const [all, setAll] = useState(false);
  const clip = chosen[0];
  const source = clip && sourceOf(project, clip.sourceId);
  const kin = useMemo(
    () => (clip && source ? clipsOfSameRate(project, timeline, clip, source) : []),
    [project, timeline, clip, source],
  );
  const meant = all && kin.length > chosen.length ? kin : pictureClips(timeline, chosen);
  const ids = useMemo(() => meant.map((c) => c.id), [meant]);
  const prices = useMemo(() => {
    const of = (fit: Fit): FitPrice | null => {
      const applied = apply(project, { type: 'setFit', timelineId: timeline.id, clipIds: ids, fit }, timings);
      return applied.ok ? fitPrice(applied.project, { timeline, meant, fit, timings }) : null;
    };
    return new Map(ROWS.map(([fit]) => [fit, of(fit)]));
  }, [project, timeline, meant, ids, timings]);
  if (!clip || !source || ids.length === 0) return null;
  const now = meant.every((c) => c.fit === clip.fit) ? clip.fit : null;
  const rate = passingRate(source, clip);
  const hasSound = meant.some((c) => sourceOf(project, c.sourceId)?.sound);
  return (
    <>
      {kin.length > chosen.length && rate && (
        <SegmentedControl
          size="xs"
          mt={6}
          data={[
            {
              value: 'chosen',
              label: chosen.length > 1 ? `${plural(pictureClips(timeline, chosen).length, 'chosen clip')}` : 'This clip',
            },
            { value: 'all', label: `All ${plural(kin.length, 'clip')} at ${formatRate(rate)}` },
          ]}
          value={all ? 'all' : 'chosen'}
          onChange={(value) => setAll(value === 'all')}
        />
      )}
      <table className={classes.fits} aria-label="Fits">
        <thead>
          <tr>
            {['Fit', 'Runs', 'Speed', 'Steps', 'Hitches', 'Uneven', 'Sound'].map((h) => (
              <th key={h}>{h}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.filter(([row]) => row !== 'freeze' || now === 'freeze').map(([row, name, way]) => {
            const price = prices.get(row) ?? null;
            const choose = (): void => {
              if (price && now !== row) void run({ type: 'setFit', timelineId: timeline.id, clipIds: ids, fit: row });
            };
            return (
              <tr key={row} aria-selected={now === row} data-testid={`fit-${row}`} onClick={choose}>
                <td>
                  <button type="button" className={classes.fit} disabled={!price}>
                    <b>{name}</b> {way}
                  </button>
                </td>
                {price ? <PriceCells row={row} price={price} sound={hasSound} /> : <td colSpan={6}>no room</td>}
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

function PriceCells({ row, price, sound }: { row: Fit; price: FitPrice; sound: boolean }) {
  const { seconds, whole, speeds, hitches, blended, made, unevenMs, semitones } = price;
  return (
    <>
      <td className="number">
        {whole > seconds + 0.001 ? (
          <span className="rust" title="There is no room for all of it">
            {seconds.toFixed(2)} of {whole.toFixed(2)} s
          </span>
        ) : (
          `${seconds.toFixed(2)} s`
        )}
      </td>
      <td className="number">{row === 'freeze' ? speedWords(0) : speedSpread(speeds)}</td>
      <td className="number">{price.steps}</td>
      <td className={`number ${hitches > 0 ? 'rust' : ''}`}>
        {made > 0
          ? `${count(hitches)}, ${count(made)} made`
          : blended > 0
            ? `${count(hitches)}, ${count(blended)} blended`
            : hitches > 0
              ? `${count(hitches)}, ${price.perSecond.toFixed(2)}/s`
              : '0'}
      </td>
      <td className="number">{`${unevenMs.toFixed(unevenMs < 10 ? 1 : 0)} ms`}</td>
      <td className="number">
        {!sound || row === 'freeze'
          ? 'none'
          : semitones.every((s) => Math.abs(s) < 0.005)
            ? 'as is'
            : spread(semitones, 2, ' st')}
      </td>
    </>
  );
}
