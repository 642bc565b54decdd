import { Button, Group } from '@mantine/core';
import type { Solution } from '@thawline/core/align';
import classes from './align.module.css';
import { type SideProps, Sides } from './Sides.js';

interface Props extends Pick<SideProps, 'a' | 'b' | 'timings'> {
  readonly solution: Solution | null;
  readonly here: { readonly a: number; readonly b: number };
  readonly onA: (seconds: number) => void;
  readonly onB: (seconds: number) => void;
  readonly onTie: () => void;
}

/** A moment that is no tie yet: as the solution has it, so that it is a test of it; or nudged until both show the same, to tie it. */
export function HereCard({ a, b, timings, solution, here, onA, onB, onTie }: Props) {
  return (
    <section className={`sheet ${classes.card}`} data-testid="here">
      <Group justify="space-between" wrap="nowrap">
        <h2 className="heading">{solution ? 'Here, as a test' : 'Here'}</h2>
        <Button size="compact-xs" variant="default" onClick={onTie}>
          Tie here
        </Button>
      </Group>
      <Sides a={a} b={b} timings={timings} moments={here} onNudge={(side, by) => (side === 'a' ? onA(by) : onB(by))} />
    </section>
  );
}
