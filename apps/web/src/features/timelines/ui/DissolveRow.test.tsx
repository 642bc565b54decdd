import { screen, waitFor, within } from '@testing-library/react';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { DissolveRow } from './DissolveRow.js';

const pan = film('jetty-pan', { sound: null });
const drift = film('floe-drift', { sound: null });

function Row({ clip }: { clip: number }) {
  const { project } = useProject();
  const [timeline] = project.timelines;
  const chosen = timeline?.clips[clip];
  return (
    <>
      <p>here</p>
      {timeline && chosen && <DissolveRow timeline={timeline} clip={chosen} />}
    </>
  );
}

async function shown(clip = 1) {
  const fake = new FakeProject(placed(projectOf(pan, drift), 'jetty-pan', 'floe-drift'));
  const view = await show(<Row clip={clip} />);
  await screen.findByText('here');
  const row = () => within(screen.getByTestId('dissolve'));
  const dissolve = () => {
    const { before = 0, after = 0 } = fake.document.timelines[0]?.clips[clip]?.dissolve ?? {};
    return { before, after };
  };
  return { fake, row, dissolve, ...view };
}

test('a clip that none ends before has no such row', async () => {
  await shown(0);
  expect(screen.queryByTestId('dissolve')).not.toBeInTheDocument();
});

test('a cut becomes a dissolve of twelve across it, and what stands for it is told', async () => {
  const { row, dissolve, user } = await shown();
  expect(row().queryByLabelText('Frames of the dissolve')).not.toBeInTheDocument();
  await user.click(row().getByRole('radio', { name: 'dissolve' }));
  await waitFor(() => expect(dissolve()).toEqual({ before: 6, after: 6 }));
  // Both sources are used to their ends: there are no pictures beyond the cut.
  expect(
    await row().findByText(
      /^The last picture of jetty-pan stands for 6 frames, the first picture of floe-drift stands for 6 frames\.$/,
    ),
  ).toBeVisible();
});

test('its length is typed and kept within both clips; its place is chosen', async () => {
  const { row, dissolve, user } = await shown();
  await user.click(row().getByRole('radio', { name: 'dissolve' }));
  const field = await row().findByLabelText('Frames of the dissolve');
  await user.clear(field);
  await user.type(field, '25{Enter}');
  await waitFor(() => expect(dissolve()).toEqual({ before: 12, after: 13 }));
  await user.click(row().getByRole('radio', { name: 'before' }));
  await waitFor(() => expect(dissolve()).toEqual({ before: 25, after: 0 }));
  await user.click(row().getByRole('radio', { name: 'after' }));
  await waitFor(() => expect(dissolve()).toEqual({ before: 0, after: 25 }));
  await user.clear(field);
  await user.type(field, '9000{Enter}');
  await waitFor(() => expect(dissolve()).toEqual({ before: 0, after: 200 }));
});

test('and back to a cut', async () => {
  const { fake, row, dissolve, user } = await shown();
  await user.click(row().getByRole('radio', { name: 'dissolve' }));
  await user.click(await row().findByRole('radio', { name: 'cut' }));
  await waitFor(() => expect(fake.done).toHaveLength(2));
  expect(dissolve()).toEqual({ before: 0, after: 0 });
});
