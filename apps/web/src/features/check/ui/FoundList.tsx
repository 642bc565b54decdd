import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useMemo, useRef } from 'react';
import { around } from '../../../app/shell/around.js';
import classes from './check.module.css';

interface Props<T> {
  /** Ascending by `at`. */
  readonly found: readonly T[];
  readonly here: number;
  readonly onGo: (at: number) => void;
  /** Three cells: where, where else, what. */
  readonly row: (one: T) => ReactNode;
  readonly titleOf?: (one: T) => string | undefined;
  readonly testId?: string;
}

/** Findings with their places, the next one kept in sight; as many as there are. */
export function FoundList<T extends { readonly at: number }>({ found, here, onGo, row, titleOf, testId }: Props<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: found.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 6,
  });
  const places = useMemo(() => found.map((f) => f.at), [found]);
  const next = around(places, here).index;
  // Only when another place is gone to: scrolling through the list by hand stays where it is.
  useEffect(() => {
    if (next >= 0) rows.scrollToIndex(next, { align: 'auto' });
  }, [next, rows]);
  return (
    <div ref={scroller} className={classes.found} data-testid={testId}>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ key, start, index }) => {
          const one = found[index];
          if (!one) return null;
          return (
            <button
              type="button"
              key={key}
              style={{ top: start }}
              aria-current={one.at === here}
              onClick={() => onGo(one.at)}
              title={titleOf?.(one)}
            >
              {row(one)}
            </button>
          );
        })}
      </div>
    </div>
  );
}
