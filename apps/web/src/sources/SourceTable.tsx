import { Checkbox } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { CheckSummary, JobReply } from '@thawline/contract';
import { formatDecimalRate, formatRate } from '@thawline/core/time';
import { useRef } from 'react';
import { useProject } from '../api/project.js';
import { pictureAddress } from '../player/pictures.js';
import { useView } from '../state/view.js';
import { clock } from '../words.js';
import { remark } from './remark.js';
import classes from './sources.module.css';

interface Props {
  readonly open: string | null;
  readonly checks: ReadonlyMap<string, CheckSummary>;
  readonly checking: ReadonlyMap<string, JobReply>;
  readonly onOpen: (id: string) => void;
}

const ROW = 52;

/** One row a source; only rows in sight are drawn. Arrow keys go from row to row. */
export function SourceTable({ open, checks, checking, onOpen }: Props) {
  const { project } = useProject();
  const chosen = useView((s) => s.chosenSources);
  const setChosen = useView((s) => s.setChosenSources);
  const scroller = useRef<HTMLDivElement>(null);
  const { sources } = project;
  const rows = useVirtualizer({
    count: sources.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const step = (by: number): void => {
    const at = Math.max(
      0,
      sources.findIndex((s) => s.id === open),
    );
    const next = Math.min(sources.length - 1, Math.max(0, at + by));
    const source = sources[next];
    if (!source) return;
    rows.scrollToIndex(next);
    onOpen(source.id);
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: rows are virtual, which a table element cannot be
    <div
      ref={scroller}
      className={classes.table}
      role="grid"
      aria-rowcount={sources.length}
      aria-label="Sources"
      tabIndex={0}
      onKeyDown={(e) => {
        if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
          e.preventDefault();
          step(e.key === 'ArrowDown' ? 1 : -1);
        }
      }}
    >
      {/* biome-ignore lint/a11y/useSemanticElements: as above */}
      <div className={`${classes.row} ${classes.head}`} role="row" tabIndex={-1}>
        {['', 'Picture', 'Source', 'Stored', 'Measured', 'True', 'Runs', 'What stands out'].map((title) => (
          // biome-ignore lint/a11y/useSemanticElements: as above
          <span key={title} role="columnheader" tabIndex={-1}>
            {title}
          </span>
        ))}
      </div>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map((item) => {
          const source = sources[item.index];
          if (!source) return null;
          const check = checks.get(source.mediaId);
          const job = checking.get(source.mediaId);
          const note = remark(source, check ?? null);
          const odd = check && Math.abs(check.verdict.trueRate / check.verdict.storedRate - 1) > 0.001;
          return (
            // biome-ignore lint/a11y/useSemanticElements: as above
            <div
              key={source.id}
              role="row"
              tabIndex={-1}
              aria-selected={source.id === open}
              className={classes.row}
              style={{ position: 'absolute', top: item.start, height: ROW, left: 0, right: 0 }}
              onClick={() => onOpen(source.id)}
              onKeyDown={(e) => e.key === 'Enter' && onOpen(source.id)}
            >
              <span>
                <Checkbox
                  size="xs"
                  aria-label={`Choose ${source.name}`}
                  checked={chosen.includes(source.id)}
                  onClick={(e) => e.stopPropagation()}
                  onChange={() =>
                    setChosen(chosen.includes(source.id) ? chosen.filter((c) => c !== source.id) : [...chosen, source.id])
                  }
                />
              </span>
              <img
                src={pictureAddress(source.mediaId, Math.floor(source.pictures / 3))}
                alt=""
                className={classes.thumb}
                loading="lazy"
              />
              <b className={classes.name} title={source.name}>
                {source.name}
              </b>
              <span className="number">{formatRate(source.stored)}</span>
              <span className={`number ${source.variable ? 'rust' : ''}`}>{formatRate(source.measured.rate)}</span>
              <span className={`number ${odd ? 'rust' : ''}`}>
                {check
                  ? formatDecimalRate(check.verdict.trueRate)
                  : job
                    ? `${Math.round((100 * job.done) / (job.total ?? source.pictures))} %`
                    : '\u2013'}
              </span>
              <span className="number">{clock(source.seconds)}</span>
              <span className={`${note.tone === 'rust' ? 'rust' : 'quiet'} ${classes.name}`} title={note.text}>
                {note.text}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
