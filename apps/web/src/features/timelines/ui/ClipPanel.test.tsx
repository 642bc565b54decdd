import { jest } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import type { Editing } from '../model/editing.js';
import { ClipPanel } from './ClipPanel.js';

const pan = film('jetty-pan', { sound: null });
const wide = film('ridge-wide', { sound: null, width: 720, height: 360 });

/** What editing does besides commands is the lanes' to test. */
const editing = { slip: jest.fn(), link: jest.fn(), unpack: jest.fn(), remove: jest.fn() };

function Panel({ ids, now }: { ids: readonly string[]; now: number }) {
  const { project } = useProject();
  const [timeline] = project.timelines;
  if (!timeline) return null;
  const chosen = timeline.clips.filter((c) => ids.includes(c.id));
  return <ClipPanel timeline={timeline} chosen={chosen} editing={editing as unknown as Editing} frameNow={() => now} />;
}

async function shown(ids: readonly string[], now = 0, project = placed(projectOf(pan, wide), 'jetty-pan', 'ridge-wide')) {
  const fake = new FakeProject(project);
  const view = await show(<Panel ids={ids} now={now} />);
  await screen.findByRole('heading', { level: 2 });
  return { fake, ...view };
}
const heading = () => screen.getByRole('heading', { level: 2 }).textContent;

test('with nothing chosen it says what the timeline is, and what to do', async () => {
  await shown([]);
  expect(screen.getByText(/25 frames a second, 640×360/)).toBeVisible();
  expect(screen.getByText(/Choose a clip below/)).toBeVisible();
});

test('one clip has its name, its rate, and its place to type', async () => {
  const { fake, user } = await shown(['c0']);
  expect(heading()).toBe('jetty-pan');
  expect(screen.getByTestId('clip-panel')).toHaveTextContent('read at 25 in a timeline of 25');
  await user.click(screen.getByLabelText('Tail'));
  await user.keyboard('150{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'trimClip', clipId: 'c0', start: 0, end: 150 }]));
});

test('a clip whose colours are converted says into what, and what is lost', async () => {
  const high = film('dawn', {
    sound: null,
    looks: { colour: { matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'smpte2084', range: 'limited' } },
  });
  await shown(['c1'], 0, placed(projectOf(pan, high), 'jetty-pan', 'dawn'));
  expect(screen.getByText(/^BT\.2020, PQ is converted to BT\.709 .*lighter than white is compressed below it/)).toBeVisible();
});

test('head and tail come to the playhead where it is inside the clip, and nowhere else', async () => {
  const { fake, user, unmount } = await shown(['c0'], 60);
  await user.click(screen.getByRole('button', { name: 'Head here' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'trimClip', start: 60, end: 200 }]));
  unmount();
  const outside = await shown(['c0'], 300);
  await outside.user.click(screen.getByRole('button', { name: 'Tail here' }));
  expect(outside.fake.done).toEqual([]);
});

