import { Button, Group } from '@mantine/core';
import type { Source } from '@thawline/project';
import { plural } from '../../../shared/words.js';
import { SURE } from '../model/pairPlaces.js';
import type { Hearing } from '../model/useHearing.js';
import type { PairTies } from '../model/usePairTies.js';
import classes from './align.module.css';
import { BothSounds } from './BothSounds.js';

interface Props {
  readonly a: Source;
  readonly b: Source;
  readonly hearing: Hearing;
  readonly pair: PairTies;
  /** The moment of a that is looked at, in seconds. */
  readonly at: number;
  readonly onAt: (seconds: number) => void;
}

/** Both sounds on one line with their ties, how comparing them goes, and what came of it. */
export function PairSounds({ a, b, hearing, pair, at, onAt }: Props) {
  const { found, job, failed, find } = hearing;
  const unlike = found !== null && found.certainty < SURE && !pair.byHand && !job;
  return (
    <section className={`sheet ${classes.sounds}`} data-testid="both-sounds">
      <Group justify="space-between" wrap="nowrap">
        <h2 className="heading">{a.sound || b.sound ? 'Both sounds on one line' : 'Both on one line'}</h2>
        <span className="quiet" data-testid="align-state">
          {job ? `${job.phase} ${job.total ? `${Math.round((100 * job.done) / job.total)} %` : ''}` : stateWords(pair, found)}
        </span>
        <Group gap={6} wrap="nowrap">
          {pair.byHand && pair.proposes && (
            <Button size="compact-sm" variant="default" onClick={pair.clear}>
              As found by sound
            </Button>
          )}
          <Button size="compact-sm" variant="default" onClick={find} loading={job !== undefined} disabled={!a.sound || !b.sound}>
            Find by sound
          </Button>
        </Group>
      </Group>
      {failed && !job && (
        <div className="notice" data-tone="rust">
          {failed.message}
        </div>
      )}
      {unlike && (
        <div className="notice" data-tone="rust" data-testid="no-match">
          The sounds of {a.name} and {b.name} do not match ({(found.certainty * 100).toFixed(0)} % certain). If they are of one
          event all the same, find a moment that both show and tie it by hand.
        </div>
      )}
      <BothSounds
        a={a}
        b={b}
        ties={pair.ties}
        solution={pair.solution}
        found={found}
        chosen={pair.chosen}
        at={at}
        onAt={onAt}
        onChoose={pair.choose}
        onMove={pair.moveTo}
      />
    </section>
  );
}

function stateWords({ ties, byHand }: PairTies, found: Hearing['found']): string {
  const heard = found ? `${plural(Math.min(found.strikesA.length, found.strikesB.length), 'strike')} heard in both` : '';
  const by = ties.length === 0 ? 'no ties yet' : `${plural(ties.length, 'tie')} ${byHand ? 'by hand' : 'found by sound'}`;
  const next = ties.length === 0 ? 'find a moment that both show, and tie it' : 'drag a tie, or nudge it by a picture';
  return [by, heard, next].filter(Boolean).join(' \u00b7 ');
}
