import { screen, waitFor, within } from '@testing-library/react';
import { rate } from '@thawline/core/time';
import { FakeProject, film, placed, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { SourcesView } from './SourcesView.js';

const names = ['floe-drift', 'jetty-pan', 'phone-thaw', 'skiff-a'];
const sources = [
  film('floe-drift'),
  film('jetty-pan', { stored: rate(60), measured: { rate: rate(60), ppm: 0 } }),
  film('phone-thaw', { stored: rate(30), measured: { rate: rate(30000, 1001), ppm: 0 }, variable: true }),
  film('skiff-a'),
];

const rows = () => screen.getAllByRole('row').slice(1);
const chosen = () =>
  screen
    .getAllByRole('checkbox', { name: /^Choose / })
    .filter((box) => (box as HTMLInputElement).checked)
    .map((box) => box.getAttribute('aria-label')?.replace('Choose ', ''));
const opened = () => rows().find((row) => row.hasAttribute('data-open'));

async function shown(project = projectOf(...sources)) {
  const fake = new FakeProject(project);
  fake.server.on('startJobs', () => []);
  const view = await show(<SourcesView />);
  await screen.findByRole('grid', { name: 'Sources' });
  return { fake, ...view };
}

describe('the list', () => {
  test('each source with its rates; the first is open', async () => {
    await shown();
    expect(rows().map((row) => within(row).getByText(/^[a-z-]+$/, { selector: 'b' }).textContent)).toEqual(names);
    expect(within(rows()[1] as HTMLElement).getAllByText('60')).not.toHaveLength(0);
    expect(within(rows()[2] as HTMLElement).getByText('variable')).toBeVisible();
    expect(opened()).toHaveTextContent('floe-drift');
  });

  test('a press opens a source; with Ctrl it chooses, with Shift all up to it', async () => {
    const { user } = await shown();
    await user.click(screen.getByText('jetty-pan', { selector: 'b' }));
    expect(opened()).toHaveTextContent('jetty-pan');
    await user.keyboard('{Control>}');
    await user.click(screen.getByText('skiff-a', { selector: 'b' }));
    await user.keyboard('{/Control}');
    expect(chosen()).toEqual(['skiff-a']);
    await user.keyboard('{Shift>}');
    await user.click(screen.getByText('floe-drift', { selector: 'b' }));
    await user.keyboard('{/Shift}');
    expect(chosen()).toEqual(names);
  });

  test('arrows go through the rows, Space chooses, Escape chooses none', async () => {
    const { user } = await shown();
    screen.getByRole('grid', { name: 'Sources' }).focus();
    await user.keyboard('{ArrowDown}{ArrowDown}');
    expect(opened()).toHaveTextContent('phone-thaw');
    await user.keyboard(' ');
    expect(chosen()).toEqual(['phone-thaw']);
    await user.keyboard('{End}{Shift>}{ArrowUp}{/Shift}');
    expect(chosen()).toEqual(['phone-thaw', 'skiff-a']);
    await user.keyboard('{Escape}');
    expect(chosen()).toEqual([]);
  });

  test('a head sorts by its column, once more the other way round, and a third time as they were added', async () => {
    const { user } = await shown();
    const order = () => rows().map((row) => within(row).getByText(/^[a-z-]+$/, { selector: 'b' }).textContent);
    const stored = screen.getByRole('button', { name: /^Stored/ });
    await user.click(stored);
    expect(order()[0]).not.toBe('jetty-pan');
    await user.click(stored);
    expect(order()[0]).toBe('jetty-pan');
    expect(screen.getByRole('columnheader', { name: /Stored/ })).toHaveAttribute('aria-sort', 'descending');
    await user.click(stored);
    expect(order()).toEqual(names);
  });

  test('what a column has no value of stands last, whichever way it sorts', async () => {
    const { user } = await shown(projectOf(film('plain'), film('phone', { variable: true }), film('usual')));
    const first = () => within(rows()[0] as HTMLElement).getByText(/^[a-z-]+$/, { selector: 'b' }).textContent;
    const remarks = screen.getByRole('button', { name: /^What stands out/ });
    await user.click(remarks);
    expect(first()).toBe('phone');
    await user.click(remarks);
    expect(first()).toBe('phone');
  });

  test('five hundred sources: only the rows in sight are there, and the last is reached with a key', async () => {
    const many = Array.from({ length: 500 }, (_, i) => film(`clip-${i}`));
    const { user } = await shown(projectOf(...many));
    expect(screen.getByRole('grid', { name: 'Sources' })).toHaveAttribute('aria-rowcount', '500');
    expect(rows().length).toBeLessThan(60);
    screen.getByRole('grid', { name: 'Sources' }).focus();
    await user.keyboard('{End}');
    await waitFor(() => expect(screen.getAllByText('clip-499').length).toBeGreaterThan(0));
  });
});

describe('what is done with them', () => {
  test('all that were not checked are checked with one request', async () => {
    const { fake, user } = await shown();
    await user.click(screen.getByRole('button', { name: 'Check the rest' }));
    await waitFor(() => expect(fake.server.of('startJobs')).toHaveLength(1));
    expect(fake.server.of('startJobs')[0]?.body).toMatchObject({ kind: 'check', sourceIds: names });
  });

  test('what the server turns down is told in its own sentence', async () => {
    const { fake, user } = await shown();
    fake.server.on('startJobs', () => {
      throw new TurnedDown('file-missing');
    });
    await user.click(screen.getByRole('button', { name: 'Check the rest' }));
    expect(await screen.findByText(/is no longer where it was. Find it again, or put it back\./)).toBeVisible();
  });

  test('a source that is used is removed only after a question, and takes its clips along then', async () => {
    const { fake, user } = await shown(placed(projectOf(...sources), 'jetty-pan'));
    await user.click(screen.getByRole('checkbox', { name: 'Choose jetty-pan' }));
    await user.click(screen.getByRole('button', { name: /Remove/ }));
    const question = await screen.findByRole('dialog');
    expect(question).toHaveTextContent('Main cut');
    await user.click(within(question).getByRole('button', { name: /Remove/ }));
    await waitFor(() => expect(fake.done).toHaveLength(1));
    expect(fake.done[0]).toMatchObject({ type: 'removeSources', sourceIds: ['jetty-pan'], withUses: true });
    await waitFor(() => expect(rows()).toHaveLength(3));
  });

  test('an empty project says what to do', async () => {
    new FakeProject(projectOf());
    await show(<SourcesView />);
    expect(await screen.findByRole('heading', { name: 'Drop your files here' })).toBeVisible();
    expect(screen.queryByRole('grid')).not.toBeInTheDocument();
  });
});

describe('adding files', () => {
  const files = () => screen.getByLabelText('Files to add');
  const reply = (fake: FakeProject, refused: { file: string; code: string; message: string }[] = []) => ({
    added: [],
    change: null,
    refused,
    version: fake.version,
  });

  test('those that are dropped together are one step; what is refused is told by name, the others are added', async () => {
    const { fake, user } = await shown();
    fake.server.on('upload', () => {
      const first = fake.server.of('upload').length === 1;
      if (!first) return reply(fake, [{ file: 'notes.mp4', code: 'not-media', message: 'notes.mp4 is no film.' }]);
      return reply(fake);
    });
    await user.upload(files(), [new File(['a'], 'ice.mp4'), new File(['b'], 'notes.mp4')]);
    expect(await screen.findByText(/notes\.mp4 is no film\./)).toBeVisible();
    const [first, second] = fake.server.of('upload');
    expect(first?.query.batch).toBeTruthy();
    expect(second?.query.batch).toBe(first?.query.batch);
    await user.click(screen.getByRole('button', { name: 'Dismiss' }));
    expect(screen.queryByText(/notes\.mp4 is no film\./)).not.toBeInTheDocument();
  });

  test('a server that is away loses no file in silence', async () => {
    const { fake, user } = await shown();
    fake.server.away = true;
    await user.upload(files(), [new File(['a'], 'ice.mp4')]);
    expect(await screen.findByText(/ice\.mp4: The server does not answer/)).toBeVisible();
  });
});
