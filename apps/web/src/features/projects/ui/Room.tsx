import { Button, Loader } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { FreeKind, StorageReply } from '@thawline/contract';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { bytes, plural } from '../../../shared/words.js';
import classes from './projects.module.css';

type Sized = { readonly [K in keyof StorageReply]: StorageReply[K] extends { bytes: number } ? K : never }[keyof StorageReply];

/** What takes room in the data folder, in the order in which people look for it. */
const LINES: readonly { readonly what: Sized; readonly name: string; readonly says: string; readonly free?: FreeKind }[] = [
  { what: 'media', name: 'Copies of files', says: 'what was added by sending it here; files used in place take no room' },
  {
    what: 'proxies',
    name: 'Small pictures and waveforms',
    says: 'made of each source; without them pictures come from the files, slower, until they are made again',
    free: 'proxies',
  },
  { what: 'parts', name: 'Parts of renders', says: 'so that what is unchanged is not rendered again', free: 'parts' },
  { what: 'unneeded', name: 'Unused files', says: 'no project and no history refers to them', free: 'unneeded' },
  { what: 'uploads', name: 'Uploads under way', says: 'unfinished ones are removed after a week' },
  { what: 'renders', name: 'Renders', says: 'finished files in the folders that renders go to' },
  { what: 'backups', name: 'Backups', says: 'the newest ten' },
  { what: 'database', name: 'Database', says: 'projects, their history, and what was found' },
];

/** What takes the room on the server's disk, and frees what can be made again. */
export function Room() {
  const client = useQueryClient();
  const storage = useQuery({ queryKey: ['storage'], queryFn: () => call('storage') });
  const free = useMutation({
    mutationFn: (kind: FreeKind) => call('freeStorage', { body: { kind } }),
    onSuccess: (now) => client.setQueryData(['storage'], now),
    onError: tellError,
  });
  return (
    <section className={`sheet ${classes.card}`} aria-label="Disk space">
      <h2 className="heading">Disk space</h2>
      {storage.isPending && <Loader size="sm" />}
      {storage.isError && <div className="notice">{storage.error.message}</div>}
      {storage.data && (
        <>
          <p>
            <span className="number">{bytes(storage.data.free)}</span> are free on the disk of the data folder.
          </p>
          <table className={classes.room}>
            <tbody>
              {LINES.map(({ what, name, says, free: kind }) => {
                const size = storage.data[what];
                return (
                  <tr key={what}>
                    <th scope="row">
                      {name}
                      <small className="quiet">{says}</small>
                    </th>
                    <td className="number">{bytes(size.bytes)}</td>
                    <td className="quiet">{plural(size.files, 'file')}</td>
                    <td>
                      {kind && (
                        <Button
                          variant="default"
                          size="compact-sm"
                          disabled={size.files === 0 || free.isPending}
                          aria-label={`Free: ${name}`}
                          onClick={() => free.mutate(kind)}
                        >
                          Free
                        </Button>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