test('several clips move together, and have no head or tail of their own', async () => {
  const { fake, user } = await shown(['c0', 'c1']);
  expect(heading()).toBe('2 clips');
  expect(screen.queryByLabelText('Head')).not.toBeInTheDocument();
  await user.click(screen.getByLabelText('Begins'));
  await user.keyboard('+50{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'moveClips', clipIds: ['c0', 'c1'], byFrames: 50 }]));
});

test('a freeze is chosen and given up in the menu; what only keys do besides is there, too', async () => {
  const { fake, user } = await shown(['c0']);
  await user.click(screen.getByRole('button', { name: 'More for this clip' }));
  await user.click(await screen.findByRole('menuitem', { name: 'Freeze its first picture' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setFit', fit: 'freeze' }]));
  await user.click(screen.getByRole('button', { name: 'More for this clip' }));
  expect(await screen.findByRole('menuitem', { name: 'Let it run again' })).toBeVisible();
  await user.click(screen.getByRole('menuitem', { name: 'Slip: a picture later' }));
  expect(editing.slip).toHaveBeenCalledWith(1);
});

test('a picture of another shape says what its framing costs; one of the same size has nothing to choose', async () => {
  const { fake, user } = await shown(['c1']);
  expect(screen.getByTestId('framing')).toHaveTextContent('11.1 % of the frame stays free');
  await user.click(screen.getByRole('radio', { name: 'Fill' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setFraming', clipIds: ['c1'], framing: 'fill' }]));
  await waitFor(() => expect(screen.getByTestId('framing')).toHaveTextContent('11.1 % of the picture is cut off'));
});

test('opacity over a lower lane is typed in per cent, and what is none changes nothing', async () => {
  const project = placed(projectOf(pan, wide), 'jetty-pan', 'ridge-wide');
  const { unmount } = await shown(['c1'], 0, project);
  expect(screen.queryByRole('textbox', { name: 'Opacity' })).not.toBeInTheDocument();
  unmount();
  const [timeline] = project.timelines;
  const clips = timeline?.clips.map((c) => (c.id === 'c1' ? { ...c, laneId: 'p2', start: 10 } : c)) ?? [];
  const over = { ...project, timelines: timeline ? [{ ...timeline, clips }] : [] };
  const { fake, user } = await shown(['c1'], 0, over);
  const field = screen.getByRole('textbox', { name: 'Opacity' });
  expect(field).toHaveValue('100 %');
  await user.clear(field);
  await user.type(field, '40{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setOpacity', clipIds: ['c1'], opacity: 0.4 }]));
  const again = await screen.findByDisplayValue('40 %');
  await user.clear(again);
  await user.tab();
  expect(fake.done).toHaveLength(1);
});

test('a picture of the size of the frame has no framing', async () => {
  await shown(['c0']);
  expect(screen.queryByTestId('framing')).not.toBeInTheDocument();
});

test('a picture is laid by hand by number: pixels, per cent, degrees; its shape is kept unless it is not to be', async () => {
  const { fake, user } = await shown(['c0']);
  await user.click(screen.getByRole('button', { name: 'Lay by hand' }));
  const type = async (label: string, text: string): Promise<void> => {
    const field = screen.getByRole('textbox', { name: label });
    await user.clear(field);
    await user.type(field, `${text}{Enter}`);
  };
  const last = () => fake.done.at(-1);
  expect(screen.getByTestId('pose')).toHaveTextContent('It fills the frame.');
  await type('Across', '64');
  await waitFor(() => expect(last()).toMatchObject({ type: 'setPose', clipIds: ['c0'], pose: { x: 0.1 } }));
  await waitFor(() => expect(screen.getByTestId('pose')).toHaveTextContent('10.0 % of the frame is free'));
  await type('Width', '50');
  await waitFor(() => expect(last()).toMatchObject({ pose: { scaleX: 0.5, scaleY: 0.5 } }));
  await user.click(screen.getByRole('switch', { name: 'Keep shape' }));
  await type('Height', '25');
  await waitFor(() => expect(last()).toMatchObject({ pose: { scaleY: 0.25 } }));
  await user.click(screen.getByRole('button', { name: 'Quarter left' }));
  await waitFor(() => expect(last()).toMatchObject({ pose: { turn: -90 } }));
  await type('Cut top', '20');
  await waitFor(() => expect(last()).toMatchObject({ pose: { crop: { top: 0.2 } } }));
  const before = fake.done.length;
  await type('Cut bottom', 'much');
  expect(fake.done).toHaveLength(before);
  await user.click(screen.getByRole('button', { name: 'As framed' }));
  await waitFor(() => expect(last()).toMatchObject({ type: 'setPose', pose: null }));
  await user.click(screen.getByRole('button', { name: 'Lay by hand' }));
  expect(screen.queryByTestId('pose')).not.toBeInTheDocument();
});
