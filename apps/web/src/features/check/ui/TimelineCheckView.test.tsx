import { act, screen, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import type { Project } from '@thawline/project';
import { useView } from '../../../shared/state/view.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { TimelineCheckView } from './TimelineCheckView.js';

/** 48 pictures of 24 on a timeline of 25: frames 1 and 26 show their pictures again. */
const talk = film('talk', { measured: { rate: rate(24), ppm: 0 }, pictures: 48, seconds: 2 });
const slow = placed(projectOf(talk), 'talk');
/** The same in fields, where each picture lasts for two of them at least. */
const inFields = placed(
  changed(projectOf(film('floes', { measured: { rate: rate(50), ppm: 0 }, pictures: 40 }), talk), {
    type: 'setTimelineFormat',
    timelineId: 't',
    rate: rate(25),
    width: 640,
    height: 360,
    fields: 'top',
  }),
  'floes',
  'talk',
);

async function shown(project: Project = slow, at = 0) {
  useView.setState({ playheads: {} });
  const fake = new FakeProject(project);
  fake.server.on('comparisons', () => []);
  const view = await show(<TimelineCheckView />, `/p/p/check/timeline/t/${at}`, '/p/:project/check/timeline/:timeline/:frame?');
  return { ...view, place: () => view.router.state.location.pathname };
}
const verdict = () => screen.findByTestId('timeline-verdict');
const listed = async () =>
  within(await screen.findByTestId('timeline-findings'))
    .getAllByRole('button')
    .map((row) => row.textContent);

test('what the rate repeats is told by its frames, and sources without a check are named', async () => {
  await shown();
  expect(await verdict()).toHaveTextContent('True rate24');
  expect(await verdict()).toHaveTextContent("The timeline's rate repeats 2 pictures.");
  expect(await verdict()).toHaveTextContent('Not checked yet: talk; what these hold is not counted.');
  expect(screen.getByRole('heading', { name: '50 frames, 2 held' })).toBeVisible();
  expect(await listed()).toEqual(['1held by rate', '26held by rate']);
});

test('a clip that begins with the picture shown last holds at its cut, and counts with what the rate repeats', async () => {
  const one = film('talk', { pictures: 50, seconds: 2 });
  const split = changed(placed(projectOf(one), 'talk'), {
    type: 'splitClips',
    timelineId: 't',
    clipIds: placed(projectOf(one), 'talk').timelines[0]?.clips.map((c) => c.id),
    frame: 25,
    seed: 'half',
  });
  const late = split.timelines[0]?.clips.filter((c) => c.start === 25).map((c) => c.id);
  await shown(changed(split, { type: 'slipClips', timelineId: 't', clipIds: late, byPictures: -1 }));
  expect(await verdict()).toHaveTextContent('Held by rate1');
  expect(await verdict()).toHaveTextContent('1 cut begins with the picture shown last.');
  expect(await listed()).toEqual(['25held at a cut']);
});

test('one goes from finding to finding, and to the edit at the frame one looks at', async () => {
  const { user, place } = await shown();
  await verdict();
  await user.click(screen.getByRole('button', { name: 'Next finding' }));
  await user.click(screen.getByRole('button', { name: 'Next finding' }));
  expect(place()).toBe('/p/p/check/timeline/t/26');
  expect(screen.getByRole('button', { name: 'Next finding' })).toBeDisabled();
  expect(screen.getByText('00:00:01:01, held by rate')).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Open in the edit' }));
  expect(place()).toBe('/p/p/timelines/t');
  expect(useView.getState().playheads).toEqual({ t: 26 });
});

test('a timeline in fields is judged field by field, each called by its frame', async () => {
  const { user, place } = await shown(inFields, 43);
  expect(await verdict()).toHaveTextContent('Fields a second50');
  expect(screen.getByRole('heading', { name: '140 fields, 52 held' })).toBeVisible();
  // The 40 fields of 50 pictures a second are each new; of 24 each picture fills two fields, and two of them three.
  expect((await listed()).slice(0, 2)).toEqual(['20.2\u00d72held by rate', '22.1held by rate']);
  expect(screen.getByRole('img', { name: 'Field 21.2' })).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Open in the edit' }));
  expect(place()).toBe('/p/p/timelines/t');
  expect(useView.getState().playheads).toEqual({ t: 21 });
});

test('in and out are what is judged', async () => {
  await shown(changed(slow, { type: 'setRange', timelineId: 't', range: { from: 2, to: 20 } }));
  await verdict();
  expect(screen.getByRole('heading', { name: '18 frames, in to out, 0 held' })).toBeVisible();
  expect(await verdict()).toHaveTextContent('Each frame shows a picture of its own, and none is left out.');
});

test('a stretch that is shown twice leads to each place that shows it', async () => {
  const { user, place } = await shown(placed(projectOf(talk), 'talk', 'talk'));
  await verdict();
  const places = within(screen.getByTestId('reused')).getAllByRole('button', { name: /Main cut/ });
  expect(places.map((p) => p.textContent)).toEqual(['Main cut0', 'Main cut50']);
  await user.click(places[1] as HTMLElement);
  expect(place()).toBe('/p/p/timelines/t');
  expect(useView.getState().playheads).toEqual({ t: 50 });
});

test('an empty timeline has nothing to judge, and one that is gone says so', async () => {
  const { router } = await shown(projectOf(talk));
  expect(await screen.findByText('Nothing is placed on it yet.')).toBeVisible();
  await act(() => router.navigate('/p/p/check/timeline/gone'));
  expect(await screen.findByRole('heading', { name: 'There is no such timeline' })).toBeVisible();
});
