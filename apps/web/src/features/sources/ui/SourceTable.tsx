import { useVirtualizer } from '@tanstack/react-virtual';
import type { JobReply } from '@thawline/contract';
import { type CSSProperties, type KeyboardEvent, type MouseEvent, useEffect, useRef } from 'react';
import { pressed } from '../../../shared/keys/shortcuts.js';
import { type SourceOrder, useView } from '../../../shared/state/view.js';
import { clock, plural } from '../../../shared/words.js';
import { nextOrder, rangeOf, stepFrom, toggled } from '../model/choosing.js';
import type { Line } from '../model/sourceList.js';
import { Cell, SourceCells } from './SourceCells.js';
import classes from './sources.module.css';

interface Props {
  readonly lines: readonly Line[];
  readonly open: string | null;
  readonly checking: ReadonlyMap<string, JobReply>;
  readonly onOpen: (id: string) => void;
}

const KEYS = [
  'nextRow',
  'previousRow',
  'chooseDown',
  'chooseUp',
  'pageDown',
  'pageUp',
  'firstRow',
  'lastRow',
  'choose',
  'chooseAll',
  'chooseNone',
] as const;
const ROW = 52;
const GROUP = 34;
const HEADS: readonly [SourceOrder | null, string][] = [
  [null, ''],
  [null, 'Picture'],
  ['name', 'Source'],
  ['stored', 'Stored'],
  ['measured', 'Measured'],
  ['true', 'True'],
  ['read', 'Read at'],
  ['runs', 'Runs'],
  ['uses', 'Uses'],
  ['remark', 'What stands out'],
];

/** One row a source; only rows in sight are drawn. Arrows go from row to row, with shift they choose, space chooses one. */
export function SourceTable({ lines, open, checking, onOpen }: Props) {
  const chosen = useView((s) => s.chosenSources);
  const setChosen = useView((s) => s.setChosenSources);
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef<string | null>(null);
  // The address follows a moment later: keys pressed quickly go on from here.
  const here = useRef(open);
  useEffect(() => {
    here.current = open;
  }, [open]);
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => (lines[i]?.kind === 'group' ? GROUP : ROW),
    getItemKey: (i) => keyOf(lines[i]),
    overscan: 7,
  });
  const ids = lines.flatMap((line) => (line.kind === 'source' ? [line.row.source.id] : []));
  const picked = new Set(chosen);

  const range = (to: string): string[] => rangeOf(ids, anchor.current ?? open ?? to, to);
  const toggle = (id: string): void => {
    anchor.current = id;
    setChosen(toggled(chosen, id));
  };
  const press = (id: string, event: MouseEvent): void => {
    if (event.shiftKey) setChosen(range(id));
    else if (event.ctrlKey || event.metaKey) toggle(id);
    else {
      anchor.current = id;
      setChosen([]);
      onOpen(id);
    }
  };
  const step = (by: number, choosing: boolean): void => {
    const id = stepFrom(ids, here.current, by);
    if (id === undefined) return;
    if (choosing) {
      anchor.current ??= here.current;
      setChosen(range(id));
    } else anchor.current = id;
    here.current = id;
    rows.scrollToIndex(lines.findIndex((line) => line.kind === 'source' && line.row.source.id === id));
    onOpen(id);
  };
  const key = (event: KeyboardEvent): void => {
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? ROW) / ROW) - 2);
    const does: Record<(typeof KEYS)[number], () => void> = {
      nextRow: () => step(1, false),
      previousRow: () => step(-1, false),
      chooseDown: () => step(1, true),
      chooseUp: () => step(-1, true),
      pageDown: () => step(page, false),
      pageUp: () => step(-page, false),
      firstRow: () => step(-ids.length, false),
      lastRow: () => step(ids.length, false),
      choose: () => here.current && toggle(here.current),
      chooseAll: () => setChosen(ids),
      chooseNone: () => setChosen([]),
    };
    const name = pressed(event, KEYS);
    if (!name) return;
    event.preventDefault();
    does[name]();
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: rows are virtual, which a table element cannot be
    <div
      ref={scroller}
      className={classes.table}
      role="grid"
      aria-rowcount={ids.length}
      aria-multiselectable="true"
      aria-label="Sources"
      tabIndex={0}
      onKeyDown={key}
    >
      <Heads />
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map((item) => {
          const line = lines[item.index];
          if (!line) return null;
          const place = { position: 'absolute', top: item.start, height: item.size, left: 0, right: 0 } as const;
          if (line.kind === 'group') return <GroupHead key={item.key} group={line.group} style={place} onChoose={setChosen} />;
          const { source } = line.row;
          return (
            // biome-ignore lint/a11y/useSemanticElements: as above
            <div
              key={item.key}
              role="row"
              tabIndex={-1}
              aria-selected={source.id === open || picked.has(source.id)}
              data-open={source.id === open || undefined}
              data-testid="source-row"
              className={classes.row}
              style={place}
              onClick={(e) => press(source.id, e)}
              onKeyDown={(e) => e.key === 'Enter' && onOpen(source.id)}
            >
              <Cell>
                <input
                  type="checkbox"
                  className={classes.box}
                  tabIndex={-1}
                  aria-label={`Choose ${source.name}`}
                  checked={picked.has(source.id)}
                  onClick={(e) => e.stopPropagation()}
                  onChange={() => toggle(source.id)}
                />
              </Cell>
              <SourceCells row={line.row} job={checking.get(source.mediaId) ?? null} />
            </div>
          );
        })}
      </div>
    </div>
  );
}

function keyOf(line: Line | undefined): string {
  if (!line) return '';
  return line.kind === 'group' ? `group ${line.group.key}` : line.row.source.id;
}

/** The heads of the columns: pressing one sorts. */
function Heads() {
  const list = useView((s) => s.sourceList);
  const setList = useView((s) => s.setSourceList);
  return (
    // biome-ignore lint/a11y/useSemanticElements: as above
    <div className={`${classes.row} ${classes.head}`} role="row" tabIndex={-1}>
      {HEADS.map(([order, title]) => (
        // biome-ignore lint/a11y/useSemanticElements: as above
        <span
          key={title}
          role="columnheader"
          tabIndex={-1}
          aria-sort={order && list.order === order ? (list.down ? 'descending' : 'ascending') : undefined}
        >
          {order ? (
            <button type="button" className={classes.sort} onClick={() => setList(nextOrder(list, order))}>
              {title}
              {list.order === order && <i aria-hidden="true">{list.down ? '\u2193' : '\u2191'}</i>}
            </button>
          ) : (
            title
          )}
        </span>
      ))}
    </div>
  );
}

interface GroupProps {
  readonly group: Extract<Line, { kind: 'group' }>['group'];
  readonly style: CSSProperties;
  readonly onChoose: (ids: string[]) => void;
}

/** The line above the sources of one rate. */
function GroupHead({ group, style, onChoose }: GroupProps) {
  return (
    <div className={classes.group} style={style}>
      <b className="number">{group.label}</b>
      <span className="quiet">
        {plural(group.sources.length, 'source')} &middot; {clock(group.seconds)}
      </span>
      <button type="button" className={classes.plain} onClick={() => onChoose(group.sources.map((s) => s.id))}>
        Choose these
      </button>
    </div>
  );
}
