import { screen, waitFor, within } from '@testing-library/react';
import type { CheckReply, JobReply } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { NO_FIELDS } from '@thawline/core/truth';
import { madeStill } from '@thawline/project/fixture';
import { changed, FakeProject, film, job, placed, projectOf, show } from '../../../test/project.fixture.js';
import { CheckView } from './CheckView.js';

const burst = film('drip-burst', {
  stored: rate(60),
  measured: { rate: rate(60), ppm: 0 },
  pictures: 40,
  seconds: 40 / 60,
  sound: null,
});

/** Every second picture holds, and one is missing before 21. */
const VERDICT: CheckReply['verdict'] = {
  kind: 'padded',
  pictures: 40,
  storedRate: 60,
  trueRate: 30,
  held: Array.from({ length: 20 }, (_, i) => 2 * i + 1).filter((k) => k !== 21),
  unchanged: Array.from({ length: 20 }, (_, i) => 2 * i + 1).filter((k) => k !== 21),
  jumps: [21],
  missing: [1],
  cuts: [],
  faults: [],
  blends: [],
  shares: [],
  made: [],
  fields: NO_FIELDS,
  parts: [],
  passages: [],
  stretches: [{ from: 0, to: 40, pattern: 'every-2', trueRate: 30, certainty: 0.98, skips: null }],
  certainty: 0.98,
  holdCeiling: 0.42,
};
const CHECK: CheckReply = {
  mediaId: burst.mediaId,
  jobId: 'k1',
  verdict: VERDICT,
  trace: Array.from({ length: 39 }, (_, i) => (i % 2 === 0 ? 0.2 : 4)),
  decoded: 40,
  range: { from: 0, to: 40 },
  region: null,
  counter: null,
};

interface Given {
  readonly check?: CheckReply | null;
  readonly part?: CheckReply | null;
  readonly jobs?: JobReply[];
  readonly at?: number;
  readonly project?: ReturnType<typeof projectOf>;
}

async function shown({ check = CHECK, part = null, jobs = [], at = 0, project = projectOf(burst) }: Given = {}) {
  const fake = new FakeProject(project);
  fake.jobs = jobs;
  const { trace: _, ...summary } = check ?? CHECK;
  fake.server
    .on('checks', () => (check ? [summary] : []))
    .on('check', () => check)
    .on('partCheck', () => part)
    .on('startJobs', () => []);
  const view = await show(<CheckView />, `/p/p/check/drip-burst/${at}`, '/p/:project/check/:source?/:picture?');
  const started = () => fake.server.of('startJobs').map((a) => a.body);
  return { fake, started, ...view };
}
const placeOf = (router: { state: { location: { pathname: string } } }) => router.state.location.pathname.split('/').at(-1);

/** How many there are of each kind of finding. */
async function kinds(): Promise<(string | null)[]> {
  const group = within(await screen.findByRole('group', { name: 'Kinds of findings' }));
  return group.getAllByRole('button').map((b) => b.textContent);
}

test('with nothing that moves there is nothing to check, and the way to files', async () => {
  const { user, router } = await shown({ check: null, project: projectOf(madeStill('floe')) });
  expect(await screen.findByRole('heading', { name: 'Nothing to check yet' })).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Add files' }));
  expect(router.state.location.pathname).toBe('/p/p/sources');
});

test('an unchecked source says what a check does, and starts it', async () => {
  const { user, started } = await shown({ check: null });
  expect(await screen.findByText(/^Not checked yet\. All 40 pictures are decoded/)).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Check drip-burst' }));
  await waitFor(() => expect(started()).toEqual([{ kind: 'check', sourceIds: ['drip-burst'] }]));
});

test('one that runs says how far it is, and is not started again', async () => {
  await shown({ check: null, jobs: [job({ subject: burst.mediaId, done: 10, total: 40 })] });
  expect(await screen.findByText('measuring pictures, 10 of 40')).toBeVisible();
  expect(screen.getByText('checking 25 %')).toBeVisible();
  expect(screen.queryByRole('button', { name: 'Check drip-burst' })).not.toBeInTheDocument();
});

test('the verdict is told in numbers and in a sentence', async () => {
  await shown();
  const verdict = await screen.findByTestId('verdict');
  for (const said of ['True rate30', 'Measured60', 'New pictures21 of 40', 'Certain98.0 %'])
    expect(verdict).toHaveTextContent(said);
});

