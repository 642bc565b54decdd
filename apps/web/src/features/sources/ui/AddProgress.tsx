import { Button, Group, Progress } from '@mantine/core';
import { bytes, plural } from '../../../shared/words.js';
import type { Adding } from '../model/adding.js';
import { Passed } from './AddSheet.js';
import classes from './sources.module.css';

/** How far adding files is, with its buttons. */
export function AddProgress({ adding }: { adding: Adding }) {
  const { progress } = adding;
  if (!progress) return null;
  const { name, done, total, sent, paused } = progress;
  const sending = sent !== null && sent < progress.bytes;
  const share = sent === null ? 0 : sent / Math.max(1, progress.bytes);
  return (
    <div className={classes.progress} role="status">
      <Group justify="space-between">
        <span>
          {sending ? `${paused ? 'Paused' : 'Adding'} ${name}: ${bytes(sent)} of ${bytes(progress.bytes)}` : `Reading ${name}`}
          {total > 1 && (
            <span className="number quiet">
              {' '}
              &middot; {done + 1} of {total}
            </span>
          )}
        </span>
        <Group gap={6}>
          {sending && (
            <Button size="compact-xs" variant="default" onClick={paused ? adding.goOn : adding.pause}>
              {paused ? 'Go on' : 'Pause'}
            </Button>
          )}
          <Button size="compact-xs" variant="default" onClick={adding.stop}>
            Stop
          </Button>
        </Group>
      </Group>
      <Progress value={(100 * (done + share)) / total} size="sm" mt={6} />
    </div>
  );
}

/** What was not added, and why. */
export function AddReport({ adding }: { adding: Adding }) {
  const { report } = adding;
  if (!report || (report.refused.length === 0 && report.passed.length === 0)) return null;
  return (
    <div className={`notice ${classes.report}`} data-tone="rust" role="status">
      <div>
        Added {plural(report.added, 'source')}. <Passed passed={report.passed} refused={report.refused} />
      </div>
      <button type="button" className={classes.plain} onClick={adding.dismiss}>
        Dismiss
      </button>
    </div>
  );
}
