import { Button } from '@mantine/core';
import { useHotkeys } from 'react-hotkeys-hook';
import { around } from './around.js';
import { keysOf } from './shortcuts.js';

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
  useHotkeys(keysOf('back'), () => to(at - 1), { preventDefault: true });
  useHotkeys(keysOf('on'), () => to(at + 1), { preventDefault: true });
  useHotkeys(keysOf('backSecond'), () => to(at - second), { preventDefault: true });
  useHotkeys(keysOf('onSecond'), () => to(at + second), { preventDefault: true });
  useHotkeys(keysOf('first'), () => to(first), { preventDefault: true });
  useHotkeys(keysOf('last'), () => to(last), { preventDefault: true });
  useHotkeys(keysOf('nextFinding'), () => to(next));
  useHotkeys(keysOf('previousFinding'), () => to(previous));
  return { next, previous };
}

interface FindingProps {
  readonly next: number | undefined;
  readonly previous: number | undefined;
  readonly onGo: (to: number) => void;
}

/** The same by mouse. */
export function FindingButtons({ next, previous, onGo }: FindingProps) {
  return [['Previous finding', previous] as const, ['Next finding', next] as const].map(([label, to]) => (
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
