import { isMoving } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks, useFiles, useJobs } from '../../../api/queries.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { hasFields } from '../../fields/model/fields.js';
import { FieldsSheet } from '../../fields/ui/FieldsSheet.js';
import { checksUnderWay, chosenSources, sourcesToCheck } from '../model/chosenSources.js';
import type { ReadChoice } from '../model/readings.js';
import { rowsOf, useLines } from '../model/sourceList.js';
import { AddArea, type AddWays } from './AddArea.js';
import { AddProgress, AddReport } from './AddProgress.js';
import { FilterNote } from './FilterNote.js';
import { Ledger } from './Ledger.js';
import { NoProxies } from './NoProxies.js';
import { NoSources } from './NoSources.js';
import { RatesBar } from './RatesBar.js';
import { ReadAt } from './ReadAt.js';
import { RemoveSheet } from './RemoveSheet.js';
import { SourceBar } from './SourceBar.js';
import { SourceTable } from './SourceTable.js';
import classes from './sources.module.css';
import { UnfinishedUploads } from './UnfinishedUploads.js';

/** What was shot: every source with its rates, and the ledger of the chosen one. */
export function SourcesView() {
  return <AddArea>{(ways) => <Sources {...ways} />}</AddArea>;
}

function Sources({ adding, asking, onFiles, onFolder, onInPlace }: AddWays) {
  const { id, project, run } = useProject();
  const { source: open } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const files = useFiles(id);
  const jobs = useJobs(id);
  const picked = useView((s) => s.chosenSources);
  const setChosen = useView((s) => s.setChosenSources);
  const list = useView((s) => s.sourceList);
  const [reading, setReading] = useState<Partial<ReadChoice> | null>(null);
  const [readingFields, setReadingFields] = useState(false);
  const [removing, setRemoving] = useState(false);

  const rows = useMemo(() => rowsOf(project, checks, files), [project, checks, files]);
  const lines = useLines(rows, list);
  const checking = useMemo(() => checksUnderWay(jobs), [jobs]);
  const shown = project.sources.find((s) => s.id === open) ?? project.sources[0];
  const { chosen, meant } = chosenSources(project, picked, shown);
  const toCheck = sourcesToCheck(project, chosen, checks, checking).map((s) => s.id);
  const check = (ids: readonly string[]): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: ids } }).catch(tellError);
  };
  const remove = async (): Promise<void> => {
    const sourceIds = meant.map((s) => s.id);
    if (rows.some((r) => r.uses > 0 && sourceIds.includes(r.source.id))) setRemoving(true);
    else if (await run({ type: 'removeSources', sourceIds, withUses: false })) setChosen([]);
  };
  const readable = meant.some(isMoving);
  const withFields = meant.filter(hasFields);
  const fields = (): void => {
    const [one] = withFields;
    if (one && meant.length === 1) go('sources', one.id, 'fields');
    else setReadingFields(true);
  };
  useShortcut('readAt', () => readable && setReading({}), { enabled: reading === null && !asking });
  return (
    <>
      <div className={classes.left}>
        {project.sources.length > 0 && <RatesBar />}
        <section className={`sheet ${classes.list}`}>
          <SourceBar
            rows={rows}
            shown={lines.filter((l) => l.kind === 'source').length}
            targets={chosen}
            onFiles={onFiles}
            onFolder={onFolder}
            onInPlace={onInPlace}
            onReadAt={readable ? () => setReading({}) : null}
            onFields={withFields.length > 0 ? fields : null}
            onCheck={toCheck.length > 0 ? () => check(toCheck) : null}
            onRemove={chosen.length > 0 ? () => void remove() : null}
          />
          <FilterNote />
          <AddProgress adding={adding} />
          <NoProxies files={files} jobs={jobs} />
          <UnfinishedUploads sending={adding.progress !== null} />
          <AddReport adding={adding} />
          {project.sources.length === 0 && !adding.progress ? (
            <NoSources onFiles={onFiles} onInPlace={onInPlace} />
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
      {readingFields && <FieldsSheet sources={meant} onClose={() => setReadingFields(false)} />}
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
    </>
  );
}