test('findings stand in their order, with their places, and are gone to', async () => {
  const { user, router } = await shown();
  expect(await kinds()).toEqual(['19 held', '1 jump']);
  const row = screen.getByRole('button', { name: /21 jump$/ });
  expect(row).toHaveTextContent('00:00:00:21');
  await user.click(row);
  await waitFor(() => expect(placeOf(router)).toBe('21'));
});

test('how long pictures stay is counted', async () => {
  await shown();
  expect(await screen.findByTitle('19 stay for 2')).toBeInTheDocument();
  expect(screen.getByTitle('2 stay for 1')).toBeInTheDocument();
});

test('a picture that the check got wrong is corrected by hand', async () => {
  const { fake, user } = await shown({ at: 3 });
  expect(await screen.findByRole('heading', { name: '2 and 3, held' })).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Call it new' }));
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'judgePicture', sourceId: 'drip-burst', picture: 3, as: 'new' }]));
  expect(await screen.findByRole('heading', { name: '2 and 3' })).toBeVisible();
  expect(screen.getByRole('button', { name: 'Leave it to the check' })).toBeVisible();
  expect(await kinds()).toEqual(['18 held', '1 jump']);
});

/** On a timeline that shows each of its pictures, so that those that hold are seen. */
const onceEach = changed(placed(projectOf(burst), 'drip-burst'), {
  type: 'setFit',
  timelineId: 't',
  clipIds: ['c0'],
  fit: 'pictures',
});

test('held pictures are left out by reading, rebuilt by motion, or marked in the edit', async () => {
  const { fake, user } = await shown({ project: onceEach });
  await user.click(await screen.findByRole('button', { name: /^Put \d+ marks in the edit$/ }));
  await waitFor(() => expect(fake.done.map((c) => c.type)).toEqual(['markFrames']));
  await user.click(screen.getByRole('button', { name: 'Rebuild with motion' }));
  await waitFor(() => expect(fake.done.at(-1)).toMatchObject({ type: 'rebuildSource', held: VERDICT.held }));
  await user.click(screen.getByRole('button', { name: /^Keep new pictures only/ }));
  expect(await screen.findByRole('dialog')).toBeVisible();
});

test('its report is there in five forms', async () => {
  const { user } = await shown();
  await user.click(await screen.findByRole('button', { name: 'Save report' }));
  const items = await screen.findAllByRole('menuitem');
  expect(items.map((i) => (i as HTMLAnchorElement).pathname.split('/').at(-1))).toEqual(['html', 'csv', 'json', 'otio', 'edl']);
});

test('a part is checked by its pictures; the whole is not a part', async () => {
  const { user, started } = await shown();
  const button = await screen.findByRole('button', { name: 'Check this part' });
  expect(button).toBeDisabled();
  const first = screen.getByLabelText('First picture to check');
  await user.clear(first);
  await user.type(first, '12');
  await user.click(button);
  await waitFor(() =>
    expect(started()).toEqual([{ kind: 'check', sourceIds: ['drip-burst'], range: { from: 12, to: 40 }, region: null }]),
  );
});

test('where a counter goes on while pictures hold, the rest can be checked by itself', async () => {
  const counter = { x: 0.02, y: 0.9, width: 0.2, height: 0.08 };
  const { user, started } = await shown({ check: { ...CHECK, counter } });
  expect(await screen.findByText(/^Something at the bottom left goes on changing/)).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Check the rest of the picture' }));
  await user.click(screen.getByRole('button', { name: 'Check this part' }));
  await waitFor(() => expect(started()).toHaveLength(1));
  const { region } = started()[0] as { region: { y: number; height: number } };
  expect(region.y + region.height).toBeLessThanOrEqual(0.9);
});

test('a checked part is shown in place of the whole, and back', async () => {
  const part = {
    ...CHECK,
    jobId: 'k2',
    range: { from: 10, to: 30 },
    verdict: { ...VERDICT, held: [], jumps: [], trueRate: 60, kind: 'new' as const },
    trace: CHECK.trace.slice(0, 19),
  };
  const { user } = await shown({ part });
  await user.click(await screen.findByText('10 to 29'));
  await waitFor(() => expect(screen.getByTestId('verdict')).toHaveTextContent('True rate60'));
  await user.click(screen.getByText('whole file'));
  await waitFor(() => expect(screen.getByTestId('verdict')).toHaveTextContent('True rate30'));
});

test('what a camera claims is judged beside the verdict', async () => {
  const { user } = await shown();
  await user.type(await screen.findByLabelText('What the camera claims'), '60{Enter}');
  expect(await screen.findByTestId('claim-answer')).toHaveTextContent(
    /^Not kept: a claim of 60 wants every picture new\. What is new here fits a claim of 30\./,
  );
});

