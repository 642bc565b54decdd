import { screen, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import type { Project } from '@thawline/project';
import { useView } from '../../shared/state/view.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../test/project.fixture.js';
import { RateChain } from './RateChain.js';

const drips = film('icicle-drip', {
  stored: rate(30),
  measured: { rate: rate(30), ppm: 0 },
  pictures: 240,
  sound: null,
});

async function shown(project: Project) {
  const fake = new FakeProject(project);
  const view = await show(<RateChain />);
  const chain = within(await screen.findByTestId('rate-chain'));
  return { fake, chain, link: (name: RegExp) => chain.getByRole('link', { name }), ...view };
}
afterEach(() => useView.setState({ viewingSpeed: 1 }));

test('where all run at one rate the chain says it once a link, without a kink', async () => {
  const { chain, link } = await shown(placed(projectOf(film('floe-drift')), 'floe-drift'));
  expect(link(/^Sources/)).toHaveTextContent('Sources25');
  expect(link(/^Timeline/)).toHaveTextContent('Timeline · Main cut25');
  expect(link(/^Viewing/)).toHaveTextContent('Viewing only25');
  expect(link(/^Render/)).toHaveTextContent('Render25');
  expect(chain.getByRole('button', { name: 'Sources and timeline: all clips match' })).toBeDisabled();
  expect(chain.getByRole('button', { name: "The render has the timeline's rate" })).toBeDisabled();
});

test('an empty project has no rates to tell', async () => {
  const { link } = await shown(projectOf());
  expect(link(/^Sources/)).toHaveTextContent('Sources–');
  expect(link(/^Timeline/)).toHaveTextContent('Timeline · Main cut25');
});

test('a clip of another rate kinks the chain; the kink names it, its rate and its hitches, and leads there', async () => {
  const { chain, link, user, fake } = await shown(placed(projectOf(film('floe-drift'), drips), 'floe-drift', 'icicle-drip'));
  const placedClip = fake.document.timelines[0]?.clips.at(-1)?.id;
  expect(link(/^Sources/)).toHaveTextContent('Sources2 rates');
  await user.click(chain.getByRole('button', { name: 'Sources and timeline: 1 clip does not match' }));
  const told = within(await screen.findByRole('dialog'));
  expect(told.getByText('1 clip does not run at 25')).toBeVisible();
  const clip = told.getByRole('link', { name: 'icicle-drip' });
  expect(clip).toHaveAttribute('href', `/p/p/timelines/t/${placedClip}`);
  // 30 in 25: five of thirty pictures are left out each second.
  expect(clip.parentElement).toHaveTextContent(/^icicle-drip 30: \d+ hitches, (4\.\d\d|5\.00) a second$/);
});

test('blended, the clip still does not match, and is said to be blended instead of to hitch', async () => {
  const mixed = changed(placed(projectOf(drips), 'icicle-drip'), {
    type: 'setFit',
    timelineId: 't',
    clipIds: ['c0'],
    fit: 'blend',
  });
  const { chain, user } = await shown(mixed);
  await user.click(chain.getByRole('button', { name: 'Sources and timeline: 1 clip does not match' }));
  expect(within(await screen.findByRole('dialog')).getByRole('link', { name: 'icicle-drip' }).parentElement).toHaveTextContent(
    'icicle-drip 30: blended',
  );
});

test.each([
  [0.5, '12.5 · ×½'],
  [2, '50 · ×2'],
] as const)('looked at %s times as fast, the viewing link says at what rate; the others stay', async (viewingSpeed, words) => {
  useView.setState({ viewingSpeed });
  const { link } = await shown(placed(projectOf(film('floe-drift')), 'floe-drift'));
  expect(link(/^Viewing/)).toHaveTextContent(`Viewing only${words}`);
  expect(link(/^Timeline/)).toHaveTextContent('Timeline · Main cut25');
  expect(link(/^Render/)).toHaveTextContent('Render25');
});
