import { screen, waitFor, within } from '@testing-library/react';
import { FakeProject, film, job, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { Queue } from './Queue.js';

const waiting = (id: string, label: string, createdAt: string) =>
  job({
    id,
    label,
    kind: 'render',
    state: 'queued',
    subject: 't',
    createdAt,
    phase: '',
    done: 0,
    total: null,
    secondsLeft: null,
  });

/** As the server lists them: the newest first. */
const THREE = [
  waiting('r3', 'third cut', '2026-04-02T09:03:00.000Z'),
  waiting('r2', 'second cut', '2026-04-02T09:02:00.000Z'),
  waiting('r1', 'first cut', '2026-04-02T09:01:00.000Z'),
];

async function shown(jobs: Parameters<typeof Queue>[0]['jobs']) {
  const fake = new FakeProject(projectOf(film('jetty-pan')));
  fake.server.on('moveJob', () => []);
  const view = await show(<Queue jobs={jobs} />);
  const queue = within(await screen.findByTestId('queue'));
  const moves = () => fake.server.of('moveJob').map((a) => [a.parameters.job, (a.body as { before: string | null }).before]);
  return { fake, queue, moves, ...view };
}

test('an empty queue says what will stand there', async () => {
  const { queue } = await shown([]);
  expect(queue.getByText(/^Nothing\. A render shows its progress here/)).toBeVisible();
});

test('the oldest of those that wait comes first', async () => {
  const { queue } = await shown(THREE);
  const labels = queue.getAllByRole('button', { name: /come earlier/ }).map((b) => b.getAttribute('aria-label'));
  expect(labels).toEqual(['first', 'second', 'third'].map((n) => `Let ${n} cut come earlier`));
});

test('one that waits is moved before another, or behind all', async () => {
  const { queue, user, moves } = await shown(THREE);
  await user.click(queue.getByRole('button', { name: 'Let third cut come earlier' }));
  await user.click(queue.getByRole('button', { name: 'Let first cut come later' }));
  await user.click(queue.getByRole('button', { name: 'Let second cut come later' }));
  await waitFor(() => expect(moves()).toHaveLength(3));
  expect(moves()).toEqual([
    ['r3', 'r2'],
    ['r1', 'r3'],
    ['r2', null],
  ]);
});

test('the first cannot come earlier, nor the last later', async () => {
  const { queue } = await shown(THREE);
  expect(queue.getByRole('button', { name: 'Let first cut come earlier' })).toBeDisabled();
  expect(queue.getByRole('button', { name: 'Let third cut come later' })).toBeDisabled();
});

test('one alone has nowhere to go: no grip and no buttons for it', async () => {
  const { queue } = await shown([job({ kind: 'render' }), ...THREE.slice(2)]);
  expect(queue.queryByTestId('grip')).not.toBeInTheDocument();
  expect(queue.queryByRole('button', { name: /come earlier/ })).not.toBeInTheDocument();
});

test('what the server does not move is told', async () => {
  const { fake, queue, user } = await shown(THREE);
  fake.server.on('moveJob', () => {
    throw new TurnedDown('disk-full');
  });
  await user.click(queue.getByRole('button', { name: 'Let third cut come earlier' }));
  expect(await screen.findByRole('alert')).toHaveTextContent(/disk/i);
});

test('renders that failed stay, with why, up to four; other jobs that ended do not', async () => {
  const failed = [1, 2, 3, 4, 5].map((n) =>
    job({
      id: `f${n}`,
      label: `lost cut ${n}`,
      kind: 'render',
      state: 'failed',
      error: { code: 'disk-full', message: 'The disk is full.' },
      endedAt: '2026-04-02T09:10:00.000Z',
    }),
  );
  const { queue } = await shown([
    ...failed,
    job({ id: 'c', state: 'failed', label: 'a check', error: { code: 'disk-full', message: 'It ended.' } }),
  ]);
  expect(queue.getAllByText(/lost cut/)).toHaveLength(4);
  expect(queue.getAllByText(/The disk is full\./)).toHaveLength(4);
  expect(queue.queryByText(/a check/)).not.toBeInTheDocument();
});
