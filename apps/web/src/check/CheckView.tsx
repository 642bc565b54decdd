import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { CheckReply, CheckSummary, JobReply } from '@thawline/contract';
import { formatDecimalRate, nominalRate, rate } from '@thawline/core/time';
import { ownRate, type Source } from '@thawline/project';
import { useHotkeys } from 'react-hotkeys-hook';
import { useParams } from 'react-router';
import { call } from '../api/client.js';
import { tellError, useChecks, useJobs, useProject } from '../api/project.js';
import { keysOf } from '../shell/shortcuts.js';
import { useGo } from '../state/places.js';
import { count, verdictLong, verdictShort } from '../words.js';
import classes from './check.module.css';
import { Findings } from './Findings.js';
import { runLengths } from './runs.js';
import { Strip } from './Strip.js';
import { Trace } from './Trace.js';

/** What is true: the verdict, the change of every picture, the pictures themselves. */
export function CheckView() {
  const { id, project } = useProject();
  const { source: open, picture } = useParams();
  const go = useGo();
  const checks = useChecks(id);
  const jobs = useJobs(id);
  // A still has no rate to check.
  const moving = project.sources.filter((s) => s.kind !== 'still');
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
  const running = (s: Source): JobReply | null =>
    jobs.find((j) => j.kind === 'check' && j.subject === s.mediaId && (j.state === 'running' || j.state === 'queued')) ?? null;
  return (
    <div className={classes.view}>
      <aside className={`sheet ${classes.list}`}>
        <h2 className="heading">Checked</h2>
        {moving.map((s) => (
          <button type="button" key={s.id} aria-current={s.id === source.id} onClick={() => go('check', s.id)} title={s.name}>
            <b>{s.name}</b>
            <small className={tone(checks.get(s.mediaId))}>{said(checks.get(s.mediaId) ?? null, running(s))}</small>
          </button>
        ))}
      </aside>
      <Checked
        key={source.id}
        source={source}
        picture={Number(picture) || 0}
        running={running(source)}
        checked={checks.has(source.mediaId)}
      />
    </div>
  );
}

function tone(check: CheckSummary | undefined): string {
  if (!check) return 'quiet';
  const { kind, held, jumps } = check.verdict;
  return kind === 'new' && held.length + jumps.length === 0 ? 'moss' : 'rust';
}

function said(check: CheckSummary | null, running: JobReply | null): string {
  if (running) return running.total ? `checking ${Math.round((100 * running.done) / running.total)} %` : 'waiting';
  return check ? verdictShort(check.verdict) : 'not checked';
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
  const result = useQuery({
    queryKey: ['check', source.mediaId],
    queryFn: () => call('check', { parameters: { media: source.mediaId } }),
    enabled: checked,
  });
  const start = (): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: [source.id] } }).catch(tellError);
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
        {!running && <Button onClick={start}>Check {source.name}</Button>}
      </div>
    );
  }
  return (
    <Result
      source={source}
      check={result.data}
      picture={Math.min(picture, source.pictures - 1)}
      onAgain={start}
      running={running !== null}
    />
  );
}

function Result({
  source,
  check,
  picture,
  onAgain,
  running,
}: {
  source: Source;
  check: CheckReply;
  picture: number;
  onAgain: () => void;
  running: boolean;
}) {
  const go = useGo();
  const { verdict } = check;
  const found = [...verdict.held, ...verdict.jumps].sort((a, b) => a - b);
  const to = (next: number | undefined): void => {
    if (next !== undefined) go('check', source.id, Math.max(0, Math.min(source.pictures - 1, next)));
  };
  const second = nominalRate(ownRate(source) ?? rate(25));
  useHotkeys(keysOf('back'), () => to(picture - 1), { preventDefault: true });
  useHotkeys(keysOf('on'), () => to(picture + 1), { preventDefault: true });
  useHotkeys(keysOf('backSecond'), () => to(picture - second), { preventDefault: true });
  useHotkeys(keysOf('onSecond'), () => to(picture + second), { preventDefault: true });
  useHotkeys(keysOf('first'), () => to(0), { preventDefault: true });
  useHotkeys(keysOf('last'), () => to(source.pictures - 1), { preventDefault: true });
  useHotkeys(keysOf('nextFinding'), () => to(found.find((f) => f > picture)));
  useHotkeys(keysOf('previousFinding'), () => to(found.findLast((f) => f < picture)));
  const odd = Math.abs(verdict.trueRate / verdict.storedRate - 1) > 0.001;
  const longest = runLengths(verdict);
  return (
    <>
      <div className={classes.middle}>
        <section className={`sheet ${classes.verdict}`} data-testid="verdict">
          <div>
            <small className="quiet">True rate</small>
            <div className={`number ${classes.big} ${odd ? 'rust' : ''}`}>{formatDecimalRate(verdict.trueRate)}</div>
          </div>
          <Fact name="Measured" value={formatDecimalRate(verdict.storedRate)} />
          <Fact name="New pictures" value={`${count(verdict.pictures - verdict.held.length)} of ${count(verdict.pictures)}`} />
          <Fact name="Certain" value={`${(verdict.certainty * 100).toFixed(1)} %`} />
          <p>{verdictLong(verdict)}</p>
        </section>
        <section className="sheet">
          <Trace check={check} picture={picture} onPicture={to} />
        </section>
        <Strip source={source} verdict={verdict} picture={picture} onPicture={to} />
      </div>
      <Findings
        source={source}
        verdict={verdict}
        runs={longest}
        picture={picture}
        onPicture={to}
        onAgain={onAgain}
        running={running}
      />
    </>
  );
}

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div>
      <small className="quiet">{name}</small>
      <div className={`number ${classes.fact}`}>{value}</div>
    </div>
  );
}
