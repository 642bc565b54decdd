import { ActionIcon, Group, Progress } from '@mantine/core';
import { IconPlayerStop } from '@tabler/icons-react';
import type { JobReply } from '@thawline/contract';
import { call } from '../api/client.js';
import { tellError } from '../api/project.js';
import { clock, count } from '../words.js';

const KINDS: Record<JobReply['kind'], string> = {
  proxy: 'Proxy of',
  sound: 'Sound of',
  align: 'Alignment of',
  check: 'Check of',
  compare: 'Comparison of',
  heldout: 'Held-out test of',
  pan: 'Pans of',
  render: '',
};
const ENDED: Partial<Record<JobReply['state'], string>> = { done: 'done', cancelled: 'stopped, nothing kept' };

/** One job: what it is, how far, how long still, a way to stop it. */
export function JobLine({ job }: { job: JobReply }) {
  const active = job.state === 'queued' || job.state === 'running';
  const far = job.total ? `${job.phase} ${count(job.done)} of ${count(job.total)}` : job.phase;
  const text = job.error ? job.error.message : active ? far : (ENDED[job.state] ?? job.phase);
  return (
    <div data-testid="job" data-state={job.state}>
      <Group justify="space-between" wrap="nowrap" gap="xs">
        <b>
          {KINDS[job.kind]} {job.label}
        </b>
        {active && (
          <Group gap={6} wrap="nowrap">
            {job.secondsLeft !== null && <span className="number quiet">{clock(job.secondsLeft)} left</span>}
            <ActionIcon
              variant="subtle"
              size="sm"
              color="gray"
              aria-label={`Stop ${job.label}`}
              title="Stop"
              onClick={() => void call('stopJob', { parameters: { job: job.id } }).catch(tellError)}
            >
              <IconPlayerStop size={15} />
            </ActionIcon>
          </Group>
        )}
      </Group>
      <div className={job.error ? 'rust' : 'quiet'}>{text}</div>
      {active && (
        <Progress value={job.total ? (100 * job.done) / job.total : 0} mt={5} size="sm" aria-label={`Progress of ${job.label}`} />
      )}
    </div>
  );
}
