import { SegmentedControl } from '@mantine/core';
import { cadenceFacts, type Fit, fitMakes, longestRun } from '@thawline/core/cadence';
import { formatRate, rateToNumber } from '@thawline/core/time';
import {
  apply,
  type Clip,
  cadenceOf,
  clipEnd,
  ownRate,
  type Project,
  passingRate,
  type Source,
  sourceOf,
  type Timeline,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { count, plural, speedWords } from '../../../shared/words.js';
import classes from './clip.module.css';

const ROWS: readonly (readonly [Fit, string, string])[] = [
  ['nearest', 'Keep time', 'nearest'],
  ['blend', 'Keep time', 'blend'],
  ['motion', 'Keep time', 'motion'],
  ['pictures', 'Keep pictures', ''],
  ['freeze', 'Freeze', ''],
];

/** What a fit comes to, over one clip or many. */
interface Price {
  readonly seconds: number;
  /** Length all pictures would take where there is no room for them. */
  readonly whole: number;
  readonly speeds: readonly number[];
  readonly steps: string;
  readonly hitches: number;
  readonly perSecond: number;
  readonly blended: number;
  /** Pictures made by motion. */
  readonly made: number;
  /** The worst of the clips, in ms. */
  readonly unevenMs: number;
  readonly semitones: readonly number[];
}

/** Every fit with its length, speed, steps, hitches and pitch: from applying the command to a copy, not from a guess. */
export function FitTable({ timeline, chosen }: { timeline: Timeline; chosen: readonly Clip[] }) {
  const { project, run, timings } = useProject();
  const [all, setAll] = useState(false);
  const clip = chosen[0];
  const source = clip && sourceOf(project, clip.sourceId);
  const kin = useMemo(
    () => (clip && source ? ofSameRate(project, timeline, clip, source) : []),
    [project, timeline, clip, source],
  );
  const meant = all && kin.length > chosen.length ? kin : pictureClips(timeline, chosen);
  const ids = useMemo(() => meant.map((c) => c.id), [meant]);
  const prices = useMemo(() => {
    const of = (fit: Fit): Price | null => {
      const applied = apply(project, { type: 'setFit', timelineId: timeline.id, clipIds: ids, fit }, timings);
      return applied.ok ? priceOf(applied.project, timeline, meant, fit, timings) : null;
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

function PriceCells({ row, price, sound }: { row: Fit; price: Price; sound: boolean }) {
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

function speedSpread(speeds: readonly number[]): string {
  const [low, high] = [speedWords(Math.min(...speeds)), speedWords(Math.max(...speeds))];
  return low === high ? low : `${low}\u2013${high}`;
}

/** One number, or the least and the most. */
function spread(values: readonly number[], digits: number, unit: string): string {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const one = low.toFixed(digits);
  return one === high.toFixed(digits) ? `${one}${unit}` : `${one}\u2013${high.toFixed(digits)}${unit}`;
}

function pictureClips(timeline: Timeline, clips: readonly Clip[]): readonly Clip[] {
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  const pictures = clips.filter((c) => lanes.has(c.laneId));
  return pictures.length > 0 ? pictures : clips;
}

/** Picture clips whose pictures pass at the same rate as this one's. */
function ofSameRate(project: Project, timeline: Timeline, clip: Clip, source: Source): Clip[] {
  const rate = passingRate(source, clip);
  const key = rate && formatRate(rate);
  const lanes = new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id));
  return timeline.clips.filter((c) => {
    const other = lanes.has(c.laneId) ? sourceOf(project, c.sourceId) : undefined;
    const passing = other && passingRate(other, c);
    return passing && formatRate(passing) === key;
  });
}

function priceOf(
  after: Project,
  timeline: Timeline,
  meant: readonly Clip[],
  fit: Fit,
  timings: Parameters<typeof cadenceOf>[3],
): Price | null {
  const changed = after.timelines.find((t) => t.id === timeline.id);
  if (!changed) return null;
  const there = new Map(changed.clips.map((c) => [c.id, c]));
  let seconds = 0;
  let whole = 0;
  let hitches = 0;
  let blended = 0;
  let made = 0;
  let unevenMs = 0;
  let steps = '';
  const speeds: number[] = [];
  const semitones: number[] = [];
  for (const clip of meant) {
    const now = there.get(clip.id);
    const cadence = now && cadenceOf(after, changed, now, timings);
    if (!now || !cadence) continue;
    const { source, mapping, map } = cadence;
    const facts = cadenceFacts(mapping, map, ownRate(source));
    // A clip that has no room for all its pictures is cut by the next one: said beside its length.
    const cut =
      source.kind !== 'still' &&
      fit !== 'freeze' &&
      (clip.fit === 'pictures') !== (fit === 'pictures') &&
      clipEnd(now) > now.start;
    whole += cut ? Math.max(facts.seconds, longestRun(mapping) / rateToNumber(timeline.rate)) : facts.seconds;
    seconds += facts.seconds;
    hitches += facts.hitches;
    blended += facts.blended;
    made += facts.made;
    unevenMs = Math.max(unevenMs, facts.unevennessMs);
    speeds.push(facts.speed);
    semitones.push(facts.semitones);
    if (steps === '') {
      const runs = passingRate(source, now);
      steps =
        fitMakes(fit) && runs
          ? `even ${(rateToNumber(runs) / rateToNumber(timeline.rate)).toFixed(3)}`
          : [...map.steps.slice(1, 7)].join(' ');
    }
  }
  if (speeds.length === 0) return null;
  const perSecond = seconds > 0 ? hitches / seconds : 0;
  return { seconds, whole, speeds, steps, hitches, perSecond, blended, made, unevenMs, semitones };
}
