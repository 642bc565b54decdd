import { screen, waitFor, within } from '@testing-library/react';
import type { ProjectSummary } from '@thawline/contract';
import { FakeProject, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { ProjectsView } from './ProjectsView.js';

const summary = (id: string, name: string, other: Partial<ProjectSummary> = {}): ProjectSummary => ({
  id,
  name,
  sources: 2,
  timelines: 1,
  changedAt: '2026-04-02T09:00:00.000Z',
  deletedAt: null,
  damaged: false,
  ...other,
});

async function shown(projects: ProjectSummary[]) {
  const fake = new FakeProject(projectOf());
  let all = projects;
  const change = (id: string | undefined, to: Partial<ProjectSummary>) => {
    all = all.map((p) => (p.id === id ? { ...p, ...to } : p));
    return all;
  };
  fake.server
    .on('listProjects', () => all)
    .on('deleteProject', ({ parameters }) => change(parameters.project, { deletedAt: '2026-04-03T09:00:00.000Z' }))
    .on('undeleteProject', ({ parameters }) => change(parameters.project, { deletedAt: null }))
    .on('copyProject', ({ body }) => {
      const copy = summary('copy', (body as { name: string }).name);
      all = [...all, copy];
      return { id: copy.id, version: 1, document: fake.document, undoLabel: null, redoLabel: null };
    });
  const view = await show(<ProjectsView />);
  const list = within(await screen.findByRole('region', { name: 'Projects' }));
  if (projects.some((p) => !p.deletedAt)) await list.findAllByTestId('project-row');
  const menu = async (name: string, item: string) => {
    await view.user.click(list.getByRole('button', { name: `More for ${name}` }));
    await view.user.click(await screen.findByRole('menuitem', { name: item }));
  };
  return { fake, list, menu, ...view };
}

test('with none yet it says how to begin', async () => {
  const { list } = await shown([]);
  expect(await list.findByText(/^There is none yet\. Name one below/)).toBeVisible();
  expect(screen.queryByRole('region', { name: 'Bin' })).not.toBeInTheDocument();
});

test('each project says what it holds', async () => {
  const { list } = await shown([summary('p1', 'Ice-out'), summary('p2', 'Break-up', { sources: 1, timelines: 0 })]);
  expect(list.getByRole('link', { name: /Ice-out/ })).toHaveTextContent('2 sources, 1 timeline');
  expect(list.getByRole('link', { name: /Break-up/ })).toHaveTextContent('1 source, 0 timelines');
});

test('one is put into the bin and taken out again', async () => {
  const { list, menu, user } = await shown([summary('p1', 'Ice-out'), summary('p2', 'Break-up')]);
  await menu('Ice-out', 'Put into the bin');
  const bin = within(await screen.findByRole('region', { name: 'Bin' }));
  expect(bin.getByText('Ice-out')).toBeVisible();
  await waitFor(() => expect(list.queryByText('Ice-out')).not.toBeInTheDocument());
  await user.click(bin.getByRole('button', { name: 'Restore' }));
  expect(await list.findByRole('link', { name: /Ice-out/ })).toBeVisible();
});

test('a name is changed at its place; Escape and an empty one leave it', async () => {
  const { fake, list, menu, user } = await shown([summary('p', 'Ice-out')]);
  await menu('Ice-out', 'Rename');
  await user.type(list.getByRole('textbox', { name: 'Name of Ice-out' }), ' 2{Escape}');
  await menu('Ice-out', 'Rename');
  await user.clear(list.getByRole('textbox', { name: 'Name of Ice-out' }));
  await user.keyboard('{Enter}');
  expect(fake.done).toEqual([]);
  await menu('Ice-out', 'Rename');
  await user.type(list.getByRole('textbox', { name: 'Name of Ice-out' }), ', day two{Enter}');
  await waitFor(() => expect(fake.done).toMatchObject([{ type: 'renameProject', name: 'Ice-out, day two' }]));
});

test('a copy says that it is one', async () => {
  const { fake, list, menu } = await shown([summary('p1', 'Ice-out')]);
  await menu('Ice-out', 'Copy');
  expect(await list.findByRole('link', { name: /Ice-out, copy/ })).toBeVisible();
  expect(fake.server.of('copyProject')[0]).toMatchObject({ parameters: { project: 'p1' } });
});

test('one that cannot be read is told, with the way to its backup, and can only be put away', async () => {
  const { list, user } = await shown([summary('p1', 'Ice-out', { damaged: true })]);
  expect(list.getByRole('link', { name: 'Bring it back from a backup' })).toHaveAttribute('href', '/storage');
  await user.click(list.getByRole('button', { name: 'More for Ice-out' }));
  expect((await screen.findAllByRole('menuitem')).map((i) => i.textContent)).toEqual(['Put into the bin']);
});

test('what the server turns down is told, and the list stays', async () => {
  const { fake, list, menu } = await shown([summary('p1', 'Ice-out')]);
  fake.server.on('deleteProject', () => {
    throw new TurnedDown('disk-full');
  });
  await menu('Ice-out', 'Put into the bin');
  expect(await screen.findByRole('alert')).toHaveTextContent(/disk/i);
  expect(list.getByRole('link', { name: /Ice-out/ })).toBeVisible();
});

test('a new one is made by its name and opened; without a name it has one', async () => {
  const { fake, list, user, router } = await shown([summary('p1', 'Ice-out')]);
  fake.server.on('createProject', () => ({ ...fake.state(), id: 'new' }));
  await user.click(list.getByRole('button', { name: 'New project' }));
  await waitFor(() => expect(router.state.location.pathname).toBe('/p/new/sources'));
  expect(fake.server.of('createProject')[0]?.body).toEqual({ name: 'Untitled' });
});
