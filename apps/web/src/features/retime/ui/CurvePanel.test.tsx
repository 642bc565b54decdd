import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { cadenceOf, noTiming } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { CurvePanel } from './CurvePanel.js';

const drips = film('icicle-drip', {
  stored: rate(100),
  measured: { rate: rate(100), ppm: 0 },
  pictures: 400,
  seconds: 4,
  sound: null,
});
const plain = placed(projectOf(drips), 'icicle-drip');
const timelineId = plain.timelines[0]?.id ?? '';
/** Frame 0 shows picture 0, 50 shows 100, 99 shows 399. */
const curved = changed(plain, {
  type: 'retimeClip',
  timelineId,
  clipId: 'c0',
  follow: 'move',
  pins: [
    { frame: 0, picture: 0 },
    { frame: 50, picture: 100 },
    { frame: 99, picture: 399 },
  ],
});

function Panel({ n }: { n: number }) {
  const { project, undo } = useProject();
  const [timeline] = project.timelines;
  const clip = timeline?.clips[0];
  const cadence = timeline && clip && cadenceOf(project, timeline, clip, noTiming);
  return cadence ? (
    <>
      <button type="button" onClick={undo}>
        Undo
      </button>
      <CurvePanel timeline={timeline} cadence={cadence} n={n} onFrame={() => undefined} />
    </>
  ) : null;
}

async function shown(project = curved, n = 20) {
  const fake = new FakeProject(project);
  fake.server.on('pan', () => null).on('heldOut', () => null);
  const view = await show(<Panel n={n} />);
  await screen.findByTestId('curve-panel');
  return { fake, ...view };
}
const pins = (fake: FakeProject) => fake.document.timelines[0]?.clips[0]?.curve?.map((p) => [p.frame, p.picture]);
const pin = (frame: number, picture: number) =>
  screen.getByRole('button', { name: `Pin: frame ${frame} shows picture ${picture}` });

test('a clip without pins says that it runs at one speed; a pin here makes a curve of it', async () => {
  const { fake, user } = await shown(plain);
  expect(screen.getByText('none: one speed all through')).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Pin here' }));
  await waitFor(() => expect(pins(fake)?.some(([frame, picture]) => frame === 20 && picture === 80)).toBe(true));
});

test('where a pin is already, none can be made', async () => {
  await shown(curved, 50);
  expect(screen.getByRole('button', { name: 'Pin here' })).toBeDisabled();
});

test('a pin is moved by arrow keys, with shift by ten, and stays between its neighbours', async () => {
  const { fake } = await shown();
  fireEvent.keyDown(pin(50, 100), { key: 'ArrowUp' });
  await waitFor(() => expect(pins(fake)?.[1]).toEqual([50, 101]));
  fireEvent.keyDown(await screen.findByRole('button', { name: 'Pin: frame 50 shows picture 101' }), {
    key: 'ArrowRight',
    shiftKey: true,
  });
  await waitFor(() => expect(pins(fake)?.[1]).toEqual([60, 101]));
});

test('a key pressed while an undo is on its way moves the pin from where the undo leaves it', async () => {
  const { fake } = await shown();
  fireEvent.keyDown(pin(50, 100), { key: 'ArrowUp', shiftKey: true });
  const moved = await screen.findByRole('button', { name: 'Pin: frame 50 shows picture 110' });
  await waitFor(() => expect(fake.done).toHaveLength(1));
  fireEvent.click(screen.getByRole('button', { name: 'Undo' }));
  fireEvent.keyDown(moved, { key: 'ArrowUp' });
  await waitFor(() => expect(fake.done).toHaveLength(2));
  expect(pins(fake)?.[1]).toEqual([50, 101]);
});

test('a handle is moved by keys, before and after an undo', async () => {
  const eased = changed(curved, {
    type: 'retimeClip',
    timelineId,
    clipId: 'c0',
    follow: 'move',
    pins: [
      { frame: 0, picture: 0, way: 'eased', handles: [0.3, 0.1, 0.7, 0.9] },
      { frame: 99, picture: 399 },
    ],
  });
  const { fake } = await shown(eased);
  const heights = () => {
    const [pin] = fake.document.timelines[0]?.clips[0]?.curve ?? [];
    return (pin as { handles?: readonly number[] } | undefined)?.handles;
  };
  fireEvent.focus(pin(0, 0));
  const handle = await screen.findByRole('button', { name: 'Handle of the end' });
  fireEvent.keyDown(handle, { key: 'ArrowDown' });
  await waitFor(() => expect(heights()).toEqual([0.3, 0.1, 0.7, 0.85]));
  fireEvent.click(screen.getByRole('button', { name: 'Undo' }));
  fireEvent.keyDown(handle, { key: 'ArrowLeft' });
  await waitFor(() => expect(fake.done).toHaveLength(2));
  expect(heights()).toEqual([0.3, 0.1, 0.65, 0.9]);
});

test('the chosen pin is typed; what cannot be says why at its field, and changes nothing', async () => {
  const { fake, user } = await shown();
  fireEvent.focus(pin(50, 100));
  const editor = within(screen.getByTestId('pin'));
  const frame = editor.getByLabelText('Frame');
  await user.clear(frame);
  await user.type(frame, '99{Enter}');
  expect(await editor.findByText('Another pin stands on that frame, or beyond it.')).toBeVisible();
  expect(pins(fake)?.[1]).toEqual([50, 100]);
  await user.clear(frame);
  await user.type(frame, '40{Enter}');
  await waitFor(() => expect(pins(fake)?.[1]).toEqual([40, 100]));
});

test('a pin is removed, but never one of the last two', async () => {
  const { fake, user } = await shown();
  fireEvent.focus(pin(50, 100));
  await user.click(within(screen.getByTestId('pin')).getByRole('button', { name: 'Remove' }));
  await waitFor(() =>
    expect(pins(fake)).toEqual([
      [0, 0],
      [99, 399],
    ]),
  );
  fireEvent.focus(pin(0, 0));
  expect(within(screen.getByTestId('pin')).getByRole('button', { name: 'Remove' })).toBeDisabled();
});

test('the way to the next pin is chosen; the last one has none', async () => {
  const { fake, user } = await shown();
  fireEvent.focus(pin(50, 100));
  await user.click(within(screen.getByTestId('pin')).getByRole('radio', { name: 'held' }));
  await waitFor(() => expect(fake.document.timelines[0]?.clips[0]?.curve?.[1]?.way).toBe('held'));
  fireEvent.focus(pin(99, 399));
  expect(within(screen.getByTestId('pin')).getByRole('radio', { name: 'held' })).toBeDisabled();
});
