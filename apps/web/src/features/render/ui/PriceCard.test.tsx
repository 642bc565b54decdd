import { act, screen, waitFor } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { formSchema, type Project } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { useRenderWishes } from '../../../shared/state/renderWishes.js';
import { FakeProject, film, job, placed, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { PriceCard } from './PriceCard.js';

const drift = film('floe-drift', { sound: null });
const even = { value: 4e6, least: 3.9e6, most: 4.1e6 };
const TRIAL = {
  frames: 200,
  reused: 0,
  seconds: { value: 12, least: 11.5, most: 12.5 },
  bytes: even,
  free: 90e9,
  psnr: 41.26,
  peak: null,
  loudness: null,
  addedDb: null,
  gainDb: 0,
};

function Card() {
  const { project } = useProject();
  const [timeline] = project.timelines;
  return timeline ? <PriceCard timeline={timeline} clipId={undefined} /> : null;
}

/** The card beside a server whose trial finds the given values. */
function priced(found: object, project: Project = placed(projectOf(drift), 'floe-drift')) {
  const fake = new FakeProject(project);
  const trial = job({ id: 'j9', kind: 'trial', state: 'done', subject: 't' });
  fake.server
    .on('startJobs', () => {
      fake.jobs = [trial];
      return [trial];
    })
    .on('trial', () => ({ ...TRIAL, jobId: 'j9', ...found }));
  fake.jobs = [trial];
  return fake;
}

beforeEach(() => useRenderWishes.getState().set({ form: formSchema.parse({}) }));

test('frames are counted at once; time, size and free space follow from a trial', async () => {
  priced({});
  await show(<Card />);
  expect(await screen.findByTestId('price')).toHaveTextContent('200 frames: 200 real, 0 held, 0 blended. No hitches.');
  expect(screen.getByText('Time and size are not known yet.')).toBeVisible();
  const cost = await screen.findByTestId('cost');
  expect(cost).toHaveTextContent('Comes to about 4.0 MB in about 0:12.0; coded pictures lie 41.3 dB from the composed ones.');
  expect(cost).toHaveTextContent('90.00 GB are free.');
});

test('a range is told where tries differ, and too little space', async () => {
  priced({ bytes: { value: 4e6, least: 2e6, most: 9e6 }, free: 10e6 });
  await show(<Card />);
  const cost = await screen.findByTestId('cost');
  expect(cost).toHaveTextContent('Comes to between 2.0 MB and 9.0 MB in');
  expect(cost).toHaveTextContent('10.0 MB are free: that is hardly enough.');
});

test('why it cannot be tried is said, and the render is still there to be pressed', async () => {
  const fake = priced({});
  fake.server.on('startJobs', () => {
    throw new TurnedDown('disk-full');
  });
  await show(<Card />);
  expect(await screen.findByText(/^Time and size cannot be tried: /)).toHaveTextContent(/disk/i);
  expect(screen.getByRole('button', { name: 'Render' })).toBeEnabled();
});

test('where pictures would lose something, one press takes the samples that their source has', async () => {
  priced({}, placed(projectOf(film('floe-drift', { sound: null, pixelFormat: 'yuv422p10le' })), 'floe-drift'));
  const { user } = await show(<Card />);
  const notes = await screen.findByRole('list', { name: 'What becomes of its pictures and sound' });
  expect(notes).toHaveTextContent('floe-drift: colour of 4:2:2 becomes that of 4:2:0, 10 bit becomes 8.');
  await user.click(screen.getByRole('button', { name: 'Keep what its sources have: 4:2:2, 10 bit' }));
  expect(useRenderWishes.getState().form).toMatchObject({ chroma: '422', depth: 10 });
  expect(screen.queryByRole('button', { name: /^Keep what/ })).not.toBeInTheDocument();
});

test('more than two channels are told to be mixed, until all are kept', async () => {
  const six = film('floe-drift', { sound: { seconds: 8, sampleRate: 48_000, channels: 6, codec: 'pcm_s24le', startSeconds: 0 } });
  priced({}, placed(projectOf(six), 'floe-drift'));
  await show(<Card />);
  expect(await screen.findByText('Sound of up to 6 channels is mixed to two, unless all channels are kept.')).toBeVisible();
  act(() => useRenderWishes.getState().change({ kind: 'mkv', sound: 'all' }));
  expect(screen.queryByText(/^Sound of up to 6/)).not.toBeInTheDocument();
});

test('files that are missing are named, and the render waits for them', async () => {
  const lost = film('old-reel', { sound: null, lost: { url: '/reels/old-reel.mov' } });
  priced({}, placed(projectOf(lost), 'old-reel'));
  await show(<Card />);
  expect(await screen.findByTestId('price-lost')).toHaveTextContent('A file of this render is not there: old-reel.');
  expect(screen.getByRole('button', { name: 'Go to old-reel' })).toBeEnabled();
  expect(screen.getByRole('button', { name: 'Render' })).toBeDisabled();
});

test('lines that the form cannot share between two fields are told, and the render waits', async () => {
  const project = placed(projectOf(drift), 'floe-drift');
  const fake = priced({}, { ...project, timelines: project.timelines.map((t) => ({ ...t, width: 720, height: 486 })) });
  useRenderWishes.getState().change({ fields: { order: 'bottom', lowPass: 'off', pulldown: false } });
  await show(<Card />);
  expect(await screen.findByText(/^H\.264 needs a multiple of four lines .+ 486\. Matroska takes it\.$/)).toBeVisible();
  expect(screen.getByRole('button', { name: 'Render' })).toBeDisabled();
  // What cannot be coded is not tried either.
  expect(fake.server.of('startJobs')).toEqual([]);
  act(() => useRenderWishes.getState().change({ kind: 'mkv' }));
  expect(screen.getByRole('button', { name: 'Render' })).toBeEnabled();
});

test('an odd size that the form does not take waits for one beside it, which is a press away', async () => {
  const project = placed(projectOf(drift), 'floe-drift');
  const odd = { ...project, timelines: project.timelines.map((t) => ({ ...t, width: 641, height: 361 })) };
  const fake = priced({}, odd);
  const { user } = await show(<Card />);
  expect(await screen.findByText(/^H\.264 at 4:2:0 needs an even width and height/)).toBeVisible();
  expect(screen.getByRole('button', { name: 'Render' })).toBeDisabled();
  expect(screen.getByRole('button', { name: 'Make the timeline 640×360' })).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Make the timeline 642×362' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setTimelineFormat', width: 642, height: 362 }]));
  await waitFor(() => expect(screen.getByRole('button', { name: 'Render' })).toBeEnabled());
});

