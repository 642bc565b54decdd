import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { CarrySheet } from './CarrySheet.js';

/** 101 frames of 25 are 4.04 s, at 24 nearest to 97 frames: 4.0417 s, 1.67 ms later. */
const uneven = placed(projectOf(film('floe-drift', { pictures: 101 }), film('gate-open')), 'floe-drift', 'gate-open');
/** 200 frames of 25 are 8 s: 192 of 24, to the moment. */
const even = placed(projectOf(film('floe-drift'), film('gate-open')), 'floe-drift', 'gate-open');

function Sheet({ asked, onClose }: { asked: string; onClose: () => void }) {
  const [timeline] = useProject().project.timelines;
  return timeline ? <CarrySheet timeline={timeline} asked={asked} onClose={onClose} /> : null;
}

async function shown(project = even, asked = '') {
  const fake = new FakeProject(project);
  let closed = 0;
  const onClose = () => {
    closed++;
  };
  const view = await show(<Sheet asked={asked} onClose={onClose} />, '/p/p/timelines/t', '/p/:project/timelines/:timeline?');
  const sheet = within(await screen.findByRole('dialog', { name: 'Carry Main cut to another rate' }));
  return { fake, closed: () => closed, sheet, ...view };
}
const report = () => screen.getByTestId('carry-report').textContent;

test('without a rate there is nothing to carry to; the rate it has already is no other one', async () => {
  const { sheet, user } = await shown();
  expect(sheet.getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  await user.type(sheet.getByLabelText('Carry to'), '25');
  expect(sheet.getByText('That is its rate already. Duplicate it instead.')).toBeVisible();
  expect(sheet.getByRole('button', { name: 'Choose a rate' })).toBeDisabled();
  expect(screen.queryByTestId('carry-report')).toBeNull();
});

test('where the moments meet, all cuts stay; each clip is told with its frames before and after', async () => {
  const { sheet } = await shown(even, '24');
  expect(report()).toContain('all stay at their very moment');
  const row = within(sheet.getByRole('row', { name: /gate-open/ }));
  expect(row.getByText('200 → 192')).toBeVisible();
  expect(row.getByText('0 ms')).toBeVisible();
  expect(row.getByText('00:00:08:00', { selector: ':not(.quiet)' })).toBeVisible();
});

test('where they do not, the furthest move is told beside half a frame', async () => {
  const { sheet } = await shown(uneven, '24');
  // Cuts at frames 0, 101 and 301: 0, 4.04 and 12.04 s; at 24 the nearest are 97 and 289, each 1.67 ms later.
  expect(report()).toContain(
    '3 cuts: 1 stay at their very moment, the others move by at most 1.67 ms (half a frame is 20.83 ms)',
  );
  expect(within(sheet.getByRole('row', { name: /gate-open/ })).getByText('+1.67 ms')).toBeVisible();
});

test('hitches of pictures at 25 in frames of 24 are counted before they are there', async () => {
  await shown(even, '24');
  // A picture of 25 a second is left out each second: 8 s in each of two clips.
  expect(report()).toMatch(/Hitches: 0 now, 1[46] then; 2 clips gain, 0 lose some/);
});

test('it is carried under the name that is typed, and the new timeline is gone to', async () => {
  const { fake, closed, sheet, user, router } = await shown(even, '24');
  const name = sheet.getByLabelText('Called');
  expect(name).toHaveValue('Main cut 24');
  await user.clear(name);
  await user.type(name, 'For the festival');
  await user.click(sheet.getByRole('button', { name: 'Carry to 24' }));
  await waitFor(() => expect(closed()).toBe(1));
  const made = fake.document.timelines[1];
  expect(made).toMatchObject({ name: 'For the festival', rate: rate(24) });
  expect(made?.clips.filter((c) => c.link === null || c.laneId === made.lanes[0]?.id)[1]).toMatchObject({
    start: 192,
    length: 192,
  });
  expect(fake.document.timelines[0]).toEqual(even.timelines[0]);
  expect(router.state.location.pathname).toBe(`/p/p/timelines/${made?.id}`);
});

test('frames of two fields become whole pictures past 30 a second, and that is said before', async () => {
  const { sheet, user } = await shown(
    changed(even, { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360, fields: 'top' }),
    '50',
  );
  expect(sheet.getByText(/Frames of two fields go up to 30 a second/)).toBeVisible();
  await user.clear(sheet.getByLabelText('Carry to'));
  await user.type(sheet.getByLabelText('Carry to'), '24');
  expect(sheet.queryByText(/Frames of two fields go up to 30 a second/)).toBeNull();
});