test('sources are listed with what is known of each, and gone to', async () => {
  const other = film('jetty-pan', { sound: null });
  const { user, router } = await shown({ project: projectOf(burst, other) });
  const pan = await screen.findByRole('button', { name: /^jetty-pan/ });
  expect(pan).toHaveTextContent('not checked');
  await user.click(pan);
  await waitFor(() => expect(router.state.location.pathname).toContain('/check/jetty-pan'));
});

test('pictures are walked with the keys, one by one and from finding to finding', async () => {
  const { user, router } = await shown({ at: 20 });
  const strip = within((await screen.findByText(/^Pictures \d+ to \d+$/)).closest('section') as HTMLElement);
  expect(strip.getAllByRole('button', { current: true })).toHaveLength(1);
  await user.keyboard('{ArrowRight}');
  await waitFor(() => expect(placeOf(router)).toBe('21'));
});

test('cuts and faulty pictures stand among the findings, each by its kind', async () => {
  const faults = [
    { picture: 12, kind: 'black' as const, certainty: 0.99 },
    { picture: 30, kind: 'swapped' as const, certainty: 0.99 },
  ];
  const verdict = {
    ...VERDICT,
    kind: 'new' as const,
    held: [5],
    unchanged: [5],
    jumps: [],
    missing: [],
    cuts: [20],
    faults,
    trueRate: 60,
  };
  const { user, router } = await shown({ check: { ...CHECK, verdict } });
  expect(await kinds()).toEqual(['1 held', '2 faults', '1 cut']);
  const told = screen.getAllByTitle(/^(Shows nothing new|A picture that does not belong|The first picture of another shot)/);
  expect(told.map((k) => k.textContent)).toEqual(['held', 'black', 'cut', 'swapped']);
  expect(screen.getByTestId('verdict')).toHaveTextContent(
    '2 pictures do not belong: 1 black, 1 exchanged with the next. There is 1 cut.',
  );
  await user.click(screen.getByRole('button', { name: /30 swapped$/ }));
  await waitFor(() => expect(placeOf(router)).toBe('30'));
});

test('where most pictures stay as they were no true rate is told, no claim is judged, and what stays is no new picture', async () => {
  const unchanged = Array.from({ length: 30 }, (_, i) => i + 5);
  const stretches = [{ from: 0, to: 40, pattern: 'still', trueRate: null, certainty: 0.9, skips: null }];
  const verdict = { ...VERDICT, kind: 'still' as const, held: [], unchanged, jumps: [], missing: [], trueRate: 60, stretches };
  await shown({ check: { ...CHECK, verdict }, at: 20 });
  const told = await screen.findByTestId('verdict');
  expect(told).toHaveTextContent('True rate\u2013');
  expect(told).toHaveTextContent('New pictures10 of 40');
  expect(told).toHaveTextContent(
    'Most pictures are as the one before, so no true rate can be told. 30 pictures are the same as the one before.',
  );
  expect(screen.queryByLabelText('What the camera claims')).not.toBeInTheDocument();
  expect(screen.getByTestId('strip-20')).toHaveTextContent('same');
});

/** A clip of new pictures with a cut, two faults and a skip; fields and parts as given. */
const odd = (more: Partial<CheckReply['verdict']> = {}): CheckReply => ({
  ...CHECK,
  trace: Array.from({ length: 39 }, (_, i) => (i === 7 ? 8 : 4)),
  verdict: {
    ...VERDICT,
    kind: 'new',
    held: [],
    unchanged: [],
    jumps: [8],
    missing: [1],
    cuts: [20],
    trueRate: 60,
    faults: [
      { picture: 12, kind: 'black', certainty: 0.99 },
      { picture: 30, kind: 'swapped', certainty: 0.99 },
    ],
    stretches: [{ from: 0, to: 40, pattern: 'new', trueRate: 60, certainty: 0.98, skips: null }],
    ...more,
  },
});

test('only one kind of finding is listed and walked where that is chosen', async () => {
  const { user, router } = await shown({ check: odd() });
  await user.click(await screen.findByRole('button', { name: '2 faults' }));
  await user.click(screen.getByRole('button', { name: 'Next fault' }));
  await waitFor(() => expect(placeOf(router)).toBe('12'));
  await user.keyboard('f');
  await waitFor(() => expect(placeOf(router)).toBe('30'));
  await user.click(screen.getByRole('button', { name: '2 faults' }));
  await user.click(screen.getByRole('button', { name: 'Previous finding' }));
  await waitFor(() => expect(placeOf(router)).toBe('20'));
});

