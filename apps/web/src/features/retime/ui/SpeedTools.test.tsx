import { jest } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { cadenceOf, noTiming } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { SpeedTools } from './SpeedTools.js';

const drips = film('icicle-drip', {
  stored: rate(100),
  measured: { rate: rate(100), ppm: 0 },
  pictures: 400,
  seconds: 4,
  sound: null,
});
const onPins = jest.fn();

function Tools({ n, follow }: { n: number; follow: 'move' | 'keep' }) {
  const { project } = useProject();
  const [timeline] = project.timelines;
  const clip = timeline?.clips[0];
  const cadence = timeline && clip && cadenceOf(project, timeline, clip, noTiming);
  return cadence ? <SpeedTools timeline={timeline} cadence={cadence} n={n} follow={follow} onPins={onPins} /> : null;
}

async function shown({ project = placed(projectOf(drips), 'icicle-drip'), n = 10, follow = 'move' as 'move' | 'keep' } = {}) {
  onPins.mockClear();
  const fake = new FakeProject(project);
  const view = await show(<Tools n={n} follow={follow} />);
  const tools = within(await screen.findByTestId('speed-tools'));
  const type = async (label: string, text: string) => {
    const field = tools.getByRole('textbox', { name: label });
    await view.user.clear(field);
    await view.user.type(field, text);
  };
  const outcome = () => tools.getByRole('status').textContent;
  return { fake, tools, type, outcome, ...view };
}
const clipOf = (fake: FakeProject) => fake.document.timelines[0]?.clips[0];

test('a speed says what it comes to before Enter takes it', async () => {
  const { fake, type, outcome, user } = await shown();
  await type('Speed', '50');
  expect(outcome()).toBe('50 %. Runs 200 frames, 8.00 s, 100 frames longer. Enter takes it.');
  expect(fake.done).toEqual([]);
  await user.keyboard('{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'retimeClip', speed: { num: 1, den: 2 }, backward: false }]));
  await waitFor(() => expect(clipOf(fake)?.length).toBe(200));
});

test.each([
  ['Speed', '1/4', '25 %. Runs 400 frames, 16.00 s, 300 frames longer. Enter takes it.'],
  ['Shown at', '25', '25 %. Runs 400 frames, 16.00 s, 300 frames longer. Enter takes it.'],
  ['Length', '50', '200 %. Runs 50 frames, 2.00 s, 50 frames shorter. Enter takes it.'],
  ['Length', '8s', '50 %. Runs 200 frames, 8.00 s, 100 frames longer. Enter takes it.'],
])('%s %s is a speed, too', async (label, text, says) => {
  const { type, outcome } = await shown();
  await type(label, text);
  expect(outcome()).toBe(says);
});

test.each([
  ['Speed', '0', /^Not a speed from 1 % to 10,000 %/],
  ['Speed', 'fast', /^Not a speed/],
  ['Shown at', '0', /^Not a rate that can be shown/],
  ['Length', 'long', /^Not a length: frames/],
])('%s %s is turned down with what can be typed instead', async (label, text, says) => {
  const { fake, type, outcome, user } = await shown();
  await type(label, text);
  expect(outcome()).toMatch(says);
  await user.keyboard('{Enter}');
  expect(fake.done).toEqual([]);
});

test('Escape puts back what was typed', async () => {
  const { tools, type, user } = await shown();
  await type('Speed', '50');
  await user.keyboard('{Escape}');
  expect(tools.getByRole('textbox', { name: 'Speed' })).toHaveValue('100 %');
});

test('how many clips move along is told; where nothing may move, that there is no room', async () => {
  const two = placed(projectOf(drips), 'icicle-drip', 'icicle-drip');
  const moving = await shown({ project: two });
  await moving.type('Speed', '50');
  expect(moving.outcome()).toContain('; 1 clip after it moves.');
  moving.unmount();
  const staying = await shown({ project: two, follow: 'keep' });
  await staying.type('Speed', '50');
  expect(staying.outcome()).toMatch(/There is no room for that|Runs 100 frames/);
});

test('the slowest without a made picture is one press away, and why it is that', async () => {
  const { fake, tools, outcome, user } = await shown();
  expect(outcome()).toContain('not checked yet, so that every stored picture counts as new');
  await user.click(tools.getByRole('button', { name: 'Every picture once: 25 %' }));
  await waitFor(() => expect(clipOf(fake)?.length).toBe(400));
});

test('slow here shows which pictures it takes, and makes four pins', async () => {
  const { tools, user } = await shown();
  await user.click(tools.getByRole('button', { name: 'Slow here' }));
  const form = within(await screen.findByRole('dialog'));
  expect(form.getByText(/^From frame 10: pictures \d+ to \d+ take \d+ frames; normal before and after\.$/)).toBeVisible();
  await user.click(form.getByRole('button', { name: 'Slow it' }));
  expect(onPins).toHaveBeenCalledTimes(1);
  const pins = onPins.mock.calls[0]?.[0] as { frame: number; picture: number }[];
  // To a quarter over 13 frames, 50 frames at that, and back over 13.
  expect(pins.map((p) => p.frame)).toEqual([10, 23, 73, 86]);
  const [, from, to] = pins.map((p) => p.picture) as [number, number, number, number];
  expect((to - from) / 50).toBeCloseTo(1, 1);
});

test('slow here turns down what would run past the end, and no speed at all', async () => {
  const { tools, user } = await shown({ n: 95 });
  await user.click(tools.getByRole('button', { name: 'Slow here' }));
  const form = within(await screen.findByRole('dialog'));
  expect(form.getByText('The source ends before that: take fewer frames.')).toBeVisible();
  expect(form.getByRole('button', { name: 'Slow it' })).toBeDisabled();
  await user.clear(form.getByLabelText('Down to, in %'));
  expect(form.getByText('Whole frames, and a speed under 100 %.')).toBeVisible();
});

test('a freeze stands for as long as is typed', async () => {
  const { tools, user } = await shown();
  await user.click(tools.getByRole('button', { name: 'Freeze here' }));
  const form = within(await screen.findByRole('dialog'));
  expect(form.getByText('Frame 10 stands for so long; the rest follows later.')).toBeVisible();
  await user.clear(form.getByLabelText('Frames to hold'));
  await user.type(form.getByLabelText('Frames to hold'), '12');
  await user.click(form.getByRole('button', { name: 'Freeze it' }));
  expect(onPins).toHaveBeenCalledTimes(1);
});
