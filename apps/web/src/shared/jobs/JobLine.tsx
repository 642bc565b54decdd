import { ActionIcon, Group, Progress } from '@mantine/core';
import { IconPlayerPause, IconPlayerPlay, IconPlayerStop, IconRefresh } from '@tabler/icons-react';
import { address, type JobReply, jobOf } from '@thawline/contract';
import type { ReactNode } from 'react';
import { call } from '../../api/client.js';
import { tellError } from '../../api/notices.js';
import classes from '../../app/shell/shell.module.css';
import { clock, count } from '../words.js';

const ENDED: Partial<Record<JobReply['state'], string>> = { done: 'done', cancelled: 'stopped, nothing kept' };

interface Props {
  readonly job: JobReply;
  /** Shows what is being made. */
  readonly looks?: boolean;
}

/** One job: what it is, how far, how long still, ways to pause and stop it, or to try it again. */
export function JobLine({ job, looks = false }: Props) {
  const { state, label } = job;
  const active = state === 'queued' || state === 'running' || state === 'paused';
  const far = job.total ? `${job.phase} ${count(job.done)} of ${count(job.total)}` : job.phase;
  const text = job.error ? job.error.message : active ? far : (ENDED[state] ?? job.phase);
  return (
    <div data-testid="job" data-state={state} data-kind={job.kind}>
      <Group justify="space-between" wrap="nowrap" gap="xs">
        <b>
          {jobOf(job.kind).title} {label}
        </b>
        <Group gap={6} wrap="nowrap">
          {active && job.secondsLeft !== null && <span className="number quiet">{clock(job.secondsLeft)} left</span>}
          {(state === 'queued' || state === 'running') && (
            <Act job={job} route="pauseJob" does="Pause" icon={<IconPlayerPause size={15} />} />
          )}
          {state === 'paused' && <Act job={job} route="resumeJob" does="Go on with" icon={<IconPlayerPlay size={15} />} />}
          {(state === 'failed' || state === 'cancelled') && (
            <Act job={job} route="againJob" does="Try again" icon={<IconRefresh size={15} />} />
          )}
          {active && <Act job={job} route="stopJob" does="Stop" icon={<IconPlayerStop size={15} />} />}
        </Group>
      </Group>
      <div className={classes.jobLine}>
        {looks && job.picture !== null && (
          <img
            className={classes.jobPicture}
            src={`${address('jobPicture', { job: job.id })}?frame=${job.picture}`}
            alt={`Frame ${job.picture} as it is made`}
            data-testid="making"
          />
        )}
        <div className={classes.jobText}>
          <div className={job.error ? 'rust' : 'quiet'}>{text}</div>
          {active && (
            <Progress value={job.total ? (100 * job.done) / job.total : 0} mt={5} size="sm" aria-label={`Progress of ${label}`} />
          )}
        </div>
      </div>
    </div>
  );
}

interface ActProps {
  readonly job: JobReply;
  readonly route: 'pauseJob' | 'resumeJob' | 'againJob' | 'stopJob';
  readonly does: string;
  readonly icon: ReactNode;
}

function Act({ job, route, does, icon }: ActProps) {
  return (
    <ActionIcon
      variant="subtle"
      size="sm"
      color="gray"
      aria-label={`${does} ${job.label}`}
      title={does}
      onClick={() => void call(route, { parameters: { job: job.id } }).catch(tellError)}
    >
      {icon}
    </ActionIcon>
  );
}
