import { Button, Group, Progress } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useCallback, useMemo, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useParams } from 'react-router';
import { call, RequestError } from '../api/client.js';
import { tellError, useChecks, useJobs, useProject } from '../api/project.js';
import { useGo } from '../state/places.js';
import { useView } from '../state/view.js';
import { bytes, plural } from '../words.js';
import { Ledger } from './Ledger.js';
import { RatesBar } from './RatesBar.js';
import { SourceTable } from './SourceTable.js';
import classes from './sources.module.css';

/** What was shot: every source with its rates, and the ledger of the chosen one. */
export function SourcesView() {
  const { id, project, run } = useProject();
  const { source: open } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const jobs = useJobs(id);
  const chosen = useView((s) => s.chosenSources);
  const setChosen = useView((s) => s.setChosenSources);
  const { progress, upload, stop } = useUpload(id);
  const drop = useDropzone({ onDrop: (files) => void upload(files), noClick: true, noKeyboard: true });
  const shown = project.sources.find((s) => s.id === open) ?? project.sources[0];
  const checking = useMemo(
    () =>
      new Map(
        jobs.filter((j) => j.kind === 'check' && (j.state === 'running' || j.state === 'queued')).map((j) => [j.subject, j]),
      ),
    [jobs],
  );
  const targets = chosen.filter((c) => project.sources.some((s) => s.id === c));
  const check = (ids: readonly string[]): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: ids } }).catch(tellError);
  };
  const toCheck = targets.length > 0 ? targets : project.sources.filter((s) => !checks.has(s.mediaId)).map((s) => s.id);
  return (
    <div className={classes.view} {...drop.getRootProps()}>
      <input {...drop.getInputProps({ 'aria-label': 'Files to add' })} />
      {drop.isDragActive && <div className={classes.drop}>Drop to add them to {project.name}</div>}
      <div className={classes.left}>
        {project.sources.length > 0 && <RatesBar />}
        <section className={`sheet ${classes.list}`}>
          <Group p="xs" gap="xs">
            <Button size="compact-md" onClick={drop.open}>
              Add files
            </Button>
            {project.sources.length > 0 && (
              <Button size="compact-md" variant="default" disabled={toCheck.length === 0} onClick={() => check(toCheck)}>
                {targets.length > 0 ? `Check ${plural(targets.length, 'source')}` : 'Check all not checked'}
              </Button>
            )}
            {targets.length > 0 && (
              <Button
                size="compact-md"
                variant="default"
                onClick={async () => {
                  if (await run({ type: 'removeSources', sourceIds: targets })) setChosen([]);
                }}
              >
                Remove
              </Button>
            )}
            <span className={`quiet ${classes.chosen}`}>
              {targets.length > 0 ? `${targets.length} chosen` : plural(project.sources.length, 'source')}
            </span>
          </Group>
          {progress && (
            <div className={classes.progress}>
              <Group justify="space-between">
                <span>
                  {progress.sent < progress.total
                    ? `Adding ${progress.name}: ${bytes(progress.sent)} of ${bytes(progress.total)}`
                    : `Reading ${progress.name}`}
                </span>
                <Button size="compact-xs" variant="default" onClick={stop}>
                  Stop
                </Button>
              </Group>
              <Progress value={(100 * progress.sent) / Math.max(1, progress.total)} size="sm" mt={6} />
            </div>
          )}
          {project.sources.length === 0 && !progress ? (
            <div className={classes.empty}>
              <h2>Drop your files here</h2>
              <p className="quiet">
                Each is read at once: the rate it stores, the rate its own timestamps measure, how many pictures there are.
                Nothing is changed in them, and no timeline takes its rate from the first one.
              </p>
              <Button onClick={drop.open}>Choose files</Button>
            </div>
          ) : (
            <SourceTable
              open={shown?.id ?? null}
              checks={checks}
              checking={checking}
              onOpen={(sourceId) => go('sources', sourceId)}
            />
          )}
        </section>
      </div>
      {shown && (
        <Ledger
          source={shown}
          check={checks.get(shown.mediaId) ?? null}
          checking={checking.get(shown.mediaId) ?? null}
          onCheck={() => check([shown.id])}
        />
      )}
    </div>
  );
}

interface Sending {
  readonly name: string;
  readonly sent: number;
  readonly total: number;
}

/** Sends files one request at a time, so that one broken upload costs one file. */
function useUpload(project: string) {
  const [progress, setProgress] = useState<Sending | null>(null);
  const stopper = useRef<AbortController | null>(null);
  const upload = useCallback(
    async (files: readonly File[]) => {
      const stop = new AbortController();
      stopper.current = stop;
      for (const file of files) {
        if (stop.signal.aborted) break;
        setProgress({ name: file.name, sent: 0, total: file.size });
        const body = new FormData();
        body.append('file', file, file.name);
        try {
          const reply = await call('upload', {
            parameters: { project },
            body,
            signal: stop.signal,
            onUploadProgress: (e) => setProgress({ name: file.name, sent: Math.min(e.loaded, file.size), total: file.size }),
          });
          for (const refused of reply.refused)
            notifications.show({ message: refused.message, color: 'orange', autoClose: 12_000, withBorder: true });
        } catch (error) {
          if (!(error instanceof RequestError && error.code === 'stopped')) tellError(error);
        }
      }
      setProgress(null);
    },
    [project],
  );
  return { progress, upload, stop: () => stopper.current?.abort() };
}
