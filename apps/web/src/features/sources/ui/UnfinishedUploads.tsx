import { useEffect, useState } from 'react';
import { forgetUploads, unfinishedUploads } from '../../../api/uploads.js';
import { plural } from '../../../shared/words.js';
import classes from './sources.module.css';

/** Names files whose upload a reload cut off: chosen again, they go on where they were. */
export function UnfinishedUploads({ sending }: { sending: boolean }) {
  const [names, setNames] = useState<readonly string[]>([]);
  useEffect(() => {
    // Where nothing is remembered, there is nothing to tell.
    if (!sending) unfinishedUploads().then(setNames, () => undefined);
  }, [sending]);
  if (sending || names.length === 0) return null;
  const forget = (): void => {
    forgetUploads().then(
      () => setNames([]),
      () => undefined,
    );
  };
  return (
    <div className={`notice ${classes.report}`} role="status" data-testid="unfinished">
      <div>
        {plural(names.length, 'upload was', 'uploads were')} cut off: {names.slice(0, 5).join(', ')}
        {names.length > 5 && ' …'}. Choose the same {names.length === 1 ? 'file' : 'files'} again, and it goes on where it was.
      </div>
      <button type="button" className={classes.plain} onClick={forget}>
        Forget
      </button>
    </div>
  );
}
