import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { uniqueId, windowId } from '../../../shared/state/window.js';

/** What is done to projects from their list; each is shown when it is stored. */
export function useProjectActions() {
  const client = useQueryClient();
  const then = useCallback(
    (work: Promise<unknown>) => {
      work.then(
        () =>
          client.invalidateQueries({ queryKey: ['projects'] }).then(() => client.invalidateQueries({ queryKey: ['storage'] })),
        tellError,
      );
    },
    [client],
  );
  return {
    rename: (project: string, name: string) =>
      then(
        call('command', {
          parameters: { project },
          body: { command: { type: 'renameProject', name }, requestId: uniqueId(), client: windowId() },
        }),
      ),
    copy: (project: string, name: string) =>
      then(call('copyProject', { parameters: { project }, body: { name: `${name.slice(0, 110)}, copy` } })),
    remove: (project: string) => then(call('deleteProject', { parameters: { project } })),
    takeOut: (project: string) => then(call('undeleteProject', { parameters: { project }, body: {} })),
    emptyBin: () => then(call('freeStorage', { body: { kind: 'bin' } })),
  };
}
