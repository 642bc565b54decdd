import { Button, Group, Select } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { AlignedReply } from '@thawline/contract';
import type { Tie } from '@thawline/core/align';
import { alignmentOf, recordedSeconds, type Source } from '@thawline/project';
import { useEffect, useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs, useTiming } from '../../../api/queries.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { plural } from '../../../shared/words.js';
import { alignable, moved, partner, pictureLength, SURE, solved, withTie } from '../model/pairPlaces.js';
import classes from './align.module.css';
import { BothSounds } from './BothSounds.js';
import { Followers, ListenToMore } from './Followers.js';
import { HereCard } from './HereCard.js';
import { PairFacts } from './PairFacts.js';
import { TieCard } from './TieCard.js';

/** Two recordings of one event: where the second one lies to the first, how fast its clock runs, and the ties that say so. */
export function AlignView() {
  const { project } = useProject();
  const { a: aId, b: bId } = useParams();
  const a = project.sources.find((s) => s.id === aId);
  const b = project.sources.find((s) => s.id === bId);
  return (
    <div className={classes.view}>
      <Chooser a={a} b={b} />
      {a && b && a !== b ? <Pair key={`${a.id} ${b.id}`} a={a} b={b} /> : <Nothing />}
    </div>
  );
}

function Nothing() {
  const { project } = useProject();
  const go = useGo();
  const fit = project.sources.filter(alignable);
  return (
    <div className={`sheet ${classes.none}`}>
      <h2>Two recordings of one event</h2>
      <p className="quiet">
        {fit.length < 2
          ? 'Add two of them: two cameras, or a camera and a sound recorder. A clap at both ends makes it exact.'
          : 'Choose the one that leads, and the one that is to follow it. Their sounds tell where they belong together, and how far their clocks part; without sound, moments are tied by hand.'}
      </p>
      {fit.length < 2 && <Button onClick={() => go('sources')}>Go to Sources</Button>}
    </div>
  );
}

function Chooser({ a, b }: { a: Source | undefined; b: Source | undefined }) {
  const { project } = useProject();
  const go = useGo();
  const data = project.sources
    .filter(alignable)
    .map((s) => ({ value: s.id, label: `${s.name} \u00b7 ${rateLabel(s)}${s.sound ? '' : ' \u00b7 no sound'}` }));
  return (
    <Group gap="sm" className={classes.chooser ?? ''}>
      <Select
        aria-label="The recording that leads"
        placeholder="leads"
        searchable
        data={data.map((d) => ({ ...d, disabled: d.value === b?.id }))}
        value={a?.id ?? null}
        onChange={(id) => id && go('align', id, b?.id)}
        w={260}
      />
      <span className="quiet">and</span>
      <Select
        aria-label="The recording that follows"
        placeholder="follows it"
        searchable
        disabled={!a}
        data={data.map((d) => ({ ...d, disabled: d.value === a?.id }))}
        value={b?.id ?? null}
        onChange={(id) => id && go('align', a?.id, id)}
        w={260}
      />
      {a && b && (
        <Button variant="default" size="compact-md" onClick={() => go('align', b.id, a.id)}>
          Swap the two
        </Button>
      )}
      {a && <ListenToMore a={a} />}
    </Group>
  );
}

function useAligned(a: Source, b: Source): { found: AlignedReply | null; asked: boolean } {
  const { id } = useProject();
  const reply = useQuery({
    queryKey: ['aligned', id, a.id, b.id],
    queryFn: () => call('aligned', { parameters: { project: id, a: a.id, b: b.id } }),
  });
  return { found: reply.data ?? null, asked: reply.isSuccess };
}

