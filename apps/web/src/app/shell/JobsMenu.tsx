import { Button, Popover, ScrollArea } from '@mantine/core';
import { useProject } from '../../api/ProjectProvider.js';
import { useJobs } from '../../api/queries.js';
import { JobLine } from '../../shared/jobs/JobLine.js';
import classes from './shell.module.css';

/** Running jobs with their progress, on every view. */
export function JobsMenu() {
  const { id } = useProject();
  const jobs = useJobs(id);
  const active = jobs.filter((j) => j.state === 'running' || j.state === 'queued');
  const paused = jobs.filter((j) => j.state === 'paused');
  const known = active.filter((j) => j.total);
  const share = known.reduce((sum, j) => sum + j.done / (j.total ?? 1), 0) / Math.max(1, active.length);
  const recent = jobs.filter((j) => !active.includes(j) && !paused.includes(j) && j.kind !== 'trial').slice(0, 6);
  const label =
    active.length === 0
      ? 'No jobs'
      : `${active.length} ${active.length === 1 ? 'job' : 'jobs'} \u00b7 ${Math.round(share * 100)}%`;
  return (
    <Popover position="bottom-end" shadow="md">
      <Popover.Target>
        <Button variant="default" size="compact-md" className="number" data-testid="jobs">
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <ScrollArea.Autosize mah={420}>
          {active.length === 0 && recent.length === 0 && (
            <p className="quiet">Checks, proxies and renders show here while they run.</p>
          )}
          {[...active, ...paused, ...recent].map((job) => (
            <div key={job.id} className={classes.job}>
              <JobLine job={job} />
            </div>
          ))}
        </ScrollArea.Autosize>
      </Popover.Dropdown>
    </Popover>
  );
}
