import { jest } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { showAlone } from '../../../test/project.fixture.js';
import { FakeServer, TurnedDown } from '../../../test/server.fixture.js';
import { FolderBrowser } from './FolderBrowser.js';

const onChoose = jest.fn();
const onClose = jest.fn();
const modified = '2026-04-02T09:00:00.000Z';
const MEDIA = { path: '', folders: [{ name: 'footage', path: '/footage' }], files: [] };
const FOOTAGE = {
  path: '/footage',
  folders: [{ name: 'day 1', path: '/footage/day 1' }],
  files: [
    { name: 'jetty-pan.mov', path: '/footage/jetty-pan.mov', kind: 'film', bytes: 12_000_000, modified },
    { name: 'floe.png', path: '/footage/floe.png', kind: 'picture', bytes: 800_000, modified },
    { name: 'notes.txt', path: '/footage/notes.txt', kind: 'other', bytes: 120, modified },
  ],
};

function shown(
  other: Partial<Parameters<typeof FolderBrowser>[0]> = {},
  folders: Record<string, object> = { '': MEDIA, footage: FOOTAGE },
) {
  onChoose.mockClear();
  const server = new FakeServer();
  server.on('folder', ({ query }) => {
    const found = folders[String(query.path ?? '').replace(/^\//, '')];
    if (!found) throw new TurnedDown('file-missing');
    return found;
  });
  const view = showAlone(<FolderBrowser title="Choose files" action="Add" onClose={onClose} onChoose={onChoose} {...other} />);
  return { server, ...view };
}

async function opened(other: Partial<Parameters<typeof FolderBrowser>[0]> = {}) {
  const view = shown(other);
  await view.user.click(await screen.findByRole('button', { name: 'footage' }));
  await screen.findByText('jetty-pan.mov');
  return view;
}

test('it begins at the media folders, and a name opens one', async () => {
  const { user } = await opened();
  expect(screen.getByText('12.0 MB')).toBeVisible();
  expect(screen.getByText('1 other file here is no film and no picture.')).toBeVisible();
  await user.click(screen.getByRole('button', { name: 'Media folders' }));
  expect(await screen.findByRole('checkbox', { name: 'Choose the folder footage' })).toBeVisible();
});

test('the button counts what is chosen, folders among it', async () => {
  const { user } = await opened();
  expect(screen.getByRole('button', { name: 'Add' })).toBeDisabled();
  await user.click(screen.getByRole('checkbox', { name: 'Choose jetty-pan.mov' }));
  await user.click(screen.getByRole('checkbox', { name: 'Choose the folder day 1' }));
  await user.click(screen.getByRole('button', { name: 'Add 2 items' }));
  expect(onChoose).toHaveBeenCalledWith(['/footage/jetty-pan.mov', '/footage/day 1']);
});

test('what is chosen twice is not chosen', async () => {
  const { user } = await opened();
  const box = screen.getByRole('checkbox', { name: 'Choose floe.png' });
  await user.click(box);
  await user.click(box);
  expect(screen.getByRole('button', { name: 'Add' })).toBeDisabled();
});

test('where one is asked for, another takes its place', async () => {
  const { user } = await opened({ one: true, action: 'Take it' });
  await user.click(screen.getByRole('checkbox', { name: 'Choose jetty-pan.mov' }));
  await user.click(screen.getByRole('checkbox', { name: 'Choose floe.png' }));
  expect(screen.getByRole('checkbox', { name: 'Choose jetty-pan.mov' })).not.toBeChecked();
  await user.click(screen.getByRole('button', { name: 'Take it' }));
  expect(onChoose).toHaveBeenCalledWith(['/footage/floe.png']);
});

test('an empty folder and none at all are different things', async () => {
  const view = shown({}, { '': { ...MEDIA, folders: [] } });
  expect(await screen.findByText(/Start Thawline with THAWLINE_MEDIA/)).toBeVisible();
  view.unmount();
  const { user } = shown({}, { '': MEDIA, footage: { path: '/footage', folders: [], files: [] } });
  await user.click(await screen.findByRole('button', { name: 'footage' }));
  expect(await screen.findByText('Nothing lies here.')).toBeVisible();
});

test('a folder that cannot be read says why, and the way back stays', async () => {
  const { user } = shown({}, { '': MEDIA });
  await user.click(await screen.findByRole('button', { name: 'footage' }));
  const dialog = within(screen.getByRole('dialog'));
  await waitFor(() => expect(document.querySelector('.notice')).toHaveTextContent(/\.$/));
  expect(dialog.getByRole('button', { name: 'Media folders' })).toBeEnabled();
});
