import { screen, waitFor } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { madeStill } from '@thawline/project/fixture';
import { FakeProject, film, projectOf, show } from '../../../test/project.fixture.js';
import { FieldsSheet } from './FieldsSheet.js';

const sources = [
  film('tape-a', { fields: 'top' }),
  film('tape-b', { fields: 'bottom' }),
  film('burst', { stored: rate(60), measured: { rate: rate(60), ppm: 0 } }),
  madeStill('ridge'),
];

async function shown() {
  const fake = new FakeProject(projectOf(...sources));
  const closed = { times: 0 };
  const view = await show(<FieldsSheet sources={fake.document.sources} onClose={() => closed.times++} />);
  await screen.findByRole('dialog', { name: 'Read the fields of 4 sources' });
  return { fake, closed, ...view };
}
const rows = () =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((row) => row.textContent);

test('all that have fields are read by one choice, in one step; those that have none are named', async () => {
  const { user, fake, closed } = await shown();
  expect(screen.getByRole('button', { name: 'Read 0 sources so' })).toBeDisabled();
  expect(
    screen.getByText(/tape-a is not checked yet; tape-b is not checked yet; burst has no fields; ridge has no fields/),
  ).toBeVisible();
  await user.selectOptions(screen.getByRole('combobox', { name: 'Read them' }), 'one picture a field');
  await user.selectOptions(screen.getByRole('combobox', { name: 'First field' }), 'as the file says');
  expect(rows()).toEqual([
    'tape-anot measured yetone picture a field200 \u2192 40050 %',
    'tape-bnot measured yetone picture a field200 \u2192 40050 %',
  ]);
  await user.click(screen.getByRole('button', { name: 'Read 2 sources so' }));
  await waitFor(() => expect(closed.times).toBe(1));
  expect(fake.done.map((c) => c.type)).toEqual(['readFields']);
  const firsts = fake.document.sources.map((s) => s.fieldsRead?.runs.map((run) => run.way !== 'progressive' && run.first));
  expect(firsts.slice(0, 2)).toEqual([['top'], ['bottom']]);
});
