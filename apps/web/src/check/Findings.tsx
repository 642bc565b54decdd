import { Button, Menu } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { address } from '@thawline/contract';
import { formatTimecode, rate } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import { ownRate, type Source, stretchWords } from '@thawline/project';
import { useEffect, useRef, useState } from 'react';
import { useChecks, useProject } from '../api/project.js';
import { ReadAt } from '../sources/ReadAt.js';
import { count } from '../words.js';
import classes from './check.module.css';

/** What a check can be saved as. */
const FORMS = [
  ['html', 'A page to print'],
  ['csv', 'Findings as CSV'],
  ['json', 'Everything as JSON'],
  ['otio', 'Marks in an .otio'],
  ['edl', 'Marks in an .edl'],
] as const;

interface Props {
  readonly source: Source;
  readonly verdict: Pick<Verdict, 'held' | 'jumps' | 'stretches'>;
  /** Pictures by how long they stay, from runLengths. */
  readonly runs: readonly number[];
  readonly picture: number;
  readonly onPicture: (picture: number | undefined) => void;
  readonly onAgain: () => void;
  readonly running: boolean;
}

/** How long pictures hold, the stretches, and every finding with its place. */
export function Findings({ source, verdict, runs, picture, onPicture, onAgain, running }: Props) {
  const { id } = useProject();
  const checks = useChecks(id);
  const [keeping, setKeeping] = useState(false);
  const scroller = useRef<HTMLDivElement>(null);
  const found = [...verdict.held.map((at) => ({ at, what: 'held' })), ...verdict.jumps.map((at) => ({ at, what: 'jump' }))].sort(
    (a, b) => a.at - b.at,
  );
  const rows = useVirtualizer({
    count: found.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 6,
  });
  const here = found.findIndex((f) => f.at >= picture);
  // Only when another picture is gone to: scrolling through the list by hand stays where it is.
  useEffect(() => {
    if (here >= 0) rows.scrollToIndex(here, { align: 'auto' });
  }, [here, rows]);
  const bars = runs.slice(1, 9);
  const most = Math.max(1, ...bars);
  return (
    <aside className={`sheet ${classes.findings}`}>
      <h2 className="heading">How long pictures hold</h2>
      <div className={classes.runs}>
        {bars.map((n, i) => (
          <div key={i} title={`${count(n)} stay for ${i + 1}`}>
            <i style={{ height: `${(n / most) * 100}%` }} data-held={i > 0 || undefined} />
            <small className="number">{i + 1}</small>
          </div>
        ))}
      </div>
      <h2 className="heading">Stretches</h2>
      {verdict.stretches.map((s) => (
        <button type="button" key={s.from} className={classes.stretch} onClick={() => onPicture(s.from)}>
          <span className="number">
            {s.from}&ndash;{s.to - 1}
          </span>
          <span>{stretchWords(s.pattern)}</span>
          <b className="number">{s.trueRate === null ? '\u2013' : s.trueRate.toFixed(3)}</b>
        </button>
      ))}
      <h2 className="heading">
        Findings{' '}
        <span className="quiet">
          {found.length === 0 ? 'none' : `${count(verdict.held.length)} held, ${count(verdict.jumps.length)} jumps`}
        </span>
      </h2>
      <div ref={scroller} className={classes.found}>
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map((row) => {
            const finding = found[row.index];
            if (!finding) return null;
            return (
              <button
                type="button"
                key={row.key}
                style={{ top: row.start }}
                aria-current={finding.at === picture}
                onClick={() => onPicture(finding.at)}
              >
                <span className="number">{formatTimecode(finding.at, ownRate(source) ?? rate(25))}</span>
                <span className="number quiet">{finding.at}</span>
                <span className={finding.what === 'held' ? classes.held : 'rust'}>{finding.what}</span>
              </button>
            );
          })}
        </div>
      </div>
      {verdict.held.length > 0 && (
        <Button size="compact-md" onClick={() => setKeeping(true)}>
          Keep new pictures only&hellip;
        </Button>
      )}
      <Menu position="top-end">
        <Menu.Target>
          <Button variant="default" size="compact-md">
            Save report
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {FORMS.map(([form, label]) => (
            <Menu.Item
              key={form}
              component="a"
              href={address('report', { project: id, source: source.id, form })}
              {...(form === 'html' ? { target: '_blank', rel: 'noreferrer' } : { download: true })}
            >
              {label}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Button variant="default" size="compact-md" onClick={onAgain} loading={running}>
        Check again
      </Button>
      {keeping && <ReadAt sources={[source]} checks={checks} suggested={{ origin: 'new' }} onClose={() => setKeeping(false)} />}
    </aside>
  );
}
