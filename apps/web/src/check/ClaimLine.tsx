import { TextInput } from '@mantine/core';
import { formatRate, rateToNumber, sameRate } from '@thawline/core/time';
import { type Claim, claimedPlaying, judgeClaim, parseClaim, type Verdict } from '@thawline/core/truth';
import { readRate, type Source } from '@thawline/project';
import { useEffect, useRef, useState } from 'react';
import { useProject } from '../api/project.js';
import { timelineRates } from '../rates/rates.js';
import classes from './check.module.css';

/** What the camera is said to take, as it is typed, and what the pictures say to that. */
export function ClaimLine({ source, verdict }: { source: Source; verdict: Pick<Verdict, 'trueRate'> }) {
  const { project, run } = useProject();
  const own = source.claimed ? formatRate(source.claimed) : '';
  const [typed, setTyped] = useState(own);
  const said = useRef(own);
  // An undo, or another tab, changes the claim beneath what is typed here: that counts.
  useEffect(() => {
    setTyped((text) => (formatClaim(text) === own ? text : own));
    said.current = own;
  }, [own]);
  const claim = parseClaim(typed);
  const empty = typed.trim() === '';
  const keep = (): void => {
    // Enter and then leaving the field is one thing said, not two.
    if ((!claim && !empty) || said.current === typed) return;
    said.current = typed;
    const claimed = claim?.rate ?? null;
    const same = claimed === null || source.claimed === null ? claimed === source.claimed : sameRate(claimed, source.claimed);
    if (!same) void run({ type: 'setClaim', sourceIds: [source.id], claimed });
  };
  return (
    <div className={classes.claim}>
      <TextInput
        size="xs"
        aria-label="What the camera claims"
        placeholder="camera claims: 600, 1/24 of 600"
        value={typed}
        onChange={(e) => setTyped(e.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === 'Enter' && keep()}
        error={!claim && !empty ? 'Try 600, or 1/24 of 600.' : undefined}
        w={190}
      />
      {claim && (
        <span data-testid="claim-answer">{answer(claim, source, verdict.trueRate, timelineRates(project)[0]?.rate ?? null)}</span>
      )}
    </div>
  );
}

/** The rate that a typed claim is about, as it is shown; empty for none. */
function formatClaim(text: string): string {
  const claim = parseClaim(text);
  return claim ? formatRate(claim.rate) : '';
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
      : `Not kept: at ${number(slow)} times slower ${formatRate(claim.rate)} would need every picture new; ${number(fits)} fits.`,
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
