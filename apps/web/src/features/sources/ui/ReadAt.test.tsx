import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import type { FileSource } from '@thawline/project';
import { madeStill } from '@thawline/project/fixture';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { ReadAt } from './ReadAt.js';

const pan = film('jetty-pan', { stored: rate(60), measured: { rate: rate(60), ppm: 0 }, pictures: 240, seconds: 4 });
const still = madeStill('floe');

let closed = 0;

/** The panel on the sources that are named, as the list opens it. */
function Panel({ names }: { names: readonly string[] }) {
  const { project } = useProject();
  const sources = names.map((n) => project.sources.find((s) => s.name === n) as FileSource);
  return <ReadAt sources={sources} checks={new Map()} suggested={{}} onClose={() => closed++} />;
}

async function shown(names: readonly string[], project = placed(projectOf(pan, still), 'jetty-pan')) {
  closed = 0;
  const fake = new FakeProject(project);
  const view = await show(<Panel names={names} />);
  const panel = within(await screen.findByRole('dialog'));
  return { fake, panel, ...view };
}

test('nothing happens before it was shown what comes of it', async () => {
  const { panel, user, fake } = await shown(['jetty-pan']);
  expect(panel.getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  expect(panel.getByText(/what comes of it is shown here before anything happens/)).toBeVisible();
  await user.type(panel.getByRole('textbox', { name: 'Read at' }), '24');
  expect(panel.getByTestId('read-preview')).toHaveTextContent(/1 of 1 source changes.*1 clip on timelines is touched/);
  expect(fake.done).toEqual([]);
});

test('the button says what it does, does it in one step, and closes', async () => {
  const { panel, user, fake } = await shown(['jetty-pan']);
  await user.type(panel.getByRole('textbox', { name: 'Read at' }), '23.976');
  await user.click(panel.getByRole('button', { name: 'Read jetty-pan at 23.976' }));
  await waitFor(() => expect(closed).toBe(1));
  expect(fake.done).toHaveLength(1);
  expect(fake.done[0]).toMatchObject({
    type: 'readAt',
    uses: 'move',
    readings: [{ sourceId: 'jetty-pan', reading: { rate: { num: 24000, den: 1001 }, from: 'typed' } }],
  });
});

test("a timeline's rate is one press away", async () => {
  const { panel, user, fake } = await shown(['jetty-pan']);
  await user.click(panel.getByRole('button', { name: "Main cut's 25" }));
  await user.click(panel.getByRole('button', { name: 'Read jetty-pan at 25' }));
  await waitFor(() => expect(fake.done[0]).toMatchObject({ readings: [{ reading: { from: 'timeline' } }] }));
});

test('clips keep their length where that is asked for', async () => {
  const { panel, user, fake } = await shown(['jetty-pan']);
  const before = fake.document.timelines[0]?.clips[0]?.length;
  await user.type(panel.getByRole('textbox', { name: 'Read at' }), '24');
  await user.click(panel.getByRole('radio', { name: 'keep their length' }));
  await user.click(panel.getByRole('button', { name: 'Read jetty-pan at 24' }));
  await waitFor(() => expect(fake.done[0]).toMatchObject({ uses: 'length' }));
  expect(fake.document.timelines[0]?.clips[0]?.length).toBe(before);
});

test('what cannot be read is left alone, and why is said', async () => {
  const { panel, user } = await shown(['jetty-pan', 'floe']);
  await user.type(panel.getByRole('textbox', { name: 'Read at' }), '24');
  expect(panel.getByTestId('read-preview')).toHaveTextContent(/1 left alone/);
});

test('the rate it is read at already changes nothing, and the button says so', async () => {
  const { panel, user } = await shown(['jetty-pan']);
  await user.type(panel.getByRole('textbox', { name: 'Read at' }), '60');
  expect(panel.getByRole('button', { name: 'Nothing changes' })).toBeDisabled();
});
