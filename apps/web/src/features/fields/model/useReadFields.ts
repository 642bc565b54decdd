import { useQueryClient } from '@tanstack/react-query';
import type { FieldRun } from '@thawline/core/fields';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { windowId } from '../../../shared/state/window.js';

/** Reads the fields of sources: the server makes their pictures findable, and the project changes in one step. Resolves with whether it did. */
export function useReadFields(): (
  readings: readonly { readonly sourceId: string; readonly runs: readonly FieldRun[] | null }[],
) => Promise<boolean> {
  const { id, take } = useProject();
  const client = useQueryClient();
  return async (readings) => {
    try {
      take(await call('readFields', { parameters: { project: id }, body: { readings, client: windowId() } }));
      void client.invalidateQueries({ queryKey: ['files', id] });
      return true;
    } catch (error) {
      tellError(error);
      return false;
    }
  };
}
