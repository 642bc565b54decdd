import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { isSoundClip, sourceOf } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { SoundRetime } from './SoundRetime.js';

/** 200 pictures of 25 a second, 8 s with their sound, and as much behind them. */
const project = placed(projectOf(film('floe-drift'), film('gate-open')), 'floe-drift', 'gate-open');

function Retime() {
  const { project: now } = useProject();
  const [timeline] = now.timelines;
  const clip = timeline?.clips.find((c) => isSoundClip(timeline, c));
  const source = clip && sourceOf(now, clip.sourceId);
  return timeline && clip && source ? <SoundRetime timeline={timeline} clip={clip} source={source} /> : null;
}

async function shown() {
  const fake = new FakeProject(project);
  const view = await show(<Retime />);
  const panel = within(await screen.findByTestId('sound-retime'));
  const clips = (kind: 'picture' | 'sound') => {
    const [timeline] = fake.document.timelines;
    return timeline?.clips.filter((c) => isSoundClip(timeline, c) === (kind === 'sound')).map((c) => [c.start, c.length]);
  };
  return { fake, panel, clips, outcome: () => panel.getByRole('status').textContent, ...view };
}

test('what sounds is told in seconds of the source, and its speed three ways', async () => {
  const { panel } = await shown();
  expect(panel.getByText(/It sounds/)).toHaveTextContent('It sounds 8.000 s of the source, from 0.000 s on.');
  expect(panel.getByLabelText('Speed')).toHaveValue('100 %');
  expect(panel.getByLabelText('Pictures shown at')).toHaveValue('25');
  expect(panel.getByLabelText('Length')).toHaveValue('200');
});

test.each([
  ['Speed', '50', '50 %. Runs 400 frames, 16.00 s; its pitch moves by −12.00 semitones. Enter takes it.'],
  ['Speed', '25/24', '104.167 %. Runs 192 frames, 7.68 s; its pitch moves by +0.71 semitones. Enter takes it.'],
  ['Pictures shown at', '24', '96 %. Runs 208 frames, 8.32 s; its pitch moves by −0.71 semitones. Enter takes it.'],
  ['Length', '16s', '50 %. Runs 400 frames, 16.00 s; its pitch moves by −12.00 semitones. Enter takes it.'],
])('%s %s is told before it is taken', async (label, text, words) => {
  const { panel, outcome, user, fake } = await shown();
  await user.clear(panel.getByLabelText(label));
  await user.type(panel.getByLabelText(label), text);
  expect(outcome()).toBe(words);
  expect(fake.done).toEqual([]);
});

test('where the pitch is kept it is said to stay', async () => {
  const { panel, outcome, user, fake } = await shown();
  await user.click(panel.getByText('keeps its pitch'));
  await waitFor(() => expect(fake.done).toHaveLength(1));
  await user.clear(panel.getByLabelText('Speed'));
  await user.type(panel.getByLabelText('Speed'), '96');
  expect(outcome()).toContain('its pitch stays');
});

test('the sound alone is slowed, and what follows it moves; its pictures stay', async () => {
  const { panel, clips, user, fake } = await shown();
  await user.clear(panel.getByLabelText('Speed'));
  await user.type(panel.getByLabelText('Speed'), '50{Enter}');
  await waitFor(() => expect(fake.done).toHaveLength(1));
  expect(clips('sound')?.[0]).toEqual([0, 400]);
  expect(clips('picture')?.[0]).toEqual([0, 200]);
  await waitFor(() => expect(panel.getByLabelText('Speed')).toHaveValue('50 %'));
});

test('with its pictures along, both are slowed', async () => {
  const { panel, clips, user, fake } = await shown();
  await user.click(panel.getByRole('switch', { name: 'Its pictures stay as they are' }));
  await user.clear(panel.getByLabelText('Speed'));
  await user.type(panel.getByLabelText('Speed'), '50{Enter}');
  await waitFor(() => expect(fake.done).toHaveLength(1));
  expect(clips('sound')?.[0]).toEqual([0, 400]);
  expect(clips('picture')?.[0]).toEqual([0, 400]);
});

test('where the next clip keeps its place there is no room, said before; what is no speed changes nothing', async () => {
  const { panel, outcome, user, fake } = await shown();
  await user.click(panel.getByRole('switch', { name: 'What follows moves' }));
  const [speed, length] = [panel.getByLabelText('Speed'), panel.getByLabelText('Length')];
  await user.clear(length);
  await user.type(length, '300');
  expect(outcome()).toBe('There is no room for that: let what follows move.');
  // At half its speed it fills the frames it has with half of its sound.
  await user.clear(speed);
  await user.type(speed, '50');
  expect(outcome()).toContain('Runs 200 frames, 8.00 s');
  for (const wrong of ['0', '-50', 'soon', '1e9']) {
    await user.clear(speed);
    await user.type(speed, `${wrong}{Enter}`);
    expect(outcome()).toMatch(/^Not understood/);
  }
  await user.keyboard('{Escape}');
  expect(speed).toHaveValue('100 %');
  expect(fake.done).toEqual([]);
  expect(fake.document.timelines[0]?.rate).toEqual(rate(25));
});
