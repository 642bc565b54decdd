import { screen, waitFor, within } from '@testing-library/react';
import type { JobReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { cadenceOf, type Project } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, job, placed, projectOf, show } from '../../../test/project.fixture.js';
import { RetimeFacts } from './RetimeFacts.js';

const whole = placed(projectOf(film('talk')), 'talk');
const [pictures, sound] = ['picture', 'sound'].map(
  (kind) =>
    whole.timelines[0]?.clips.find((c) => whole.timelines[0]?.lanes.some((l) => l.id === c.laneId && l.kind === kind))?.id ?? '',
);
/** 200 pictures of 25, at half their speed: 400 frames, every second of them between two pictures. */
const slow = changed(whole, {
  type: 'retimeClip',
  timelineId: 't',
  clipId: pictures,
  speed: rate(1, 2),
  follow: 'move',
});
const fit = (project: Project, how: string): Project =>
  changed(project, { type: 'setFit', timelineId: 't', clipIds: [pictures], fit: how });
const fields = (project: Project): Project =>
  changed(project, { type: 'setTimelineFormat', timelineId: 't', rate: rate(25), width: 640, height: 360, fields: 'top' });

function Facts({ n }: { n: number }) {
  const { project, timings } = useProject();
  const [timeline] = project.timelines;
  const clip = timeline?.clips.find((c) => c.id === pictures);
  const cadence = timeline && clip && cadenceOf(project, timeline, clip, timings);
  return cadence ? <RetimeFacts timeline={timeline} cadence={cadence} n={n} /> : null;
}

async function shown(project: Project = fit(slow, 'motion'), { jobs = [] as JobReply[], pan = null as object | null } = {}) {
  const fake = new FakeProject(project);
  fake.jobs = jobs;
  fake.server
    .on('heldOut', () => null)
    .on('pan', () => pan)
    .on('startJobs', () => []);
  const view = await show(<Facts n={0} />);
  const facts = await screen.findByTestId('retime-facts');
  const started = () => fake.server.asked.filter((a) => a.route === 'startJobs').map((a) => a.body);
  return { fake, facts, started, ...view };
}
const fact = (name: string) => screen.getByText(name).parentElement?.textContent;

test('what each frame is counted as, at the speed of the place', async () => {
  await shown();
  expect(fact('Speed here')).toBe('Speed here50 %');
  expect(fact('Runs')).toBe('Runs16.00 s400 frames');
  expect(fact('Real')).toBe('Real200');
  expect(fact('Made by motion')).toBe('Made by motion199');
  expect(fact('Held')).toBe('Held1');
  expect(screen.queryByText('Blended')).not.toBeInTheDocument();
});

test('on a timeline in fields every field is counted', async () => {
  await shown(fields(fit(slow, 'motion')));
  expect(fact('Runs')).toBe('Runs16.00 s400 frames, 800 fields');
  expect(fact('Real')).toBe('Real200');
  expect(fact('Made by motion')).toBe('Made by motion597');
});

test('how pictures are mixed is asked where some are, and only there', async () => {
  const { user, fake } = await shown();
  expect(screen.queryByLabelText('Mixed')).not.toBeInTheDocument();
  await user.click(screen.getByText('blend'));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setFit', clipIds: [pictures], fit: 'blend' }]));
  await user.click(await screen.findByRole('combobox', { name: 'Mixed' }));
  await user.click(await screen.findByRole('option', { name: 'in linear light' }));
  await waitFor(() => expect(fake.done.at(-1)).toMatchObject({ type: 'setMix', clipIds: [pictures], mix: 'light' }));
});

test('what its sound does is done to the clip that sounds', async () => {
  const { user, fake } = await shown();
  await user.click(screen.getByRole('combobox', { name: 'Sound' }));
  await user.click((await screen.findAllByRole('option')).at(-1) as HTMLElement);
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setSound', clipIds: [sound] }]));
});

test('a shutter is chosen in degrees', async () => {
  const { user, fake } = await shown();
  await user.click(screen.getByRole('combobox', { name: 'Shutter' }));
  await user.click(await screen.findByRole('option', { name: '180\u00b0' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setShutter', clipIds: [pictures], degrees: 180 }]));
});

test('what takes long is measured when it is asked for', async () => {
  const { user, started, facts } = await shown();
  await user.click(within(facts).getByRole('button', { name: 'Hide and rebuild' }));
  await user.click(within(facts).getByRole('button', { name: 'Measure it' }));
  await waitFor(() =>
    expect(started()).toEqual([
      { kind: 'heldout', sourceId: 'talk' },
      { kind: 'pan', sourceId: 'talk' },
    ]),
  );
});

test('while it is measured it cannot be asked for again', async () => {
  const { facts } = await shown(fit(slow, 'motion'), { jobs: [job({ kind: 'heldout', subject: 'media-talk' })] });
  await waitFor(() => expect(within(facts).getByRole('button', { name: 'Hide and rebuild' })).toHaveAttribute('data-loading'));
  expect(within(facts).getByRole('button', { name: 'Measure it' })).not.toHaveAttribute('data-loading');
});
