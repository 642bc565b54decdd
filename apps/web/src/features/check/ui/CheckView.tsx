import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { CheckReply, JobReply } from '@thawline/contract';
import { formatDecimalRate, nominalRate, rate as rateOf } from '@thawline/core/time';
import { corrected, newPictures, ownRate, type Source, toldRate, whyWords } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks, useJobs } from '../../../api/queries.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { useWalk } from '../../../shared/keys/useWalk.js';
import { useGo } from '../../../shared/state/places.js';
import { count, verdictLong } from '../../../shared/words.js';
import { findingsOf, type Group, groupOf } from '../model/findings.js';
import { useMoving } from '../model/queries.js';
import { runLengths } from '../model/runLengths.js';
import { CheckList } from './CheckList.js';
import { ClaimLine } from './ClaimLine.js';
import classes from './check.module.css';
import { Findings } from './Findings.js';
import { Pair } from './Pair.js';
import { type CheckedPart, PartLine } from './PartLine.js';
import { Strip } from './Strip.js';
import { Trace } from './Trace.js';

/** What is true: the verdict, the change of every picture, the pictures themselves. */
export function CheckView() {
  const { id } = useProject();
  const { source: open, picture } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const jobs = useJobs(id);
  const moving = useMoving();
  const source = moving.find((s) => s.id === open) ?? moving[0];
  if (!source) {
    return (
      <div className={classes.empty}>
        <h2>Nothing to check yet</h2>
        <p className="quiet">Add a source first. A check decodes each of its pictures and finds those that show nothing new.</p>
        <Button onClick={() => go('sources')}>Add files</Button>
      </div>
    );
  }
  const own = (j: JobReply): boolean => j.kind === 'check' && j.subject.replace(/-part$/, '') === source.mediaId;
  const running = jobs.find((j) => own(j) && (j.state === 'running' || j.state === 'queued')) ?? null;
  return (
    <div className={classes.view}>
      <CheckList source={source.id} />
      <Checked
        key={source.id}
        source={source}
        picture={Number(picture) || 0}
        running={running}
        checked={checks.has(source.mediaId)}
      />
    </div>
  );
}

function Checked({
  source,
  picture,
  running,
  checked,
}: {
  source: Source;
  picture: number;
  running: JobReply | null;
  checked: boolean;
}) {
  const { id } = useProject();
  const [part, setPart] = useState(false);
  const result = useQuery({
    queryKey: ['check', source.mediaId],
    queryFn: () => call('check', { parameters: { media: source.mediaId } }),
    enabled: checked,
  });
  const partial = useQuery({
    queryKey: ['check', source.mediaId, 'part'],
    queryFn: () => call('partCheck', { parameters: { media: source.mediaId } }),
    enabled: checked,
  });
  const start = (asked: CheckedPart | null = null): void => {
    const body = { kind: 'check', sourceIds: [source.id], ...(asked ?? {}) };
    call('startJobs', { parameters: { project: id }, body })
      .then(() => setPart(asked !== null))
      .catch(tellError);
  };
  if (!checked || !result.data) {
    return (
      <div className={`sheet ${classes.none}`}>
        <h2>{source.name}</h2>
        <p className="quiet">
          {running
            ? `${running.phase}, ${count(running.done)} of ${count(source.pictures)}`
            : `Not checked yet. All ${count(source.pictures)} pictures are decoded and compared, each with the one before.`}
        </p>
        {!running && <Button onClick={() => start()}>Check {source.name}</Button>}
      </div>
    );
  }
  const shown = part && partial.data ? partial.data : result.data;
  return (
    <Result
      key={shown.jobId}
      source={source}
      check={shown}
      part={
        <PartLine
          source={source}
          picture={picture}
          partial={partial.data ?? null}
          shown={part && Boolean(partial.data)}
          onShow={setPart}
          onCheck={start}
          running={running}
          counter={shown.counter}
        />
      }
      picture={Math.min(picture, source.pictures - 1)}
      onAgain={() => start()}
      running={running !== null}
    />
  );
}

function Result({
  source,
  check,
  part,
  picture,
  onAgain,
  running,
}: {
  source: Source;
  check: CheckReply;
  /** Chooses what of the file is looked at. */
  part: React.ReactNode;
  picture: number;
  onAgain: () => void;
  running: boolean;
}) {
  const go = useGo();
  const verdict = useMemo(() => corrected(check.verdict, source.judged), [check.verdict, source.judged]);
  // Of hours that are padded there are many: once a verdict, not at every step.
  const all = useMemo(() => findingsOf(verdict), [verdict]);
  const [group, setGroup] = useState<Group | null>(null);
  const found = useMemo(() => (group ? all.filter((f) => groupOf(f) === group) : all), [all, group]);
  const why = useMemo(
    // What a person says of a picture has no reasons of the check's.
    () =>
      source.judged?.some((j) => j.picture === picture)
        ? 'a person said so.'
        : whyWords(picture, check.verdict, { changes: check.trace, from: check.range.from }),
    [picture, source.judged, check],
  );
  const places = useMemo(() => found.map((f) => f.at), [found]);
  const runs = useMemo(() => runLengths(verdict), [verdict]);
  const to = (next: number | undefined): void => {
    if (next !== undefined) go('check', source.id, Math.max(0, Math.min(source.pictures - 1, next)));
  };
  const second = nominalRate(ownRate(source) ?? rateOf(25));
  const beside = useWalk({ at: picture, first: 0, last: source.pictures - 1, second, onGo: to, found: places });
  const rate = toldRate(verdict);
  const odd = rate !== null && Math.abs(verdict.trueRate / verdict.storedRate - 1) > 0.001;
  return (
    <>
      <div className={classes.middle}>
        <section className={`sheet ${classes.verdict}`} data-testid="verdict">
          <div>
            <small className="quiet">True rate</small>
            <div className={`number ${classes.big} ${odd ? 'rust' : ''}`}>
              {rate === null ? '\u2013' : formatDecimalRate(rate)}
            </div>
          </div>
          <Fact name="Measured" value={formatDecimalRate(verdict.storedRate)} />
          <Fact name="New pictures" value={`${count(newPictures(verdict))} of ${count(verdict.pictures)}`} />
          <Fact name="Certain" value={`${(verdict.certainty * 100).toFixed(1)} %`} />
          <p>{verdictLong(verdict)}</p>
          {rate !== null && <ClaimLine source={source} verdict={verdict} />}
        </section>
        {part}
        <section className="sheet">
          <Trace check={check} verdict={verdict} picture={picture} onPicture={to} />
        </section>
        <Strip
          source={source}
          verdict={verdict}
          picture={picture}
          beside={beside}
          onPicture={to}
          walked={group ?? 'finding'}
          why={why}
        />
        <Pair source={source} verdict={verdict} picture={picture} />
      </div>
      <Findings
        source={source}
        verdict={verdict}
        found={found}
        runs={runs}
        picture={picture}
        onPicture={to}
        onAgain={onAgain}
        running={running}
        group={group}
        onGroup={setGroup}
      />
    </>
  );
}