function Pair({ a, b }: { a: Source; b: Source }) {
  const { id, project, run } = useProject();
  const { tie: asked } = useParams();
  const go = useGo();
  const { found, asked: known } = useAligned(a, b);
  const jobs = useJobs(id).filter((j) => j.kind === 'align' && j.subject === `${a.mediaId}+${b.mediaId}`);
  const job = jobs.find((j) => j.state === 'running' || j.state === 'queued');
  const failed = jobs[0]?.state === 'failed' ? jobs[0].error : null;
  const kept = alignmentOf(project, a.id, b.id)?.ties;
  const proposed = useMemo(() => (found && found.certainty >= SURE ? found.ties : []), [found]);
  const ties: readonly Tie[] = kept ?? proposed;
  const { solution, leftMs } = useMemo(() => solved(ties), [ties]);
  const chosen = asked === undefined || !ties[Number(asked)] ? null : Number(asked);
  const [at, setAt] = useState(() => recordedSeconds(a) / 2);
  const [shift, setShift] = useState(0);
  const timings = { a: useTiming(a), b: useTiming(b) };
  const choose = (index: number | null): void => go('align', a.id, b.id, index ?? undefined);
  /** Changes the ties as they are when the command is sent: quick keys may come before the last reply. */
  const edit = (change: (ties: readonly Tie[]) => Tie[]): void =>
    void run((now) => {
      const stand = alignmentOf(now, a.id, b.id)?.ties ?? ties;
      return { type: 'setTies', aId: a.id, bId: b.id, ties: change(stand) };
    });
  const nudge = (index: number, side: 'a' | 'b', seconds: number): void =>
    edit((stand) => {
      const tie = stand[index];
      return tie ? withTie(stand, index, moved(tie, side, seconds, side === 'a' ? a : b)) : [...stand];
    });
  const goTo = (seconds: number): void => {
    setAt(Math.max(0, Math.min(recordedSeconds(a), seconds)));
    setShift(0);
    if (chosen !== null) choose(null);
  };
  const here = { a: at, b: partner(solution, at) + shift };
  const tieHere = (): void => {
    const inside = (s: number, source: Source): number => Math.round(Math.max(0, Math.min(recordedSeconds(source), s)) * 1e6);
    const tie = { a: inside(here.a, a), b: inside(here.b, b) };
    edit((stand) => withTie(stand, -1, tie));
    setShift(0);
  };
  const find = (): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'align', a: a.id, b: b.id } }).catch(tellError);
  };
  const untie = (): void => {
    if (chosen === null) return;
    // By its moments, not its place: pressed twice, it takes one away.
    const gone = ties[chosen];
    const index = (stand: readonly Tie[]): number => stand.findIndex((tie) => tie.a === gone?.a && tie.b === gone.b);
    edit((stand) => withTie(stand, index(stand), null));
    choose(null);
  };
  useShortcut('back', () => goTo(at - pictureLength(a)), { preventDefault: true });
  useShortcut('on', () => goTo(at + pictureLength(a)), { preventDefault: true });
  useShortcut('tieHere', tieHere);
  useShortcut('untie', untie);
  useShortcut('nextTie', () => ties.length > 0 && choose(((chosen ?? -1) + 1) % ties.length));
  useShortcut('previousTie', () => ties.length > 0 && choose(((chosen ?? ties.length) - 1 + ties.length) % ties.length));
  useShortcut('earlierMs', () => chosen !== null && nudge(chosen, 'b', -0.001), { preventDefault: true });
  useShortcut('laterMs', () => chosen !== null && nudge(chosen, 'b', 0.001), { preventDefault: true });
  // A pair that is opened for the first time is listened to without being asked; one that was stopped stays so.
  const jobsKnown = useQueryClient().getQueryData(['jobs', id]) !== undefined;
  const unheard = known && jobsKnown && !found && !kept && jobs.length === 0 && a.sound !== null && b.sound !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once, when it turns out that the pair is unheard
  useEffect(() => {
    if (unheard) find();
  }, [unheard]);
  const [first, last] = [ties[0], ties.length > 1 ? ties.at(-1) : undefined];
  const card = { a, b, timings, solution, ties, onNudge: nudge };
  return (
    <>
      <Followers a={a} chosen={b.id} />
      <PairFacts a={a} b={b} ties={ties} solution={solution} leftMs={leftMs} />
      <section className={`sheet ${classes.sounds}`} data-testid="both-sounds">
        <Group justify="space-between" wrap="nowrap">
          <h2 className="heading">{a.sound || b.sound ? 'Both sounds on one line' : 'Both on one line'}</h2>
          <span className="quiet" data-testid="align-state">
            {job
              ? `${job.phase} ${job.total ? `${Math.round((100 * job.done) / job.total)} %` : ''}`
              : stateWords(ties, found, kept !== undefined)}
          </span>
          <Group gap={6} wrap="nowrap">
            {kept && proposed.length > 0 && (
              <Button size="compact-sm" variant="default" onClick={() => edit(() => [])}>
                As found by sound
              </Button>
            )}
            <Button
              size="compact-sm"
              variant="default"
              onClick={find}
              loading={job !== undefined}
              disabled={!a.sound || !b.sound}
            >
              Find by sound
            </Button>
          </Group>
        </Group>
        {failed && !job && (
          <div className="notice" data-tone="rust">
            {failed.message}
          </div>
        )}
        {found && found.certainty < SURE && !kept && !job && (
          <div className="notice" data-tone="rust" data-testid="no-match">
            The sounds of {a.name} and {b.name} do not match ({(found.certainty * 100).toFixed(0)} % certain). If they are of one
            event all the same, find a moment that both show and tie it by hand.
          </div>
        )}
        <BothSounds
          a={a}
          b={b}
          ties={ties}
          solution={solution}
          found={found}
          chosen={chosen}
          at={at}
          onAt={goTo}
          onChoose={choose}
          onMove={(index, side, to) => nudge(index, side, to - (ties[index]?.[side] ?? 0) / 1e6)}
        />
      </section>
      <div className={classes.cards}>
        {first ? <TieCard {...card} index={0} title="First tie" onChoose={choose} /> : <Empty what="The first tie comes here." />}
        {chosen !== null && chosen !== 0 && chosen !== ties.length - 1 ? (
          <TieCard {...card} index={chosen} title={`Tie ${chosen + 1}`} onChoose={choose} onUntie={untie} />
        ) : (
          <HereCard
            a={a}
            b={b}
            timings={timings}
            solution={solution}
            here={here}
            onA={(by) => goTo(at + by)}
            onB={(by) => setShift(shift + by)}
            onTie={tieHere}
          />
        )}
        {last ? (
          <TieCard {...card} index={ties.length - 1} title="Last tie" onChoose={choose} />
        ) : (
          <Empty what="A second tie, far from the first, gives the drift." />
        )}
      </div>
    </>
  );
}

function Empty({ what }: { what: string }) {
  return (
    <section className={`sheet ${classes.card}`}>
      <p className="quiet">{what}</p>
    </section>
  );
}

function stateWords(ties: readonly Tie[], found: AlignedReply | null, kept: boolean): string {
  const heard = found ? `${plural(Math.min(found.strikesA.length, found.strikesB.length), 'strike')} heard in both` : '';
  const by = ties.length === 0 ? 'no ties yet' : `${plural(ties.length, 'tie')} ${kept ? 'by hand' : 'found by sound'}`;
  const next = ties.length === 0 ? 'find a moment that both show, and tie it' : 'drag a tie, or nudge it by a picture';
  return [by, heard, next].filter(Boolean).join(' \u00b7 ');
}
