import { screen } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { showAlone } from '../../../test/project.fixture.js';
import { PlaceField } from './PlaceField.js';

const clock = { rate: rate(30000, 1001), dropFrame: true, startFrame: 0 };

function setUp(value = 0, takes = true) {
  const asked: number[] = [];
  const take = async (frame: number): Promise<boolean> => {
    asked.push(frame);
    return takes;
  };
  const shown = showAlone(<PlaceField label="Playhead" clock={clock} value={value} onFrame={take} />);
  return { ...shown, asked, field: screen.getByRole('textbox', { name: 'Playhead' }) };
}

test('a timecode is taken when Enter is pressed, at the frame that bears it', async () => {
  const { user, asked, field } = setUp();
  await user.click(field);
  await user.keyboard('00:01:00;02{Enter}');
  expect(asked).toEqual([1800]);
});

test('while it is typed, it says what was understood; Escape takes it back', async () => {
  const { user, asked, field } = setUp(10);
  await user.click(field);
  await user.keyboard('+15');
  expect(screen.getByRole('status')).toHaveTextContent(/25/);
  await user.keyboard('{Escape}');
  expect(field).toHaveValue('00:00:00;10');
  await user.tab();
  expect(asked).toEqual([]);
});

test('a label that drop-frame skips is refused with the reason, and nothing moves', async () => {
  const { user, asked, field } = setUp(10);
  await user.click(field);
  await user.keyboard('00:01:00;00');
  expect(screen.getByRole('status')).toHaveTextContent(/drop-frame has no such number/);
  expect(field).toBeInvalid();
  await user.keyboard('{Enter}');
  expect(asked).toEqual([]);
  expect(field).toHaveValue('00:00:00;10');
});

test('what is refused elsewhere shows the place as it was', async () => {
  const { user, asked, field } = setUp(10, false);
  await user.click(field);
  await user.keyboard('99{Enter}');
  expect(asked).toEqual([99]);
  expect(field).toHaveValue('00:00:00;10');
});
