import { Button } from '@mantine/core';
import { useProject } from '../../api/ProjectProvider.js';
import { plural } from '../../shared/words.js';
import classes from './shell.module.css';

/** Says that what was done is not stored yet, and why; nothing while everything is. */
export function UnsavedNotice() {
  const { unsaved, retryNow } = useProject();
  const { held, trouble } = unsaved;
  if (trouble === null) return null;
  return (
    <div className={`notice ${classes.unsaved}`} data-tone="rust" role="status" data-testid="unsaved">
      <span>
        <b>Not saved yet:</b> {plural(held.length, 'change')}. {trouble} They are kept in this window and sent again by
        themselves.
      </span>
      <Button size="compact-sm" variant="default" onClick={retryNow}>
        Send now
      </Button>
    </div>
  );
}
