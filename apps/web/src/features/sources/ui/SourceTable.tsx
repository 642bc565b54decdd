import { useVirtualizer } from '@tanstack/react-virtual';
import type { JobReply } from '@thawline/contract';
import { formatDecimalRate, formatRate } from '@thawline/core/time';
import { isPadded, readSeconds, readsUnevenly, type Source } from '@thawline/project';
import { type ComponentPropsWithoutRef, type KeyboardEvent, type MouseEvent, useEffect, useRef } from 'react';
import { pressed } from '../../../shared/keys/shortcuts.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { type SourceOrder, useView } from '../../../shared/state/view.js';
import { clock, plural, verdictShort } from '../../../shared/words.js';
import type { Line, SourceRow } from '../model/sourceList.js';
import classes from './sources.module.css';
import { Thumb } from './Thumb.js';

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
  const list = useView((s) => s.sourceList);
  const setList = useView((s) => s.setSourceList);
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

  const range = (to: string): string[] => {
    const from = ids.indexOf(anchor.current ?? open ?? to);
    const end = ids.indexOf(to);
    return from < 0 ? [to] : ids.slice(Math.min(from, end), Math.max(from, end) + 1);
  };
  const toggle = (id: string): void => {
    anchor.current = id;
    setChosen(picked.has(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
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
    const at = Math.max(0, ids.indexOf(here.current ?? ''));
    const id = ids[Math.min(ids.length - 1, Math.max(0, at + by))];
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
  const sort = (order: SourceOrder): void => {
    if (list.order !== order) setList({ order, down: false });
    else if (!list.down) setList({ down: true });
    else setList({ order: 'added', down: false });
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
      {/* biome-ignore lint/a11y/useSemanticElements: as above */}
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
              <button type="button" className={classes.sort} onClick={() => sort(order)}>
                {title}
                {list.order === order && <i aria-hidden="true">{list.down ? '\u2193' : '\u2191'}</i>}
              </button>
            ) : (
              title
            )}
          </span>
        ))}
      </div>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map((item) => {
          const line = lines[item.index];
          if (!line) return null;
          const place = { position: 'absolute', top: item.start, height: item.size, left: 0, right: 0 } as const;
          if (line.kind === 'group') {
            const members = line.group.sources.map((s) => s.id);
            return (
              <div key={item.key} className={classes.group} style={place}>
                <b className="number">{line.group.label}</b>
                <span className="quiet">
                  {plural(members.length, 'source')} &middot; {clock(line.group.seconds)}
                </span>
                <button type="button" className={classes.plain} onClick={() => setChosen(members)}>
                  Choose these
                </button>
              </div>
            );
          }
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
              <Cells row={line.row} job={checking.get(source.mediaId) ?? null} />
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

function Cells({ row, job }: { row: SourceRow; job: JobReply | null }) {
  const { source, check, file, uses, remarks } = row;
  const odd = check !== null && isPadded(check.verdict);
  const seconds = row.source.kind === 'still' ? null : readSeconds(source);
  const lost = file && file.state !== 'here' ? (file.state === 'missing' ? 'file missing' : 'file changed') : null;
  const first = remarks[0];
  const other = check ? verdictShort(check.verdict) : source.kind === 'film' && source.sound ? 'sync sound' : '';
  const all = [...(lost ? [lost] : []), ...remarks.map((r) => r.text)];
  const reads = source.readAt !== null && source.measured !== undefined;
  return (
    <>
      <Cell>
        <Thumb source={source} strip={file?.proxy ?? false} />
      </Cell>
      <Cell className={classes.named}>
        <b title={source.name}>{source.name}</b>
        <small className="quiet" title={sizeWords(source)}>
          {sizeWords(source)}
        </small>
      </Cell>
      <Cell className="number">{source.stored ? formatRate(source.stored) : '\u2013'}</Cell>
      <Cell className={`number ${source.variable ? 'rust' : ''}`}>
        {source.measured ? formatRate(source.measured.rate) : '\u2013'}
      </Cell>
      <Cell className={`number ${odd ? 'rust' : ''}`}>
        {check
          ? formatDecimalRate(check.verdict.trueRate)
          : job
            ? `${Math.round((100 * job.done) / (job.total ?? source.pictures))} %`
            : '\u2013'}
      </Cell>
      <Cell className={`number ${classes.readAt}`} data-changed={reads || undefined} title={rateLabel(source)}>
        {readsUnevenly(source) ? 'variable' : rateLabel(source)}
      </Cell>
      <Cell className="number">{seconds === null ? '\u2013' : clock(seconds)}</Cell>
      <Cell className="number">{uses || '\u2013'}</Cell>
      <Cell className={`${lost || first ? 'rust' : 'quiet'} ${classes.name}`} title={all.join('; ') || other}>
        {lost ?? first?.text ?? other}
        {all.length > 1 && <small className="quiet"> +{all.length - 1}</small>}
      </Cell>
    </>
  );
}

/** A cell of a row: rows are virtual, which a table element cannot be. */
function Cell({ children, ...rest }: ComponentPropsWithoutRef<'span'>) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: as above
    // biome-ignore lint/a11y/useFocusableInteractive: keys go to the row
    <span role="gridcell" {...rest}>
      {children}
    </span>
  );
}

/** "640×360 · prog. · 48 kHz": what does not need a column of its own. */
function sizeWords(source: Source): string {
  if (source.kind === 'sound') return soundWords(source);
  const size = `${source.width}\u00d7${source.height}`;
  const fields = source.fields === 'progressive' ? 'prog.' : `${source.fields} first`;
  const sound = source.sound ? `${source.sound.sampleRate / 1000} kHz` : 'no sound';
  if (source.kind === 'still') return `${size} \u00b7 still`;
  return source.kind === 'sequence' ? `${size} \u00b7 ${source.pictures} numbered` : `${size} \u00b7 ${fields} \u00b7 ${sound}`;
}

/** "sound · pcm_s24le · 48 kHz · 2 channels". */
function soundWords({ sound, codec }: Source): string {
  return ['sound', codec, `${(sound?.sampleRate ?? 0) / 1000} kHz`, plural(sound?.channels ?? 0, 'channel')].join(' \u00b7 ');
}
