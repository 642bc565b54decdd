import { screen, waitFor, within } from '@testing-library/react';
import type { BackupReply, StorageReply } from '@thawline/contract';
import { FakeProject, projectOf, show } from '../../../test/project.fixture.js';
import { TurnedDown } from '../../../test/server.fixture.js';
import { StorageView } from './StorageView.js';

const none = { files: 0, bytes: 0 };
const FULL: StorageReply = {
  free: 5e9,
  media: { files: 3, bytes: 40e6 },
  proxies: { files: 120, bytes: 9e6 },
  parts: none,
  unneeded: none,
  uploads: none,
  renders: { files: 1, bytes: 2e6 },
  backups: { files: 1, bytes: 30e3 },
  database: { files: 1, bytes: 90e3 },
  bin: [],
};

const BACKUP: BackupReply = { name: 'b1', at: '2026-04-02T09:00:00.000Z', reason: 'daily', bytes: 30e3 };
const HELD = { id: 'p1', name: 'Ice-out', changedAt: BACKUP.at, sources: 2, timelines: 1, steps: 14 };

async function shown(backups: BackupReply[] = [BACKUP]) {
  const fake = new FakeProject(projectOf());
  let [all, storage] = [backups, FULL];
  fake.server
    .on('storage', () => storage)
    .on('backups', () => all)
    .on('backupProjects', () => [HELD])
    .on('restoreBackup', () => ({ projects: [{ id: 'p9', name: 'Ice-out, 2 Apr' }] }))
    .on('makeBackup', () => {
      const made: BackupReply = { ...BACKUP, name: 'b2', reason: 'by-hand' };
      all = [made, ...all];
      return made;
    })
    .on('freeStorage', ({ body }) => {
      storage = { ...storage, [(body as { kind: string }).kind]: none };
      return storage;
    });
  const view = await show(<StorageView />);
  const room = within(await screen.findByRole('region', { name: 'Disk space' }));
  const kept = within(screen.getByRole('region', { name: 'Backups' }));
  await room.findByText(/are free on the disk/);
  return { fake, room, kept, ...view };
}

test('what takes the room is told line by line, and what is free', async () => {
  const { room } = await shown();
  expect(room.getByText('5.00 GB')).toBeVisible();
  expect(room.getByRole('row', { name: /^Copies of files/ })).toHaveTextContent('40.0 MB3 files');
  expect(room.getByRole('row', { name: /^Database/ })).toHaveTextContent('90 kB1 file');
});

test('what can be made again is freed, and then there is nothing to free', async () => {
  const { fake, room, user } = await shown();
  const button = room.getByRole('button', { name: 'Free: Small pictures and waveforms' });
  expect(room.getByRole('button', { name: 'Free: Parts of renders' })).toBeDisabled();
  await user.click(button);
  await waitFor(() => expect(button).toBeDisabled());
  expect(room.getByRole('row', { name: /^Small pictures/ })).toHaveTextContent('0 kB0 files');
  expect(fake.server.of('freeStorage').map((a) => a.body)).toEqual([{ kind: 'proxies' }]);
});

test("people's own files, renders and backups cannot be freed here", async () => {
  const { room } = await shown();
  const names = room.getAllByRole('button').map((b) => b.getAttribute('aria-label'));
  expect(names).toEqual(['Free: Small pictures and waveforms', 'Free: Parts of renders', 'Free: Unused files']);
});

test('what is not freed is told', async () => {
  const { fake, room, user } = await shown();
  fake.server.on('freeStorage', () => {
    throw new TurnedDown('disk-full');
  });
  await user.click(room.getByRole('button', { name: 'Free: Small pictures and waveforms' }));
  expect(await screen.findByRole('alert')).toHaveTextContent(/disk/i);
});

test('a backup unfolds to its projects, and one comes back beside the present ones', async () => {
  const { fake, kept, user } = await shown();
  const line = await kept.findByRole('button', { name: /first change of the day/ });
  expect(line).toHaveAttribute('aria-expanded', 'false');
  await user.click(line);
  expect(await kept.findByText('2 sources, 1 timeline, 14 steps')).toBeVisible();
  await user.click(kept.getByRole('button', { name: 'Bring Ice-out back' }));
  expect(await kept.findByRole('status')).toHaveTextContent('Ice-out, 2 Apr is back.');
  expect(kept.getByRole('link', { name: 'Ice-out, 2 Apr' })).toHaveAttribute('href', '/p/p9/sources');
  expect(fake.server.of('restoreBackup')[0]).toMatchObject({ parameters: { backup: 'b1' }, body: { projectId: 'p1' } });
});

test('one is made by hand and stands in the list', async () => {
  const { kept, user } = await shown([]);
  expect(await kept.findByText('There is none yet.')).toBeVisible();
  await user.click(kept.getByRole('button', { name: 'Make a backup now' }));
  expect(await kept.findByRole('button', { name: /made by hand/ })).toBeVisible();
  expect(kept.queryByText('There is none yet.')).not.toBeInTheDocument();
});
