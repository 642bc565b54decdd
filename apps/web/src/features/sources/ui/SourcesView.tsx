import { Button, Group, Progress } from '@mantine/core';
import { formatRate } from '@thawline/core/time';
import { isMoving } from '@thawline/project';
import { useMemo, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks, useFiles, useJobs } from '../../../api/queries.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { suggestRate } from '../../../shared/rates/rateMismatches.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { bytes, plural } from '../../../shared/words.js';
import { type AddPlan, planFiles, planFolders, useAdding } from '../model/adding.js';
import type { ReadChoice } from '../model/readings.js';
import { rowsOf, useLines } from '../model/sourceList.js';
import { AddSheet, Passed } from './AddSheet.js';
import { FolderBrowser } from './FolderBrowser.js';
import { Ledger } from './Ledger.js';
import { NoProxies } from './NoProxies.js';
import { RatesBar } from './RatesBar.js';
import { ReadAt } from './ReadAt.js';
import { RemoveSheet } from './RemoveSheet.js';
import { REMARK_WORDS, SourceBar } from './SourceBar.js';
import { SourceTable } from './SourceTable.js';
import classes from './sources.module.css';
import { UnfinishedUploads } from './UnfinishedUploads.js';

/** What was shot: every source with its rates, and the ledger of the chosen one. */
export function SourcesView() {
  const { id, project, run } = useProject();
  const { source: open } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const files = useFiles(id);
  const jobs = useJobs(id);
  const chosen = useView((s) => s.chosenSources);
  const setChosen = useView((s) => s.setChosenSources);
  const list = useView((s) => s.sourceList);
  const setList = useView((s) => s.setSourceList);
  const adding = useAdding(id);
  const [plan, setPlan] = useState<AddPlan | null>(null);
  const [browsing, setBrowsing] = useState(false);
  const [reading, setReading] = useState<Partial<ReadChoice> | null>(null);
  const [removing, setRemoving] = useState(false);
  const folderInput = useRef<HTMLInputElement>(null);

  const rows = useMemo(() => rowsOf(project, checks, files), [project, checks, files]);
  const lines = useLines(rows, list);
  const shown = project.sources.find((s) => s.id === open) ?? project.sources[0];
  const checking = useMemo(
    () =>
      new Map(
        jobs.filter((j) => j.kind === 'check' && (j.state === 'running' || j.state === 'queued')).map((j) => [j.subject, j]),
      ),
    [jobs],
  );
  const picked = new Set(chosen);
  const targets = project.sources.filter((s) => picked.has(s.id));
  const meant = targets.length > 0 ? targets : shown ? [shown] : [];

  const take = (found: AddPlan): void => {
    // Plain files are added at once; a folder, or what wants a rate, is shown first.
    const plain = found.passed.length === 0 && found.refused.length === 0 && found.items.every((i) => i.kind !== 'series');
    if (plain && found.items.length > 0) void adding.add(found, null);
    else setPlan(found);
  };
  const drop = useDropzone({
    onDrop: (dropped) => dropped.length > 0 && take(planFiles(dropped)),
    noClick: true,
    noKeyboard: true,
  });
  const check = (ids: readonly string[]): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: ids } }).catch(tellError);
  };
  const remove = (): void => {
    const used = rows.some((r) => r.uses > 0 && meant.includes(r.source));
    if (used) setRemoving(true);
    else
      void run({ type: 'removeSources', sourceIds: meant.map((s) => s.id), withUses: false }).then(
        (done) => done && setChosen([]),
      );
  };
  const toCheck =
    targets.length > 0
      ? targets.filter(isMoving)
      : project.sources.filter((s) => isMoving(s) && !checks.has(s.mediaId) && !checking.has(s.mediaId));
  useShortcut('readAt', () => meant.some(isMoving) && setReading({}), {
    enabled: reading === null && !browsing && plan === null,
  });
  const { progress, report } = adding;
  const suggestion = project.timelines[0]?.rate ?? suggestRate(project)?.rate;
  return (
    <div className={classes.view} {...drop.getRootProps()}>
      <input {...drop.getInputProps({ 'aria-label': 'Files to add' })} />
      <input
        ref={folderInput}
        type="file"
        hidden
        multiple
        aria-label="Folder to add"
        // React's types do not know this attribute.
        {...{ webkitdirectory: '' }}
        onChange={(e) => {
          const dropped = [...(e.currentTarget.files ?? [])];
          e.currentTarget.value = '';
          if (dropped.length > 0) take(planFiles(dropped));
        }}
      />
      {drop.isDragActive && <div className={classes.drop}>Drop to add them to {project.name}</div>}
      <div className={classes.left}>
        {project.sources.length > 0 && <RatesBar />}
        <section className={`sheet ${classes.list}`}>
          <SourceBar
            rows={rows}
            shown={lines.filter((l) => l.kind === 'source').length}
            targets={targets}
            onFiles={drop.open}
            onFolder={() => folderInput.current?.click()}
            onInPlace={() => setBrowsing(true)}
            onReadAt={meant.some(isMoving) ? () => setReading({}) : null}
            onCheck={toCheck.length > 0 ? () => check(toCheck.map((s) => s.id)) : null}
            onRemove={targets.length > 0 ? remove : null}
          />
          {(list.rates.length > 0 || list.remark !== null) && (
            <div className={classes.filtered}>
              Only{' '}
              {[...(list.rates.length > 0 ? ['the chosen rates'] : []), ...(list.remark ? [REMARK_WORDS[list.remark]] : [])].join(
                ', ',
              )}
              .
              <button type="button" className={classes.plain} onClick={() => setList({ rates: [], remark: null })}>
                Show all
              </button>
            </div>
          )}
          {progress && (
            <div className={classes.progress} role="status">
              <Group justify="space-between">
                <span>
                  {progress.sent !== null && progress.sent < progress.bytes
                    ? `${progress.paused ? 'Paused' : 'Adding'} ${progress.name}: ${bytes(progress.sent)} of ${bytes(progress.bytes)}`
                    : `Reading ${progress.name}`}
                  {progress.total > 1 && (
                    <span className="number quiet">
                      {' '}
                      &middot; {progress.done + 1} of {progress.total}
                    </span>
                  )}
                </span>
                <Group gap={6}>
                  {progress.sent !== null && progress.sent < progress.bytes && (
                    <Button size="compact-xs" variant="default" onClick={progress.paused ? adding.goOn : adding.pause}>
                      {progress.paused ? 'Go on' : 'Pause'}
                    </Button>
                  )}
                  <Button size="compact-xs" variant="default" onClick={adding.stop}>
                    Stop
                  </Button>
                </Group>
              </Group>
              <Progress
                value={
                  (100 * (progress.done + (progress.sent === null ? 0 : progress.sent / Math.max(1, progress.bytes)))) /
                  progress.total
                }
                size="sm"
                mt={6}
              />
            </div>
          )}
          <NoProxies files={files} jobs={jobs} />
          <UnfinishedUploads sending={progress !== null} />
          {report && (report.refused.length > 0 || report.passed.length > 0) && (
            <div className={`notice ${classes.report}`} data-tone="rust" role="status">
              <div>
                Added {plural(report.added, 'source')}. <Passed passed={report.passed} refused={report.refused} />
              </div>
              <button type="button" className={classes.plain} onClick={adding.dismiss}>
                Dismiss
              </button>
            </div>
          )}
          {project.sources.length === 0 && !progress ? (
            <div className={classes.empty}>
              <h2>Drop your files here</h2>
              <p className="quiet">
                Films, numbered pictures, stills, or a whole folder. Each is read at once: the rate it stores, the rate its own
                timestamps measure, how many pictures there are. Nothing is changed in them, and no timeline takes its rate from
                the first one.
              </p>
              <Group justify="center" gap="xs">
                <Button onClick={drop.open}>Choose files</Button>
                <Button variant="default" onClick={() => setBrowsing(true)}>
                  Use in place
                </Button>
              </Group>
            </div>
          ) : (
            <SourceTable
              lines={lines}
              open={shown?.id ?? null}
              checking={checking}
              onOpen={(sourceId) => go('sources', sourceId)}
            />
          )}
        </section>
      </div>
      {shown && (
        <Ledger
          key={shown.id}
          source={shown}
          check={checks.get(shown.mediaId) ?? null}
          checking={checking.get(shown.mediaId) ?? null}
          file={files.get(shown.mediaId) ?? null}
          onCheck={() => check([shown.id])}
          onReadAt={(suggested) => {
            setChosen([]);
            setReading(suggested);
          }}
        />
      )}
      {reading && <ReadAt sources={meant} checks={checks} suggested={reading} onClose={() => setReading(null)} />}
      {removing && (
        <RemoveSheet
          sources={meant}
          onClose={() => setRemoving(false)}
          onDone={() => {
            setRemoving(false);
            setChosen([]);
          }}
        />
      )}
      {browsing && (
        <FolderBrowser
          title="Use files where they lie"
          action="Look into"
          onClose={() => setBrowsing(false)}
          onChoose={(paths) => {
            setBrowsing(false);
            planFolders(paths).then(setPlan, tellError);
          }}
        />
      )}
      {plan && (
        <AddSheet
          plan={plan}
          suggested={suggestion ? formatRate(suggestion) : '25'}
          onClose={() => setPlan(null)}
          onAdd={(found, rate) => {
            setPlan(null);
            void adding.add(found, rate);
          }}
        />
      )}
    </div>
  );
}
