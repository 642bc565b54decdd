import { alignmentOf, recordedSeconds, type Source } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useTiming } from '../../../api/queries.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { partner, pictureLength } from '../model/pairPlaces.js';
import { useHearing } from '../model/useHearing.js';
import { usePairTies } from '../model/usePairTies.js';
import classes from './align.module.css';
import { Followers } from './Followers.js';
import { HereCard } from './HereCard.js';
import { PairFacts } from './PairFacts.js';
import { PairSounds } from './PairSounds.js';
import { TieCard } from './TieCard.js';

/** Two recordings that are chosen: their facts, their sounds, and the first, the chosen and the last of their ties. */
export function Pair({ a, b }: { a: Source; b: Source }) {
  const { project } = useProject();
  const hearing = useHearing(a, b, alignmentOf(project, a.id, b.id) !== undefined);
  const pair = usePairTies(a, b, hearing.found);
  const { ties, solution, leftMs, chosen, choose, nudge } = pair;
  const [at, setAt] = useState(() => recordedSeconds(a) / 2);
  const [shift, setShift] = useState(0);
  const timings = { a: useTiming(a), b: useTiming(b) };
  const goTo = (seconds: number): void => {
    setAt(Math.max(0, Math.min(recordedSeconds(a), seconds)));
    setShift(0);
    if (chosen !== null) choose(null);
  };
  const here = { a: at, b: partner(solution, at) + shift };
  const tieHere = (): void => {
    pair.tie(here);
    setShift(0);
  };
  useShortcut('back', () => goTo(at - pictureLength(a)), { preventDefault: true });
  useShortcut('on', () => goTo(at + pictureLength(a)), { preventDefault: true });
  useShortcut('tieHere', tieHere);
  useShortcut('untie', pair.untie);
  useShortcut('nextTie', () => pair.step(1));
  useShortcut('previousTie', () => pair.step(-1));
  useShortcut('earlierMs', () => chosen !== null && nudge(chosen, 'b', -0.001), { preventDefault: true });
  useShortcut('laterMs', () => chosen !== null && nudge(chosen, 'b', 0.001), { preventDefault: true });
  const [first, last] = [ties[0], ties.length > 1 ? ties.at(-1) : undefined];
  const card = { a, b, timings, solution, ties, onNudge: nudge };
  return (
    <>
      <Followers a={a} chosen={b.id} />
      <PairFacts a={a} b={b} ties={ties} solution={solution} leftMs={leftMs} />
      <PairSounds a={a} b={b} hearing={hearing} pair={pair} at={at} onAt={goTo} />
      <div className={classes.cards}>
        {first ? <TieCard {...card} index={0} title="First tie" onChoose={choose} /> : <Empty what="The first tie comes here." />}
        {chosen !== null && chosen !== 0 && chosen !== ties.length - 1 ? (
          <TieCard {...card} index={chosen} title={`Tie ${chosen + 1}`} onChoose={choose} onUntie={pair.untie} />
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
