import { jest } from '@jest/globals';
import { screen } from '@testing-library/react';
import { showAlone } from '../../../test/project.fixture.js';
import type { Adding } from '../model/adding.js';
import { AddProgress, AddReport } from './AddProgress.js';

const acts = { add: jest.fn(), dismiss: jest.fn(), stop: jest.fn(), pause: jest.fn(), goOn: jest.fn() };
const adding = (other: Partial<Adding>): Adding => ({ progress: null, report: null, ...acts, ...other }) as Adding;
const progress = { name: 'long-take.wav', done: 1, total: 4, sent: 2_000_000, bytes: 8_000_000, paused: false };

test('with nothing under way there is nothing to see', () => {
  const { container } = showAlone(
    <>
      <AddProgress adding={adding({})} />
      <AddReport adding={adding({})} />
    </>,
  );
  expect(container.querySelector('[role=status]')).toBeNull();
});

test('a file on its way says how much of it is there, and pauses and stops', async () => {
  const { user } = showAlone(<AddProgress adding={adding({ progress })} />);
  expect(screen.getByRole('status')).toHaveTextContent('Adding long-take.wav: 2.0 MB of 8.0 MB · 2 of 4');
  // A file and a quarter of four.
  expect(screen.getByRole('progressbar')).toHaveAttribute('aria-valuenow', '31.25');
  await user.click(screen.getByRole('button', { name: 'Pause' }));
  await user.click(screen.getByRole('button', { name: 'Stop' }));
  expect([acts.pause, acts.stop].map((f) => f.mock.calls.length)).toEqual([1, 1]);
});

test('a paused one says so and goes on', async () => {
  const { user } = showAlone(<AddProgress adding={adding({ progress: { ...progress, paused: true } })} />);
  expect(screen.getByRole('status')).toHaveTextContent('Paused long-take.wav');
  await user.click(screen.getByRole('button', { name: 'Go on' }));
  expect(acts.goOn).toHaveBeenCalledTimes(1);
});

test.each([
  ['all of it is sent', 8_000_000],
  ['it is used in place', null],
])('while a file is read it cannot pause: %s', (_, sent) => {
  showAlone(<AddProgress adding={adding({ progress: { ...progress, sent, total: 1, done: 0 } })} />);
  expect(screen.getByRole('status')).toHaveTextContent(/^Reading long-take\.wav/);
  expect(screen.queryByRole('button', { name: 'Pause' })).not.toBeInTheDocument();
  expect(screen.getByRole('button', { name: 'Stop' })).toBeVisible();
});

test('what was refused is told by name beside what was added, and put away', async () => {
  const refused = [{ file: 'notes.mp4', message: 'notes.mp4 is no film.' }];
  const { user } = showAlone(<AddReport adding={adding({ report: { added: 3, passed: [], refused } })} />);
  expect(screen.getByRole('status')).toHaveTextContent('Added 3 sources.');
  expect(screen.getByText(/notes\.mp4 is no film\./)).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Dismiss' }));
  expect(acts.dismiss).toHaveBeenCalledTimes(1);
});

test('where all went well there is no report', () => {
  showAlone(<AddReport adding={adding({ report: { added: 3, passed: [], refused: [] } })} />);
  expect(screen.queryByRole('status')).not.toBeInTheDocument();
});
