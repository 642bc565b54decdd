import type { Solution, Tie } from '@thawline/core/align';
import { formatExact, formatRate, rateToNumber } from '@thawline/core/time';
import { readRate, type Source } from '@thawline/project';
import { Fact } from '../../../shared/fact/Fact.js';
import { framesApart } from '../model/pairPlaces.js';
import classes from './align.module.css';
import { PlaceIt } from './PlaceIt.js';

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
      <PlaceIt lead={a} steps={[{ a, b, ties, solution }]} />
    </section>
  );
}
