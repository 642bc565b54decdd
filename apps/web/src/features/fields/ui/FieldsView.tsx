import { Button } from '@mantine/core';
import { formatRate } from '@thawline/core/time';
import { type FieldsAsked, type Film, fieldOrderOf, runsFor } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks, useJobs } from '../../../api/queries.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { useWalk } from '../../../shared/keys/useWalk.js';
import { useGo } from '../../../shared/state/places.js';
import { count } from '../../../shared/words.js';
import { hasFields, kindWords, momentsWords, type StoredFields, sameRuns, storedFields } from '../model/fields.js';
import { useReadFields } from '../model/useReadFields.js';
import { FieldChoices } from './FieldChoices.js';
import { FieldPictures } from './FieldPictures.js';
import { FieldsBand } from './FieldsBand.js';
import { FieldsWeave } from './FieldsWeave.js';
import { FlagProof } from './FlagProof.js';
import classes from './fields.module.css';

/** What a source's fields are, what reading them otherwise gives, and the choice. */
export function FieldsView() {
  const { id, project } = useProject();
  const { source: open, frame } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const source = project.sources.find((s) => s.id === open);
  if (!source || !hasFields(source)) {
    return (
      <div className={classes.empty}>
        <h2>No fields here</h2>
        <p className="quiet">
          {source
            ? `${source.name} is no film of 30 frames a second at most with an even number of lines: it holds no fields.`
            : 'There is no such source.'}
        </p>
        <Button onClick={() => go('sources', source?.id)}>To the sources</Button>
      </div>
    );
  }
  return <Fields key={source.id} source={source} stored={storedFields(source, checks)} frame={Number(frame) || 0} />;
}

function Fields({ source, stored, frame }: { source: Film; stored: StoredFields; frame: number }) {
  const { id } = useProject();
  const go = useGo();
  const jobs = useJobs(id);
  const readFields = useReadFields();
  const { finding, frames, mediaId, rate, flag } = stored;
  const [chosen, setAsked] = useState<FieldsAsked | null>(null);
  const usual = firstChoice(stored);
  const asked = useMemo<FieldsAsked>(() => chosen ?? { way: usual, order: 'measured' }, [chosen, usual]);
  const [proof, setProof] = useState(false);
  const runs = useMemo(() => runsFor(stored, asked), [stored, asked]);
  const at = Math.max(0, Math.min(frames - 1, frame));
  const to = (next: number | undefined): void => {
    if (next !== undefined) go('sources', source.id, 'fields', Math.max(0, Math.min(frames - 1, next)));
  };
  useWalk({ at, first: 0, last: frames - 1, second: Math.round(rate.num / rate.den), onGo: to, found: finding?.breaks ?? [] });
  const order = fieldOrderOf(stored, asked.order, finding?.stretches.find((s) => s.from <= at && at < s.to) ?? null);
  const running = jobs.find(
    (j) => j.kind === 'check' && j.subject === mediaId && (j.state === 'running' || j.state === 'queued'),
  );
  const check = (): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: [source.id] } }).catch(tellError);
  };
  const measured = finding?.first ?? null;
  return (
    <div className={classes.view}>
      <div className={classes.left}>
        <section className={`sheet ${classes.top}`} data-testid="fields-head">
          <div className={classes.kind}>
            <button type="button" className={classes.back} onClick={() => go('sources', source.id)}>
              {source.name}
            </button>
            <div className={`number ${classes.big}`}>{kindWords(finding)}</div>
          </div>
          <Fact name="Stored" value={formatRate(rate)} />
          <Fact name="Moments a second" value={momentsWords(stored)} />
          <Fact
            name="Flag says"
            value={flag === 'progressive' ? flag : `${flag} first`}
            under={finding?.flag === 'wrong' ? 'wrong' : undefined}
            tone={finding?.flag === 'wrong' ? 'rust' : undefined}
          />
          <Fact
            name="Measured"
            value={finding ? (measured ? `${measured} first` : finding.kind === 'none' ? 'one moment' : 'by stretch') : '\u2013'}
            under={finding ? `${(finding.certainty * 100).toFixed(1)} %` : undefined}
          />
          {measured && (
            <Button size="compact-md" variant="default" onClick={() => setProof(true)}>
              Both ways round
            </Button>
          )}
          {!finding && !source.fieldsRead && (
            <Button loading={running !== undefined} onClick={check}>
              {running ? `${running.phase}, ${count(running.done)} of ${count(frames)}` : 'Measure its fields'}
            </Button>
          )}
        </section>
        {finding && <FieldsBand finding={finding} frames={frames} frame={at} onFrame={to} />}
        <section className={`sheet ${classes.woven}`}>
          <div className={classes.head}>
            <h2 className="heading">Weave of fields</h2>
            <span className="quiet">pictures as read above, stored frames below: upper half is the first field</span>
          </div>
          <FieldsWeave runs={runs} frame={at} frames={frames} onFrame={to} />
        </section>
        <FieldPictures mediaId={mediaId} frame={at} order={order} shape={source.width / source.height} />
      </div>
      <FieldChoices
        stored={stored}
        asked={asked}
        runs={runs}
        isRead={source.fieldsRead !== undefined && sameRuns(source.fieldsRead.runs, runs)}
        onAsk={setAsked}
        onRead={() => void readFields([{ sourceId: source.id, runs }])}
        onBack={source.fieldsRead ? () => void readFields([{ sourceId: source.id, runs: null }]) : null}
      />
      {proof && measured && (
        <FlagProof mediaId={mediaId} frame={at} frames={frames} measured={measured} onClose={() => setProof(false)} />
      )}
    </div>
  );
}

/** What most will want: what was measured; where nothing was, one picture a field if the file says that it has two. */
function firstChoice({ finding, flag }: StoredFields): FieldsAsked['way'] {
  if (!finding) return flag === 'progressive' ? 'progressive' : 'one-a-field';
  if (finding.kind === 'mixed') return 'measured';
  return finding.kind === 'pulldown' ? 'film' : finding.kind === 'interlaced' ? 'one-a-field' : 'progressive';
}
