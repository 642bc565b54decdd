import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { type Sheet, TimelineBar } from './TimelineBar.js';

const plain = projectOf(film('floe-drift'));
const cut = changed(placed(plain, 'floe-drift'), {
  type: 'addTimeline',
  timeline: { id: 'slow', name: 'Slow cut', rate: rate(50), width: 640, height: 360, startFrame: 0, dropFrame: false },
});

function Bar({ onSheet }: { onSheet: (sheet: Sheet) => void }) {
  const { project } = useProject();
  const { timeline: wanted } = useParams();
  const timeline = project.timelines.find((t) => t.id === wanted) ?? project.timelines[0];
  return timeline ? <TimelineBar timeline={timeline} onSheet={onSheet} /> : null;
}

async function shown(project = cut) {
  const fake = new FakeProject(project);
  const sheets: Sheet[] = [];
  const view = await show(
    <Bar onSheet={(sheet) => sheets.push(sheet)} />,
    '/p/p/timelines/t',
    '/p/:project/timelines/:timeline?',
  );
  await screen.findByRole('button', { name: 'More for this timeline' });
  const more = async (name: string | RegExp): Promise<void> => {
    await view.user.click(screen.getByRole('button', { name: 'More for this timeline' }));
    await view.user.click(await screen.findByRole('menuitem', { name }));
  };
  return { fake, sheets, more, ...view };
}
const lanes = (fake: FakeProject) => fake.document.timelines[0]?.lanes.map((l) => `${l.kind} ${l.name}`);

test('each timeline stands with its rate, and a press goes to it', async () => {
  const { user, router } = await shown();
  expect(screen.getByRole('button', { name: 'Main cut 25' })).toHaveAttribute('aria-pressed', 'true');
  const other = screen.getByRole('button', { name: 'Slow cut 50' });
  expect(other).toHaveAttribute('aria-pressed', 'false');
  await user.click(other);
  expect(router.state.location.pathname).toBe('/p/p/timelines/slow');
  expect(other).toHaveAttribute('aria-pressed', 'true');
});

test('what opens a sheet says which; nothing can be carried of an empty timeline', async () => {
  const { sheets, more, user } = await shown();
  for (const name of ['Timeline', 'Carry to another rate…', 'Open edit file', 'Save edit file'])
    await user.click(screen.getByRole('button', { name }));
  await more('Name, rate, frame size, timecode');
  expect(sheets).toEqual(['new', { carry: '' }, 'open', 'save', 'edit']);
  await user.click(screen.getByRole('button', { name: 'Slow cut 50' }));
  expect(screen.getByRole('button', { name: 'Carry to another rate…' })).toBeDisabled();
});

test('lanes are added with numbers of their kind, and empty ones are removed again, but for one of each', async () => {
  const { fake, more } = await shown(plain);
  expect(lanes(fake)).toHaveLength(4);
  await more('Add a picture lane');
  await waitFor(() => expect(lanes(fake)).toContain('picture Picture 3'));
  await more('Add a sound lane');
  await waitFor(() => expect(lanes(fake)).toContain('sound Sound 3'));
  await more('Remove empty lanes');
  await waitFor(() => expect(lanes(fake)).toHaveLength(2));
  expect(lanes(fake)?.map((name) => name.split(' ')[0])).toEqual(['picture', 'sound']);
});

test('it is duplicated under a name that says so, and the copy is gone to; removed, it is gone', async () => {
  const { fake, more, router } = await shown();
  await more('Duplicate Main cut');
  await waitFor(() => expect(fake.document.timelines.map((t) => t.name)).toContain('Main cut copy'));
  const copy = fake.document.timelines.find((t) => t.name === 'Main cut copy');
  expect(copy?.clips).toHaveLength(2);
  await waitFor(() => expect(router.state.location.pathname).toBe(`/p/p/timelines/${copy?.id}`));
  await more('Remove Main cut copy');
  await waitFor(() => expect(fake.document.timelines.map((t) => t.name)).toEqual(['Main cut', 'Slow cut']));
});

test('its sound is saved as a file where it has some, of the range where there is one', async () => {
  const { user } = await shown(changed(cut, { type: 'setRange', timelineId: 't', range: { from: 25, to: 50 } }));
  await user.click(screen.getByRole('button', { name: 'More for this timeline' }));
  const wave = await screen.findByRole('menuitem', { name: 'Save its sound as WAV, 48 kHz, 24 bit, in to out' });
  expect(wave).toHaveAttribute('href', '/api/projects/p/timelines/t/sound.wav?form=s24');
  await user.keyboard('{Escape}');
  await user.click(screen.getByRole('button', { name: 'Slow cut 50' }));
  await user.click(screen.getByRole('button', { name: 'More for this timeline' }));
  const menu = within(await screen.findByRole('menu'));
  expect(menu.getByRole('menuitem', { name: 'Save its sound as WAV, 48 kHz, float' })).toHaveAttribute('data-disabled', 'true');
});
