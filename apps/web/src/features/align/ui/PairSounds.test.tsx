import { jest } from '@jest/globals';
import { screen } from '@testing-library/react';
import type { AlignedReply } from '@thawline/contract';
import { FakeProject, film, job, projectOf, show } from '../../../test/project.fixture.js';
import { solved } from '../model/pairPlaces.js';
import type { Hearing } from '../model/useHearing.js';
import type { PairTies } from '../model/usePairTies.js';
import { PairSounds } from './PairSounds.js';

const [a, b] = [film('skiff-a'), film('skiff-b')];
const ties = [
  { a: 1_000_000, b: 500_000 },
  { a: 7_000_000, b: 6_500_000 },
];
const find = jest.fn();
const clear = jest.fn();
const found = { certainty: 0.99, ties, strikesA: [], strikesB: [] } as unknown as AlignedReply;

async function shown(hearing: Partial<Hearing>, pair: Partial<PairTies> = {}, second = b) {
  new FakeProject(projectOf(a, second)).server.on('wave', () => new ArrayBuffer(0));
  const heard: Hearing = { found, job: undefined, failed: null, find, ...hearing };
  const tied = { ties, ...solved(ties), byHand: false, proposes: true, chosen: null, clear, ...pair } as unknown as PairTies;
  const view = await show(<PairSounds a={a} b={second} hearing={heard} pair={tied} at={2} onAt={() => undefined} />);
  await screen.findByTestId('both-sounds');
  return view;
}
const state = () => screen.getByTestId('align-state');

test('ties say how many they are and where they came from', async () => {
  const { unmount } = await shown({});
  expect(state()).toHaveTextContent('2 ties found by sound');
  expect(screen.queryByRole('button', { name: 'As found by sound' })).not.toBeInTheDocument();
  unmount();
  const { user } = await shown({}, { byHand: true });
  expect(state()).toHaveTextContent('2 ties by hand');
  await user.click(screen.getByRole('button', { name: 'As found by sound' }));
  expect(clear).toHaveBeenCalledTimes(1);
});

test('while the sounds are compared it says how far that is', async () => {
  await shown(
    { found: null, job: job({ kind: 'align', phase: 'listening', done: 50, total: 200 }) },
    { ties: [], ...solved([]) },
  );
  expect(state()).toHaveTextContent('listening 25 %');
  expect(screen.getByRole('button', { name: 'Find by sound' })).toHaveAttribute('data-loading', 'true');
});

test('sounds that do not match are said not to, with what to do', async () => {
  await shown({ found: { ...found, certainty: 0.2, ties: [] } }, { ties: [], ...solved([]), proposes: false });
  expect(screen.getByTestId('no-match')).toHaveTextContent('do not match (20 % certain)');
  expect(state()).toHaveTextContent('no ties yet');
});

test('a failure is told in its own words, and can be tried again', async () => {
  const { user } = await shown({ found: null, failed: { code: 'no-sound', message: 'skiff-b has no sound.' } });
  expect(screen.getByText('skiff-b has no sound.')).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Find by sound' }));
  expect(find).toHaveBeenCalledTimes(1);
});

test('without sound on both sides there is nothing to find by', async () => {
  await shown({ found: null }, {}, film('skiff-b', { sound: null }));
  expect(screen.getByRole('button', { name: 'Find by sound' })).toBeDisabled();
});
