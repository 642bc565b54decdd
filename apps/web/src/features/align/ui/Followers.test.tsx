import { screen, waitFor, within } from '@testing-library/react';
import { useProject } from '../../../api/ProjectProvider.js';
import { changed, FakeProject, film, job, projectOf, show } from '../../../test/project.fixture.js';
import { Followers, ListenToMore } from './Followers.js';

const [wide, close, tape, mute] = [film('ridge-wide'), film('ridge-close'), film('tape'), film('mute', { sound: null })] as const;

/** b begins a second after a; both clocks agree, or b's is so many parts in a million off. */
const ties = (seconds: number, ppm = 0) =>
  [0, 2, 4, 6].map((at) => ({ a: Math.round((at + seconds) * 1e6), b: Math.round(at * (1 + ppm * 1e-6) * 1e6) }));

function Lead() {
  const { project } = useProject();
  const a = project.sources.find((s) => s.name === 'ridge-wide');
  return (
    <>
      <p>here</p>
      {a && <Followers a={a} chosen="tape" />}
      {a && <ListenToMore a={a} />}
    </>
  );
}

interface Tied {
  readonly a: string;
  readonly b: string;
  readonly ties: ReturnType<typeof ties>;
}

/** @param settled pairs tied by hand, heard pairs found by sound */
async function shown({ settled = [], heard = [] }: { settled?: Tied[]; heard?: (Tied & { certainty: number })[] } = {}) {
  const project = changed(
    projectOf(wide, close, tape, mute),
    ...settled.map((t) => ({ type: 'setTies', aId: t.a, bId: t.b, ties: t.ties })),
  );
  const fake = new FakeProject(project);
  fake.jobs = heard.map((h, i) => job({ id: `a${i}`, kind: 'align', state: 'done', subject: `media-${h.a}+media-${h.b}` }));
  fake.server
    .on('aligned', ({ parameters }) => {
      const found = heard.find((h) => h.a === parameters.a && h.b === parameters.b);
      return {
        ties: (found?.ties ?? []).map((t) => ({ ...t, strength: 9, strike: false })),
        certainty: found?.certainty ?? 0,
        strikesA: [],
        strikesB: [],
      };
    })
    .on('startJobs', () => []);
  const view = await show(<Lead />, '/p/p/align', '/p/:project/align/:a?/:b?');
  await screen.findByText('here');
  return { fake, ...view };
}

test('two alone are a pair, and the pair says it all', async () => {
  await shown({ settled: [{ a: 'ridge-wide', b: 'ridge-close', ties: ties(1) }] });
  expect(screen.queryByTestId('followers')).not.toBeInTheDocument();
});

test('all that follow one are named, those by way of others, too, each with what is left over', async () => {
  await shown({
    settled: [
      { a: 'ridge-wide', b: 'ridge-close', ties: ties(1) },
      { a: 'ridge-close', b: 'tape', ties: ties(0.5, 40) },
    ],
  });
  const followers = within(await screen.findByTestId('followers'));
  expect(followers.getByRole('button', { name: /^ridge-close/ })).toHaveTextContent(/0\.00 ms left over$/);
  const way = followers.getByRole('button', { name: /^tape/ });
  expect(way).toHaveTextContent(/by way of ridge-close · .*[+−]40\.\d ppm/);
  expect(way).toHaveAttribute('data-chosen', 'true');
});

test('where two ways round disagree, by how much is told', async () => {
  await shown({
    settled: [
      { a: 'ridge-wide', b: 'ridge-close', ties: ties(1) },
      { a: 'ridge-wide', b: 'tape', ties: ties(1.5) },
      { a: 'ridge-close', b: 'tape', ties: ties(0.52) },
    ],
  });
  const tied = within(await screen.findByTestId('followers')).getByRole('button', { name: /^tape/ });
  expect(tied).toHaveTextContent(/20\.00 ms off by way of ridge-close$/);
  expect(tied).toHaveAttribute('data-tone', 'rust');
});

test('what was surely found by sound counts; what was not does not', async () => {
  await shown({
    settled: [{ a: 'ridge-wide', b: 'ridge-close', ties: ties(1) }],
    heard: [{ a: 'ridge-wide', b: 'tape', ties: ties(2), certainty: 0.99 }],
  });
  const followers = within(await screen.findByTestId('followers'));
  expect(followers.getByRole('button', { name: /^tape/ })).toBeVisible();
});

test('an unsure finding places nothing', async () => {
  const { fake } = await shown({
    settled: [{ a: 'ridge-wide', b: 'ridge-close', ties: ties(1) }],
    heard: [{ a: 'ridge-wide', b: 'tape', ties: ties(2), certainty: 0.4 }],
  });
  await waitFor(() => expect(fake.server.of('aligned')).toHaveLength(1));
  expect(screen.queryByTestId('followers')).not.toBeInTheDocument();
});

test('more are listened to at once, a job each; what has no sound is not offered', async () => {
  const { fake, user } = await shown();
  await user.click(screen.getByRole('button', { name: /^Align more by sound/ }));
  await user.click(screen.getByRole('combobox', { name: 'Do these belong to ridge-wide?' }));
  const names = (await screen.findAllByRole('option')).map((o) => o.textContent);
  expect(names).toEqual(['ridge-close', 'tape']);
  await user.click(screen.getByRole('option', { name: 'ridge-close' }));
  await user.click(screen.getByRole('option', { name: 'tape' }));
  await user.click(screen.getByRole('button', { name: 'Find by sound' }));
  await waitFor(() => expect(fake.server.of('startJobs')).toHaveLength(2));
  expect(fake.server.of('startJobs').map((a) => a.body)).toEqual([
    { kind: 'align', a: 'ridge-wide', b: 'ridge-close' },
    { kind: 'align', a: 'ridge-wide', b: 'tape' },
  ]);
});
