import { Button, Group } from '@mantine/core';
import type { Solution, Tie } from '@thawline/core/align';
import { rateToNumber } from '@thawline/core/time';
import { readRate } from '@thawline/project';
import classes from './align.module.css';
import { type SideProps, Sides } from './Sides.js';

interface Props extends Pick<SideProps, 'a' | 'b' | 'timings'> {
  readonly ties: readonly Tie[];
  readonly solution: Solution | null;
  readonly index: number;
  readonly title: string;
  readonly onNudge: (index: number, side: 'a' | 'b', seconds: number) => void;
  readonly onChoose: (index: number) => void;
  readonly onUntie?: () => void;
}

/** One tie: both pictures, what is left over there, and its nudges. */
export function TieCard({ a, b, timings, ties, solution, index, title, onNudge, onChoose, onUntie }: Props) {
  const tie = ties[index];
  if (!tie) return null;
  const left = (solution?.leftOver[index] ?? 0) * 1000;
  const out = solution?.outliers.includes(index) ?? false;
  const rate = readRate(a);
  const frames = rate ? ` \u00b7 ${Math.abs((left / 1000) * rateToNumber(rate)).toFixed(3)} frames` : '';
  return (
    <section className={`sheet ${classes.card}`} data-testid={`tie-${index}`}>
      <Group justify="space-between" wrap="nowrap">
        <button type="button" className={classes.title} onClick={() => onChoose(index)}>
          {title}
        </button>
        <span className={`number ${out ? 'rust' : Math.abs(left) < 1 ? 'moss' : 'sand'}`} data-testid="tie-left">
          {out ? `left out: off by ${left.toFixed(1)} ms` : `off by ${signed(left)} ms${frames}`}
        </span>
        {onUntie && (
          <Button size="compact-xs" variant="default" onClick={onUntie}>
            Untie
          </Button>
        )}
      </Group>
      <Sides
        a={a}
        b={b}
        timings={timings}
        moments={{ a: tie.a / 1e6, b: tie.b / 1e6 }}
        onNudge={(side, by) => onNudge(index, side, by)}
      />
    </section>
  );
}

/** Two decimals, and no minus before nothing. */
function signed(ms: number): string {
  return (Math.abs(ms) < 0.005 ? 0 : ms).toFixed(2);
}