test.each([
  [8, 'All that moves goes twice as far as the steps before and after foresee. One picture is missing between 7 and 8.'],
  [12, 'All of 12 is dark'],
  [20, 'Hardly anything of 19 is found again in 20.'],
  [30, 'With 30 and 31 exchanged it is even.'],
])('why picture %i was found is said beside it', async (at, said) => {
  await shown({ check: odd(), at });
  expect(await screen.findByTestId('why')).toHaveTextContent(said);
});

test('what a person said of a picture is not explained by the check', async () => {
  const { user } = await shown({ at: 3 });
  expect(await screen.findByTestId('why')).toHaveTextContent('Each picture here is stored 2 times');
  await user.click(screen.getByRole('button', { name: 'Call it new' }));
  await waitFor(() => expect(screen.getByTestId('why')).toHaveTextContent('Why 3 is new: a person said so.'));
});

test('a picture like the others has nothing to explain', async () => {
  await shown({ check: odd(), at: 16 });
  expect(await screen.findByTestId('lanes')).toBeVisible();
  expect(screen.queryByTestId('why')).not.toBeInTheDocument();
});

test('what was found lies in lanes under the trace, and is gone to from there', async () => {
  const { user, router } = await shown({ check: odd() });
  const lanes = within(await screen.findByTestId('lanes'));
  for (const lane of ['held: 0', 'jumps: 1', 'cuts: 1', 'faults: 2'])
    expect(lanes.getByRole('img', { name: lane })).toBeInTheDocument();
  await user.click(lanes.getByTitle('faults 30'));
  await waitFor(() => expect(placeOf(router)).toBe('30'));
});

test('a dissolve lies among the cuts as long as it is, and is told', async () => {
  const { user, router } = await shown({ check: odd({ passages: [{ from: 24, to: 29, kind: 'dissolve' }] }) });
  expect(await screen.findByTestId('verdict')).toHaveTextContent('There is 1 cut, 1 dissolve.');
  await user.click(within(screen.getByTestId('lanes')).getByTitle('dissolve, pictures 24 to 28'));
  await waitFor(() => expect(placeOf(router)).toBe('24'));
});

test('fields that differ have a lane with their stretches, and a wrong flag is told', async () => {
  const stretch = { flag: 'wrong' as const, certainty: 0.99 };
  const stretches = [
    { ...stretch, from: 0, to: 20, kind: 'none' as const, first: null },
    { ...stretch, from: 20, to: 40, kind: 'interlaced' as const, first: 'bottom' as const },
  ];
  const fields = { ...NO_FIELDS, kind: 'mixed' as const, first: 'bottom' as const, flag: 'wrong' as const, stretches };
  const { user, router } = await shown({ check: odd({ fields }) });
  const lanes = within(await screen.findByTestId('lanes'));
  expect(screen.getByTestId('verdict')).toHaveTextContent('What the file says of its fields is wrong.');
  await user.click(lanes.getByRole('button', { name: 'interlaced, bottom field first' }));
  await waitFor(() => expect(placeOf(router)).toBe('20'));
});

test('parts with rates of their own are drawn over the picture and listed', async () => {
  const part = { pattern: 'every-3', certainty: 0.99, x: 0.6, y: 0.6, width: 0.3, height: 0.3, trueRate: 20 };
  await shown({ check: odd({ parts: [{ ...part, x: 0, y: 0, width: 1, height: 1, pattern: 'new', trueRate: 60 }, part] }) });
  expect(await screen.findByRole('heading', { name: 'Rates in the frame' })).toBeVisible();
  expect(screen.getByText('lower right')).toBeVisible();
  expect(screen.getByTestId('verdict')).toHaveTextContent('60 (most of it), 20 (lower right)');
});

test('places that the check is not sure about are to be looked at, and gone to', async () => {
  const stretches = [
    { from: 0, to: 20, pattern: 'new', trueRate: 60, certainty: 0.98, skips: null },
    { from: 20, to: 40, pattern: 'new', trueRate: 60, certainty: 0.6, skips: null },
  ];
  const { user, router } = await shown({ check: odd({ stretches }) });
  const look = within((await screen.findByText('Look yourself: 1 place.')).parentElement as HTMLElement);
  await user.click(look.getByRole('button', { name: '20' }));
  await waitFor(() => expect(placeOf(router)).toBe('20'));
});
