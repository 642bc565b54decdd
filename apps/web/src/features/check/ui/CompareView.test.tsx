import { screen, waitFor, within } from '@testing-library/react';
import type { ComparisonReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { FakeProject, film, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { CompareView } from './CompareView.js';

/** 40 pictures of a as 39 of b: picture 12 is left out, 30 of b shows 30 of a again, and 20 of b is mixed. */
const path = Array.from({ length: 39 }, (_, b): [number, number] => [b < 12 ? b : b < 30 ? b + 1 : b, b]);
const FOUND: ComparisonReply = {
  jobId: 'c1',
  a: 'master',
  b: 'copy',
  names: { a: 'master', b: 'copy' },
  madeAt: '2026-04-02T09:00:00.000Z',
  offsetSeconds: 0.04,
  speed: 1,
  rateA: rate(25),
  rateB: rate(25),
  picturesA: 42,
  picturesB: 39,
  certainty: 0.998,
  missing: { headA: 0, tailA: 3, headB: 0, tailB: 0 },
  droppedFromA: [12],
  repeatedInB: [30],
  blendsInB: [{ b: 20, a: 21, share: 0.25 }],
  path,
};

async function shown(other: Partial<ComparisonReply> = {}, at = 0) {
  const sources = ['master', 'copy'].map((name) => film(name, { sound: null }));
  const fake = new FakeProject(projectOf(...sources));
  const found = { ...FOUND, ...other };
  const { path: _, ...summary } = found;
  fake.server
    .on('comparison', () => found)
    .on('comparisons', () => [summary])
    .on('startJobs', () => []);
  const view = await show(<CompareView />, `/p/p/check/compare/c1/${at}`, '/p/:project/check/compare/:job/:picture?');
  const compared = await screen.findByTestId('comparison');
  return { fake, compared, ...view };
}
const placeOf = (router: { state: { location: { pathname: string } } }) => router.state.location.pathname.split('/').at(-1);

test('how two match is told in numbers and in a sentence', async () => {
  const { compared } = await shown();
  expect(compared).toHaveTextContent('0.040 s');
  expect(compared).toHaveTextContent('99.8 %');
  expect(compared).toHaveTextContent(
    'copy shows master: 1 picture is left out, 1 shown again, 1 mixed. Of master it does not show 3 at the tail.',
  );
});

test('the same pictures one by one are told as that', async () => {
  const { compared } = await shown({
    droppedFromA: [],
    repeatedInB: [],
    blendsInB: [],
    missing: { headA: 0, tailA: 0, headB: 2, tailB: 0 },
    path: path.map(([, b]) => [b, b]),
  });
  expect(compared).toHaveTextContent('copy shows master picture by picture. 2 pictures of copy are not in master.');
  expect(screen.getByRole('button', { name: 'Next difference' })).toBeDisabled();
});

test('two that do not match say so, and nothing is drawn as if they did', async () => {
  const { compared } = await shown({ certainty: 0.21 });
  expect(compared).toHaveTextContent('These do not show the same pictures');
  expect(compared).toHaveTextContent('(21 %)');
  expect(screen.queryByText('Pairs')).not.toBeInTheDocument();
});

test('differences are walked in the order of the second, by buttons and by the list', async () => {
  const { user, router } = await shown();
  const list = within(screen.getByTestId('differences'));
  expect(list.getAllByRole('button').map((b) => b.textContent)).toEqual(['1212dropped', '2120mixed', '3030repeated']);
  await user.click(screen.getByRole('button', { name: 'Next difference' }));
  await waitFor(() => expect(placeOf(router)).toBe('12'));
  await user.click(screen.getByRole('button', { name: 'Next difference' }));
  await waitFor(() => expect(placeOf(router)).toBe('20'));
  await user.click(screen.getByRole('button', { name: 'Previous difference' }));
  await waitFor(() => expect(placeOf(router)).toBe('12'));
  await user.click(list.getByRole('button', { name: /repeated/ }));
  await waitFor(() => expect(placeOf(router)).toBe('30'));
});

test('pairs around the place stand beside each other, with what each shows', async () => {
  await shown({}, 20);
  const pair = screen.getByTestId('pair-20');
  expect(pair).toHaveAttribute('data-a', '21');
  expect(pair).toHaveAttribute('aria-current', 'true');
  expect(pair).toHaveTextContent('mixed');
  expect(within(pair).getByAltText('master, 21')).toBeInTheDocument();
  expect(within(pair).getByAltText('copy, 20')).toBeInTheDocument();
});

test('a place that does not exist is the nearest that does', async () => {
  await shown({}, 900);
  expect(screen.getByTestId('pair-38')).toHaveAttribute('aria-current', 'true');
});

test('one that is gone says why', async () => {
  const fake = new FakeProject(projectOf(film('master')));
  fake.server.on('comparison', () => {
    throw new TurnedDown('file-missing');
  });
  await show(<CompareView />, '/p/p/check/compare/c9', '/p/:project/check/compare/:job/:picture?');
  await waitFor(() => expect(document.querySelector('.notice')).toHaveTextContent(/\w.*\.$/));
});

test('two others are chosen and compared; a source with itself is not', async () => {
  const { fake, user } = await shown();
  await user.click(screen.getByRole('button', { name: /^Compare two/ }));
  const sheet = within(await screen.findByRole('dialog'));
  expect(sheet.getByText('All 400 pictures are decoded and matched.')).toBeVisible();
  await user.click(sheet.getByRole('combobox', { name: 'as they are shown by' }));
  await user.click(await screen.findByRole('option', { name: 'master' }));
  expect(sheet.getByText('Choose two that differ.')).toBeVisible();
  expect(sheet.getByRole('button', { name: 'Compare them' })).toBeDisabled();
  await user.click(sheet.getByRole('combobox', { name: 'Pictures of' }));
  await user.click(await screen.findByRole('option', { name: 'copy' }));
  await user.click(sheet.getByRole('button', { name: 'Compare them' }));
  await waitFor(() => expect(fake.server.of('startJobs')[0]?.body).toEqual({ kind: 'compare', a: 'copy', b: 'master' }));
  await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument());
});
