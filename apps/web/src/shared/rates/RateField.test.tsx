import { screen } from '@testing-library/react';
import { useState } from 'react';
import { showAlone } from '../../test/project.fixture.js';
import { RateField } from './RateField.js';

function Field({ start = '' }: { start?: string }) {
  const [typed, setTyped] = useState(start);
  return <RateField label="Rate" typed={typed} onType={setTyped} hint="What the timeline counts in." />;
}
const field = () => screen.getByRole('textbox', { name: 'Rate' });

test.each([
  ['23.976', 'exactly 24000/1001 pictures a second'],
  ['29.97df', 'exactly 30000/1001 pictures a second'],
  ['59.94i', 'exactly 30000/1001 pictures a second, of two fields each'],
  ['12.5', 'exactly 25/2 pictures a second'],
])('%s is understood: %s', async (text, words) => {
  const { user } = showAlone(<Field />);
  expect(screen.getByText('What the timeline counts in.')).toBeVisible();
  await user.type(field(), text);
  expect(screen.getByText(words)).toBeVisible();
  expect(field()).toBeValid();
});

test.each([
  ['0', 'A rate of 0 shows nothing. Try 25, 23.976 or 24000/1001.'],
  ['-25', 'A rate is above 0.'],
  ['0.001', 'Rates go down to 1/100 a second.'],
  ['200000', 'Rates go up to 100 000 a second.'],
  ['quick', 'Not a rate. Try 25, 23.976 or 24000/1001.'],
])('%s is refused: %s', async (text, words) => {
  const { user } = showAlone(<Field />);
  await user.type(field(), text);
  expect(screen.getByText(words)).toBeVisible();
  expect(field()).toBeInvalid();
});

test('a usual rate is picked with one press, and shows as picked however it was typed', async () => {
  const { user } = showAlone(<Field start="24000/1001" />);
  expect(screen.getByRole('button', { name: '23.976' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(screen.getByRole('button', { name: '25' }));
  expect(field()).toHaveValue('25');
  expect(screen.getByRole('button', { name: '25' })).toHaveAttribute('aria-pressed', 'true');
});
