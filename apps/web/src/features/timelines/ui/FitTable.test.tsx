import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { FitTable } from './FitTable.js';

const pan = film('jetty-pan', { stored: rate(50), measured: { rate: rate(50), ppm: 0 }, pictures: 200, seconds: 4, sound: null });

/** The table for the clips that are named, as the panel beside the lanes shows it. */
function Table({ ids }: { ids: readonly string[] }) {
  const { project } = useProject();
  const [timeline] = project.timelines;
  return timeline ? <FitTable timeline={timeline} chosen={timeline.clips.filter((c) => ids.includes(c.id))} /> : null;
}

async function shown(project = placed(projectOf(pan), 'jetty-pan'), ids = ['c0']) {
  const fake = new FakeProject(project);
  const view = await show(<Table ids={ids} />);
  await screen.findByRole('table', { name: 'Fits' });
  const row = (fit: string) => within(screen.getByTestId(`fit-${fit}`));
  return { fake, row, ...view };
}
const cells = (fit: string) => [...screen.getByTestId(`fit-${fit}`).querySelectorAll('td')].map((td) => td.textContent);

test('each fit says what it comes to before it is chosen', async () => {
  await shown();
  expect(cells('nearest')).toEqual(['Keep time nearest', '4.00 s', '100 %', '2 2 2 2 2 2', '0', '0.0 ms', 'none']);
  expect(cells('pictures').slice(1, 3)).toEqual(['8.00 s', '50 %']);
  expect(screen.getByTestId('fit-nearest')).toHaveAttribute('aria-selected', 'true');
  expect(screen.queryByTestId('fit-freeze')).not.toBeInTheDocument();
});

test('a press chooses a fit in one step; the one that stands is not chosen again', async () => {
  const { row, user, fake } = await shown();
  await user.click(row('nearest').getByRole('button'));
  expect(fake.done).toEqual([]);
  await user.click(row('pictures').getByRole('button'));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setFit', clipIds: ['c0'], fit: 'pictures' }]));
  await waitFor(() => expect(screen.getByTestId('fit-pictures')).toHaveAttribute('aria-selected', 'true'));
});

test('all clips of a rate are fitted at once where that is asked for', async () => {
  const two = placed(projectOf(pan), 'jetty-pan', 'jetty-pan');
  const { row, user, fake } = await shown(two, ['c0']);
  await user.click(screen.getByRole('radio', { name: 'All 2 clips at 50' }));
  expect(cells('nearest')[1]).toBe('8.00 s');
  await user.click(row('blend').getByRole('button'));
  await waitFor(() => expect(fake.done).toHaveLength(1));
  expect(fake.done[0]).toMatchObject({ type: 'setFit', fit: 'blend' });
  expect((fake.done[0] as { clipIds: string[] }).clipIds).toHaveLength(2);
});

test('where there is no room for all pictures, both lengths are told', async () => {
  const two = placed(projectOf(pan), 'jetty-pan', 'jetty-pan');
  await shown(two, ['c0']);
  expect(cells('pictures')[1]).toBe('4.00 of 8.00 s');
});

test('what a person trimmed off is no want of room', async () => {
  const trimmed = changed(placed(projectOf(pan), 'jetty-pan'), {
    type: 'trimClip',
    timelineId: 't',
    clipId: 'c0',
    start: 0,
    end: 25,
  });
  await shown(trimmed);
  expect(cells('nearest')[1]).toBe('1.00 s');
  expect(cells('blend')[1]).toBe('1.00 s');
});

test('a frozen clip has a row of its own, without a speed', async () => {
  const frozen = changed(placed(projectOf(pan), 'jetty-pan'), {
    type: 'setFit',
    timelineId: 't',
    clipIds: ['c0'],
    fit: 'freeze',
  });
  await shown(frozen);
  expect(screen.getByTestId('fit-freeze')).toHaveAttribute('aria-selected', 'true');
});
