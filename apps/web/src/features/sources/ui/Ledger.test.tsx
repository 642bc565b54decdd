import { jest } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import type { CheckSummary, FileState } from '@thawline/contract';
import { rate } from '@thawline/core/time';
import { NO_FIELDS } from '@thawline/core/truth';
import type { FileSource } from '@thawline/project';
import { madeSequence, madeSound, madeStill } from '@thawline/project/fixture';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, job, placed, projectOf, show } from '../../../test/project.fixture.js';
import { Ledger } from './Ledger.js';

const onCheck = jest.fn();
const onReadAt = jest.fn();

function Panel({ name, check, file }: { name: string; check: CheckSummary | null; file: FileState | null }) {
  const { project } = useProject();
  const source = project.sources.find((s) => s.name === name);
  if (!source) return null;
  return <Ledger source={source} check={check} checking={null} file={file} onCheck={onCheck} onReadAt={onReadAt} />;
}

const VERDICT = {
  kind: 'padded',
  pictures: 200,
  storedRate: 60,
  trueRate: 30,
  held: Array.from({ length: 100 }, (_, i) => 2 * i + 1),
  unchanged: Array.from({ length: 100 }, (_, i) => 2 * i + 1),
  jumps: [],
  missing: [],
  cuts: [],
  faults: [],
  blends: [],
  shares: [],
  made: [],
  fields: NO_FIELDS,
  parts: [],
  passages: [],
  stretches: [{ from: 0, to: 200, pattern: 'every-2', trueRate: 30, certainty: 0.999, skips: null }],
  certainty: 0.999,
  holdCeiling: 0.4,
};
const checkOf = (source: FileSource, other: object = {}) =>
  ({
    mediaId: source.mediaId,
    jobId: 'k1',
    verdict: VERDICT,
    decoded: 200,
    range: { from: 0, to: 200 },
    region: null,
    counter: null,
    ...other,
  }) as CheckSummary;

async function shown(
  source: FileSource,
  {
    check = null,
    file = null,
    project = projectOf(source),
  }: { check?: CheckSummary | null; file?: FileState | null; project?: ReturnType<typeof projectOf> } = {},
) {
  for (const f of [onCheck, onReadAt]) f.mockClear();
  const fake = new FakeProject(project);
  fake.server.on('wave', () => new ArrayBuffer(0));
  const view = await show(<Panel name={source.name} check={check} file={file} />);
  const ledger = within(await screen.findByRole('complementary', { name: 'Rate ledger' }));
  const line = (name: string) => ledger.getByTestId(`ledger-${name}`);
  return { fake, ledger, line, ...view };
}

const burst = film('drip-burst', { stored: rate(60), measured: { rate: rate(60), ppm: 0.2 }, seconds: 200 / 60, sound: null });

test('each of its rates stands with where it came from', async () => {
  const { line } = await shown(burst, { check: checkOf(burst) });
  expect(line('Stored')).toHaveTextContent('60');
  expect(line('Measured')).toHaveTextContent(/60.*0\.2 ppm left/);
  expect(line('True')).toHaveTextContent('30');
});

test('what its file holds is told in one line', async () => {
  const { ledger } = await shown(burst);
  expect(ledger.getByText('200 pictures · 0:03.3 · 640×360 · h264 · progressive · no sound')).toBeVisible();
});

