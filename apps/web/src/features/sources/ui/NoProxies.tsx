import { useDebouncedValue } from '@mantine/hooks';
import type { FileState, JobReply } from '@thawline/contract';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { plural } from '../../../shared/words.js';
import classes from './sources.module.css';

const LASTS_MS = 2000;

/** Sources whose small pictures were freed: what that means, and making them again. */
export function NoProxies({ files, jobs }: { files: ReadonlyMap<string, FileState>; jobs: readonly JobReply[] }) {
  const { id, project } = useProject();
  const [asked, setAsked] = useState(false);
  // Proxies in progress or failed are shown elsewhere.
  const known = new Set(jobs.filter((j) => j.kind === 'proxy' && j.state !== 'done').map((j) => j.subject));
  const without = project.sources.filter((source) => {
    const file = files.get(source.mediaId);
    return file?.state === 'here' && !file.proxy && source.kind !== 'sound' && !source.lost && !known.has(source.mediaId);
  });
  // A new source gets its job with the next event, so only a lasting absence is shown.
  const ids = without.map((s) => s.id).join(' ');
  const [lasting] = useDebouncedValue(ids, LASTS_MS);
  if (without.length === 0 || asked || lasting !== ids) return null;
  const make = (): void => {
    setAsked(true);
    const body = { kind: 'proxy', sourceIds: without.map((s) => s.id) };
    call('startJobs', { parameters: { project: id }, body })
      .catch(tellError)
      .finally(() => setAsked(false));
  };
  return (
    <div className={`notice ${classes.report}`} role="status">
      <div>
        {plural(without.length, 'source has', 'sources have')} no small pictures: playing and thumbnails come from the files,
        slower.
      </div>
      <button type="button" className={classes.plain} onClick={make}>
        Make them
      </button>
    </div>
  );
}
