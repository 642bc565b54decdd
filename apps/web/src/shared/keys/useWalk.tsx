import { Button } from '@mantine/core';
import { around } from '../../app/shell/around.js';
import { useShortcut } from './useShortcut.js';

interface Walk {
  /** Where it stands, among numbers from first to last. */
  readonly at: number;
  readonly first: number;
  readonly last: number;
  /** How far a second is; 0 where there is none. */
  readonly second: number;
  readonly onGo: (to: number) => void;
  /** What is walked to by its own keys, ascending. */
  readonly found?: readonly number[];
}

/** The keys that walk pictures or frames: one, a second, to the ends, from finding to finding. Gives the findings on both sides. */
export function useWalk({ at, first, last, second, onGo, found = [] }: Walk): {
  next: number | undefined;
  previous: number | undefined;
} {
  const to = (wanted: number | undefined): void => {
    if (wanted !== undefined) onGo(Math.max(first, Math.min(last, wanted)));
  };
  const { next, previous } = around(found, at);
  useShortcut('back', () => to(at - 1), { preventDefault: true });
  useShortcut('on', () => to(at + 1), { preventDefault: true });
  useShortcut('backSecond', () => to(at - second), { preventDefault: true });
  useShortcut('onSecond', () => to(at + second), { preventDefault: true });
  useShortcut('first', () => to(first), { preventDefault: true });
  useShortcut('last', () => to(last), { preventDefault: true });
  useShortcut('nextFinding', () => to(next));
  useShortcut('previousFinding', () => to(previous));
  return { next, previous };
}

interface FindingProps {
  /** Of one kind only: "cut". */
  readonly what?: string;
  readonly next: number | undefined;
  readonly previous: number | undefined;
  readonly onGo: (to: number) => void;
}

/** The same by mouse. */
export function FindingButtons({ what = 'finding', next, previous, onGo }: FindingProps) {
  return [[`Previous ${what}`, previous] as const, [`Next ${what}`, next] as const].map(([label, to]) => (
    <Button
      key={label}
      size="compact-sm"
      variant="default"
      disabled={to === undefined}
      onClick={() => to !== undefined && onGo(to)}
    >
      {label}
    </Button>
  ));
}
