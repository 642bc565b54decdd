import { TextInput } from '@mantine/core';
import { formatRate, rateToNumber, sameRate } from '@thawline/core/time';
import { type Claim, claimedPlaying, judgeClaim, type Verdict } from '@thawline/core/truth';
import { readRate, type Source } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { timelineRates } from '../../../shared/rates/rates.js';
import { CLAIM_HINT, useClaim } from '../../../shared/rates/useClaim.js';
import classes from './check.module.css';

/** What the camera is said to take, as it is typed, and what the pictures say to that. */
export function ClaimLine({ source, verdict }: { source: Source; verdict: Pick<Verdict, 'trueRate'> }) {
  const { project } = useProject();
  const { typed, type, claim, wrong, keep } = useClaim(source);
  return (
    <div className={classes.claim}>
      <TextInput
        size="xs"
        aria-label="What the camera claims"
        placeholder="camera claims: 600, 1/24 of 600"
        value={typed}
        onChange={(e) => type(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === 'Enter' && keep()}
        error={wrong ? CLAIM_HINT : undefined}
        w={240}
      />
      {claim && (
        <span data-testid="claim-answer">{answer(claim, source, verdict.trueRate, timelineRates(project)[0]?.rate ?? null)}</span>
      )}
    </div>
  );
}

function answer(claim: Claim, source: Source, trueRate: number, timeline: { num: number; den: number } | null): string {
  const measured = source.measured?.rate ?? readRate(source);
  if (!measured) return '';
  const { kept, fits, slow } = judgeClaim(claim.rate, measured, trueRate);
  const playing = claimedPlaying(claim);
  const number = (n: number): string => String(Number(n.toFixed(2)));
  const parts = [
    kept
      ? `Kept: every picture of ${formatRate(claim.rate)} is new.`
      : `Not kept: ${slow > 1.005 ? `played ${number(slow)} times slower than it was shot, a claim of ${formatRate(claim.rate)}` : `a claim of ${formatRate(claim.rate)}`} wants every picture new. What is new here fits a claim of ${number(fits)}.`,
  ];
  if (playing && !sameRate(playing, measured))
    parts.push(`It would play at ${formatRate(playing)}; this file plays at ${formatRate(measured)}.`);
  if (timeline) {
    const slowest = rateToNumber(timeline) / fits;
    parts.push(
      slowest >= 1
        ? `A timeline of ${formatRate(timeline)} shows it at full speed only.`
        : `At ${formatRate(timeline)} it stays smooth down to 1/${number(1 / slowest)} of real speed.`,
    );
  }
  return parts.join(' ');
}