test('a claim is typed, kept by Enter, and judged against what is there', async () => {
  const { fake, ledger, user } = await shown(burst, { check: checkOf(burst) });
  await user.type(ledger.getByLabelText('The camera claims'), '60{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'setClaim', claimed: { num: 60, den: 1 } }]));
  expect(await ledger.findByTestId('claim-verdict')).toHaveTextContent('The camera claimed 60; what is here fits 30.');
});

test('a claim that is no rate is told at its field, and nothing is kept', async () => {
  const { fake, ledger, user } = await shown(burst);
  const field = ledger.getByLabelText('The camera claims');
  await user.type(field, 'quick{Enter}');
  expect(field).toHaveAccessibleDescription(/\w/);
  expect(fake.done).toEqual([]);
});

test('a file whose header and timestamps differ says which of them counts', async () => {
  const { ledger } = await shown(film('odd', { stored: rate(25), measured: { rate: rate(24), ppm: 0 }, sound: null }));
  expect(ledger.getByText(/The file says 25, its timestamps say 24\. The timestamps count here\./)).toBeVisible();
});

test('a sound that is longer proposes the rate that would fit it', async () => {
  const sound = { seconds: 8.34, sampleRate: 48_000, channels: 2, codec: 'aac', startSeconds: 0 };
  const { ledger, user } = await shown(film('reel', { sound }));
  expect(ledger.getByText(/The sound runs 0\.34 s longer than the pictures as stored\./)).toBeVisible();
  await user.click(ledger.getByRole('button', { name: /^Read at 23\.976/ }));
  expect(onReadAt).toHaveBeenCalledWith({ origin: 'sound' });
});

test('an unchecked one offers its check, a checked one the way to what was found', async () => {
  const first = await shown(burst);
  await first.user.click(first.ledger.getByRole('button', { name: 'Check it' }));
  expect(onCheck).toHaveBeenCalledTimes(1);
  first.unmount();
  const { ledger, user, router } = await shown(burst, { check: checkOf(burst) });
  await user.click(ledger.getByRole('button', { name: 'See the holds' }));
  expect(router.state.location.pathname).toBe('/p/p/check/drip-burst/1');
});

test('pictures that could not be decoded are counted', async () => {
  const { ledger } = await shown(burst, { check: checkOf(burst, { decoded: 180 }) });
  expect(ledger.getByText(/200 pictures are listed in the file, 180 could be decoded\./)).toBeVisible();
});

test('a file that ends early says so', async () => {
  const { ledger } = await shown(film('cut-off', { sound: null, endsEarly: true }));
  expect(ledger.getByText(/The file ends before its own header says it does/)).toBeVisible();
});

test('a file that is not there any more is told with its sentence', async () => {
  const file = {
    mediaId: burst.mediaId,
    state: 'missing',
    proxy: false,
    path: '/footage/drip.mov',
    sentence: 'It is not at /footage/drip.mov.',
  } as const;
  const { ledger } = await shown(burst, { file });
  expect(ledger.getByText(/It is not at \/footage\/drip\.mov\./)).toBeVisible();
});

test('timelines that use it are listed and gone to', async () => {
  const { ledger, user, router } = await shown(burst, { project: placed(projectOf(burst), 'drip-burst', 'drip-burst') });
  expect(ledger.getByText('a timeline with 2 clips of it')).toBeVisible();
  await user.click(ledger.getByRole('button', { name: 'Main cut' }));
  expect(router.state.location.pathname).toBe('/p/p/timelines/t');
});

test('read at another rate it says how long and how fast it runs', async () => {
  const reading = { rate: rate(24), pictures: 'once', from: 'typed', sound: 'along' };
  const project = changed(projectOf(film('reel')), {
    type: 'readAt',
    readings: [{ sourceId: 'reel', reading }],
    uses: 'move',
    except: [],
  });
  const { ledger } = await shown(film('reel'), { project });
  expect(ledger.getByText(/as read it runs/)).toHaveTextContent(
    'as read it runs 0:08.3, 96 %; its sound goes along, −0.71 semitones',
  );
});

test('a still has no rate to read it at and nothing to check', async () => {
  const { ledger } = await shown(madeStill('floe'));
  expect(ledger.getByText(/^a still · /)).toBeVisible();
  for (const name of [/^Read at/, 'Check it']) expect(ledger.queryByRole('button', { name })).not.toBeInTheDocument();
});

test.each([
  ['missing', false, false],
  ['missing', true, true],
  ['here', false, true],
] as const)('a picture stands where one can be had: file %s, proxy %s', async (state, proxy, shows) => {
  const source = film('floe-drift');
  const { ledger } = await shown(source, { file: { mediaId: source.mediaId, state, proxy, path: null, sentence: null } });
  expect(ledger.queryAllByRole('img', { name: 'A picture of floe-drift' })).toHaveLength(shows ? 1 : 0);
});

test('numbered pictures say their numbers, and which are missing', async () => {
  const sequence = { ...madeSequence('shot', rate(24), 48), numbers: { first: 1, last: 50, missing: 2 } };
  const { ledger } = await shown(sequence);
  expect(ledger.getByText(/numbered 1 to 50/)).toBeVisible();
  expect(ledger.getByText('2 numbers between 1 and 50 have no picture: those after close up.')).toBeVisible();
});

test('sound alone is told as that', async () => {
  const { ledger } = await shown(madeSound('wind', 12));
  expect(ledger.getByText('0:12.0 · sound alone · pcm_s24le · 48 kHz · 1 channel')).toBeVisible();
  expect(ledger.getByRole('button', { name: 'Align it with another' })).toBeEnabled();
});

test('a check that runs says what it is at in the line of the true rate', async () => {
  const fake = new FakeProject(projectOf(burst));
  expect(fake.document.sources).toHaveLength(1);
  const running = job({ subject: burst.mediaId });
  await show(<Ledger source={burst} check={null} checking={running} file={null} onCheck={onCheck} onReadAt={onReadAt} />);
  expect(await screen.findByTestId('ledger-True')).toHaveTextContent('check: measuring pictures');
});

test('parts of the picture with rates of their own have a line each', async () => {
  const box = { y: 0.5, width: 0.4, height: 0.4, certainty: 0.99 };
  const parts = [
    { ...box, x: 0, trueRate: 60, pattern: 'new' },
    { ...box, x: 0.6, trueRate: 20, pattern: 'every-3' },
  ];
  const { ledger } = await shown(burst, { check: checkOf(burst, { verdict: { ...VERDICT, parts } }) });
  expect(ledger.getAllByTestId('ledger-Part').map((l) => l.textContent)).toEqual([
    expect.stringMatching(/60.*lower left: all new/),
    expect.stringMatching(/20.*lower right: each 3 times/),
  ]);
});
