import { screen, within } from '@testing-library/react';
import type { JobReply } from '@thawline/contract';
import { JobsMenu } from '../../app/shell/JobsMenu.js';
import { Queue } from '../../features/render/ui/Queue.js';
import { FakeEvents, FakeProject, job, projectOf, show, showAlone } from '../../test/project.fixture.js';
import { FakeServer, TurnedDown } from '../../test/server.fixture.js';
import { JobLine } from './JobLine.js';

const buttons = () => screen.getAllByRole('button').map((b) => b.getAttribute('aria-label') ?? b.textContent);

test.each<[Partial<JobReply>, string, string[]]>([
  [{ state: 'running' }, 'measuring pictures 10 of 200', ['Pause floe-drift', 'Stop floe-drift']],
  [{ state: 'queued', phase: 'waiting', total: null }, 'waiting', ['Pause floe-drift', 'Stop floe-drift']],
  [{ state: 'paused', phase: 'paused', total: null }, 'paused', ['Go on with floe-drift', 'Stop floe-drift']],
  [{ state: 'cancelled' }, 'stopped, nothing kept', ['Try again floe-drift']],
  [
    { state: 'failed', error: { code: 'file-missing', message: 'floe-drift is gone.' } },
    'floe-drift is gone.',
    ['Try again floe-drift'],
  ],
])('%j: it says what it is about, and offers what can be done', (other, words, offered) => {
  new FakeServer();
  showAlone(<JobLine job={job(other)} />);
  expect(screen.getByText('Check of floe-drift')).toBeVisible();
  expect(screen.getByText(words)).toBeVisible();
  expect(buttons()).toEqual(offered);
});

test('a finished job offers nothing', () => {
  showAlone(<JobLine job={job({ state: 'done' })} />);
  expect(screen.getByText('done')).toBeVisible();
  expect(screen.queryByRole('button')).not.toBeInTheDocument();
});

test('a press asks the server once; what it turns down is told', async () => {
  const server = new FakeServer().on('stopJob', () => {
    throw new TurnedDown('unknown-job');
  });
  const { user } = showAlone(<JobLine job={job()} />);
  await user.click(screen.getByRole('button', { name: 'Stop floe-drift' }));
  expect(await screen.findByText('There is no such job.')).toBeVisible();
  expect(server.of('stopJob')).toMatchObject([{ parameters: { job: 'j1' } }]);
});

test('the menu counts what runs, and follows the events', async () => {
  const fake = new FakeProject(projectOf());
  fake.jobs = [job({ id: 'a', done: 50, total: 100 }), job({ id: 'b', state: 'queued', done: 0, total: null })];
  await show(<JobsMenu />);
  expect(await screen.findByRole('button', { name: '2 jobs · 25%' })).toBeVisible();
  const [events] = FakeEvents.all;
  events?.onmessage?.({ data: JSON.stringify({ type: 'job', job: job({ id: 'a', state: 'done' }) }) });
  expect(await screen.findByRole('button', { name: '1 job · 0%' })).toBeVisible();
});

describe('the queue', () => {
  const waiting = (id: string) => job({ id, kind: 'render', state: 'queued', label: id, total: null, phase: 'waiting' });

  async function shown() {
    const fake = new FakeProject(projectOf());
    // The newest first, as the server lists them.
    fake.jobs = [waiting('third'), waiting('second'), waiting('first'), job({ id: 'r', kind: 'render', label: 'running one' })];
    fake.server.on('moveJob', () => []);
    const view = await show(<Queue jobs={fake.jobs} />);
    return { fake, queue: within(await screen.findByTestId('queue')), ...view };
  }

  test('what runs stands before what waits, which stands in the order it will run', async () => {
    const { queue } = await shown();
    const lines = queue.getAllByTestId('job').map((line) => line.querySelector('b')?.textContent?.trim());
    expect(lines).toEqual(['running one', 'first', 'second', 'third']);
  });

  test('one step earlier or later asks for a place before another, or behind all', async () => {
    const { queue, user, fake } = await shown();
    expect(queue.getByRole('button', { name: 'Let first come earlier' })).toBeDisabled();
    expect(queue.getByRole('button', { name: 'Let third come later' })).toBeDisabled();
    await user.click(queue.getByRole('button', { name: 'Let second come earlier' }));
    await user.click(queue.getByRole('button', { name: 'Let first come later' }));
    await user.click(queue.getByRole('button', { name: 'Let second come later' }));
    expect(fake.server.of('moveJob').map((a) => [a.parameters.job, (a.body as { before: string | null }).before])).toEqual([
      ['second', 'first'],
      ['first', 'third'],
      ['second', null],
    ]);
  });
});
