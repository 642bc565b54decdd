import { Button } from '@mantine/core';
import type { CheckSummary, ComparisonSummary, JobReply } from '@thawline/contract';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks, useJobs } from '../../../api/queries.js';
import { useGo } from '../../../shared/state/places.js';
import { plural, verdictShort } from '../../../shared/words.js';
import { useComparisons, useMoving } from '../model/queries.js';
import { timelineShort, useTimelineChecks } from '../model/timelineChecks.js';
import { CompareSheet } from './CompareSheet.js';
import classes from './check.module.css';

/** What was checked and compared, and the way to more of it. */
export function CheckList({ source, comparison, timeline }: { source?: string; comparison?: string; timeline?: string }) {
  const { id, project } = useProject();
  const judged = useTimelineChecks();
  const go = useGo();
  const moving = useMoving();
  const checks = useChecks(id);
  const jobs = useJobs(id);
  const comparisons = useComparisons(id);
  const [asking, setAsking] = useState(false);
  const running = (s: Source): JobReply | null =>
    jobs.find((j) => j.kind === 'check' && j.subject === s.mediaId && (j.state === 'running' || j.state === 'queued')) ?? null;
  return (
    <aside className={`sheet ${classes.list}`}>
      <h2 className="heading">Checked</h2>
      {moving.map((s) => (
        <button type="button" key={s.id} aria-current={s.id === source} onClick={() => go('check', s.id)} title={s.name}>
          <b>{s.name}</b>
          <small className={tone(checks.get(s.mediaId))}>{said(checks.get(s.mediaId) ?? null, running(s))}</small>
        </button>
      ))}
      {project.timelines.length > 0 && <h2 className={`heading ${classes.second}`}>Timelines</h2>}
      {project.timelines.map((t) => {
        const check = judged.get(t.id);
        return (
          <button
            type="button"
            key={t.id}
            aria-current={t.id === timeline}
            onClick={() => go('check', 'timeline', t.id)}
            title={t.name}
          >
            <b>{t.name}</b>
            {check && <small className={check.findings.length > 0 ? 'rust' : 'moss'}>{timelineShort(check)}</small>}
          </button>
        );
      })}
      <h2 className={`heading ${classes.second}`}>Compared</h2>
      {comparisons.map((c) => (
        <button
          type="button"
          key={c.jobId}
          aria-current={c.jobId === comparison}
          onClick={() => go('check', 'compare', c.jobId)}
          title={`${c.names.a} and ${c.names.b}`}
        >
          <b>
            {c.names.a} &rarr; {c.names.b}
          </b>
          <small className={comparedTone(c)}>{compared(c)}</small>
        </button>
      ))}
      <div className={classes.more}>
        <Button variant="default" size="compact-md" disabled={moving.length < 2} onClick={() => setAsking(true)}>
          Compare two&hellip;
        </Button>
      </div>
      <CompareSheet opened={asking} onClose={() => setAsking(false)} first={source} />
    </aside>
  );
}

function tone(check: CheckSummary | undefined): string {
  if (!check) return 'quiet';
  const { kind, held, jumps, faults } = check.verdict;
  return kind === 'new' && held.length + jumps.length + faults.length === 0 ? 'moss' : 'rust';
}

function said(check: CheckSummary | null, running: JobReply | null): string {
  if (running) return running.total ? `checking ${Math.round((100 * running.done) / running.total)} %` : 'waiting';
  return check ? verdictShort(check.verdict) : 'not checked';
}

/** Below this certainty two files do not show the same. */
export const SAME_FROM = 0.5;

function comparedTone(c: ComparisonSummary): string {
  return c.certainty >= SAME_FROM && c.droppedFromA.length + c.repeatedInB.length + c.blendsInB.length === 0 ? 'moss' : 'rust';
}

/** "40 dropped, 3 repeated", "the same", "not the same". */
export function compared(c: ComparisonSummary): string {
  if (c.certainty < SAME_FROM) return 'not the same pictures';
  const parts = [
    c.droppedFromA.length > 0 ? `${c.droppedFromA.length} dropped` : '',
    c.repeatedInB.length > 0 ? `${c.repeatedInB.length} repeated` : '',
    c.blendsInB.length > 0 ? `${c.blendsInB.length} mixed` : '',
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(', ') : `the same, ${plural(c.picturesB, 'picture')}`;
}
