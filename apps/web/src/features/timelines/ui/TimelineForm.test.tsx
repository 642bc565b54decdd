import { jest } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { TimelineForm } from './TimelineForm.js';

const pan = film('jetty-pan', { stored: rate(50), measured: { rate: rate(50), ppm: 0 }, sound: null });
const onClose = jest.fn();
const onCarry = jest.fn();

function Form({ change }: { change: boolean }) {
  const { project } = useProject();
  return <TimelineForm timeline={change ? (project.timelines[0] ?? null) : null} onClose={onClose} onCarry={onCarry} />;
}

async function shown(change: boolean, project = projectOf(pan)) {
  onClose.mockClear();
  onCarry.mockClear();
  const fake = new FakeProject(project);
  const view = await show(<Form change={change} />);
  await screen.findByRole('dialog');
  const type = async (label: string, text: string) => {
    const field = screen.getByRole('textbox', { name: label });
    await view.user.clear(field);
    await view.user.type(field, text);
  };
  return { fake, type, ...view };
}

test('a timeline is made at a rate that is chosen, never at one that nobody chose', async () => {
  const { fake, type, user } = await shown(false);
  expect(screen.getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  await type('Name', 'Thaw');
  await type('Rate', '23.976');
  await user.click(screen.getByRole('button', { name: 'Make it at 23.976' }));
  await waitFor(() => expect(onClose).toHaveBeenCalledTimes(1));
  expect(fake.done).toMatchObject([
    {
      type: 'addTimeline',
      timeline: { name: 'Thaw', rate: { num: 24000, den: 1001 }, width: 1920, height: 1080, startFrame: 0, dropFrame: false },
    },
  ]);
});

test('it has a name that is free before one is typed', async () => {
  await shown(false);
  expect(screen.getByRole('textbox', { name: 'Name' })).toHaveValue('Timeline 2');
});

test('drop-frame timecode is offered where it exists only', async () => {
  const { fake, type, user } = await shown(false);
  await type('Rate', '25');
  expect(screen.getByRole('switch', { name: 'Drop-frame timecode' })).toBeDisabled();
  await type('Rate', '29.97');
  await user.click(screen.getByRole('switch', { name: 'Drop-frame timecode' }));
  await type('Starts at', '00:01:00;02');
  await user.click(screen.getByRole('button', { name: 'Make it at 29.97' }));
  // One minute and two frames: numbers 0 and 1 of that minute do not exist.
  await waitFor(() => expect(fake.done).toMatchObject([{ timeline: { dropFrame: true, startFrame: 1800 } }]));
});

test.each([
  ['Width', '12.5'],
  ['Height', '14'],
  ['Width', '9000'],
])('%s %s is turned down at its field', async (label, text) => {
  const { type } = await shown(false);
  await type('Rate', '25');
  await type(label, text);
  expect(screen.getByText('Both have to be whole numbers, from 16 to 8192.')).toBeVisible();
  expect(screen.getByRole('button', { name: 'Make it at 25' })).toBeDisabled();
});

test('a start that is no timecode at this rate is turned down at its field', async () => {
  const { type } = await shown(false);
  await type('Rate', '25');
  await type('Starts at', '00:00:00:31');
  expect(screen.getByText('No timecode at this rate')).toBeVisible();
  expect(screen.getByRole('button', { name: 'Make it at 25' })).toBeDisabled();
});

test('only what was changed is done: a name alone re-times nothing', async () => {
  const { fake, type, user } = await shown(true);
  await type('Name', 'Reel 1');
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  await waitFor(() => expect(onClose).toHaveBeenCalledTimes(1));
  expect(fake.done.map((c) => c.type)).toEqual(['renameTimeline']);
});

test('nothing changed is nothing done', async () => {
  const { fake, user } = await shown(true);
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  await waitFor(() => expect(onClose).toHaveBeenCalledTimes(1));
  expect(fake.done).toEqual([]);
});

test('an empty timeline takes another rate and size in one step', async () => {
  const { fake, type, user } = await shown(true);
  await type('Rate', '24');
  await user.click(screen.getByText('3840x2160'));
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  await waitFor(() =>
    expect(fake.done).toMatchObject([{ type: 'setTimelineFormat', rate: { num: 24, den: 1 }, width: 3840, height: 2160 }]),
  );
});

test('one with clips is carried instead, and why is said', async () => {
  const { fake, type, user } = await shown(true, placed(projectOf(pan), 'jetty-pan'));
  await type('Rate', '30');
  expect(screen.getByText(/Its edit can be carried to 30 instead/)).toBeVisible();
  await user.click(screen.getByRole('button', { name: /^Carry the edit to 30/ }));
  expect(onCarry).toHaveBeenCalledWith('30');
  expect(fake.done).toEqual([]);
});

test('frames of two fields are chosen with the order, at rates that can hold them', async () => {
  const { fake, type, user } = await shown(false);
  const held = () => screen.getByRole('combobox', { name: 'Frames hold' });
  expect(held()).toBeDisabled();
  await type('Rate', '50');
  expect(held()).toBeDisabled();
  expect(screen.getByText('fields go with frames up to 30 a second')).toBeVisible();
  await type('Rate', '25');
  await user.click(held());
  await user.click(await screen.findByRole('option', { name: 'two fields, top first' }));
  expect(screen.getByText('50 moments a second, half of the lines at each')).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Make it at 25' }));
  await waitFor(() => expect(onClose).toHaveBeenCalledTimes(1));
  expect(fake.done).toMatchObject([{ type: 'addTimeline', timeline: { rate: rate(25), fields: 'top' } }]);
});

test('a timeline goes over to fields without another change', async () => {
  const { fake, user } = await shown(true);
  await user.click(screen.getByRole('combobox', { name: 'Frames hold' }));
  await user.click(await screen.findByRole('option', { name: 'two fields, bottom first' }));
  await user.click(screen.getByRole('button', { name: 'Keep' }));
  await waitFor(() => expect(onClose).toHaveBeenCalledTimes(1));
  expect(fake.done).toMatchObject([{ type: 'setTimelineFormat', fields: 'bottom', rate: rate(25) }]);
});