test('the render is asked for with the timeline, its form and its range', async () => {
  const fake = priced({});
  const { user } = await show(<Card />);
  await user.click(await screen.findByRole('button', { name: 'Render' }));
  await waitFor(() => expect(fake.server.of('startJobs').some((a) => (a.body as { kind: string }).kind === 'render')).toBe(true));
  const asked = fake.server.of('startJobs').find((a) => (a.body as { kind: string }).kind === 'render');
  expect(asked?.body).toMatchObject({ timelineId: 't', clipId: null, form: { kind: 'mp4' } });
});

test('sources at another rate: what is held is counted, each hitch with a way to it', async () => {
  const at24 = film('floe-drift', { sound: null, stored: rate(24), measured: { rate: rate(24), ppm: 0 }, seconds: 200 / 24 });
  priced({}, placed(projectOf(at24), 'floe-drift'));
  await show(<Card />);
  expect(await screen.findByTestId('price')).toHaveTextContent(
    /208 frames: 199 real, 9 held, 0 blended\. 9 hitches stay, in floe-drift\./,
  );
  expect(screen.getByRole('button', { name: 'Show the hitches' })).toBeEnabled();
});

test('a timeline in fields is counted by them, unless whole pictures are asked for', async () => {
  const at50 = film('floe-drift', { sound: null, stored: rate(50), measured: { rate: rate(50), ppm: 0 }, seconds: 4 });
  const project = placed(projectOf(at50), 'floe-drift');
  priced({}, { ...project, timelines: project.timelines.map((t) => ({ ...t, fields: 'top' as const })) });
  await show(<Card />);
  expect(await screen.findByTestId('price')).toHaveTextContent('200 fields: 200 real, 0 held, 0 blended.');
  expect(screen.getByText('of two fields, top first, each at its own moment, as the timeline')).toBeVisible();
  act(() => useRenderWishes.getState().change({ fields: 'whole' }));
  expect(screen.getByTestId('price')).toHaveTextContent('100 frames: 100 real, 0 held, 0 blended.');
  expect(screen.getByText('whole pictures: the moments of second fields are left out')).toBeVisible();
});

test('film by 2:3 is written at a rate of its own, and the price says what stays how long', async () => {
  const film24 = film('floe-drift', { sound: null, stored: rate(24), measured: { rate: rate(24), ppm: 0 }, seconds: 200 / 24 });
  const project = projectOf(film24);
  priced({}, placed({ ...project, timelines: project.timelines.map((t) => ({ ...t, rate: rate(24) })) }, 'floe-drift'));
  useRenderWishes.getState().change({ fields: { order: 'top', lowPass: 'off', pulldown: true } });
  await show(<Card />);
  expect(await screen.findByTestId('price')).toHaveTextContent('500 fields: 200 real, 300 held, 0 blended.');
  expect(screen.getByText('30')).toBeVisible();
  expect(screen.getByText(/^film by 2:3, top first: each picture stays two fields or three/)).toBeVisible();
});
