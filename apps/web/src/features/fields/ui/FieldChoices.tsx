import { Button, NativeSelect } from '@mantine/core';
import type { FieldRun } from '@thawline/core/fields';
import { formatRate, type Rate, times } from '@thawline/core/time';
import { FIELD_WAY_WORDS, type FieldChoice, type FieldsAsked, hasFilm, type OrderChoice, outcomeOf } from '@thawline/project';
import { count, plural } from '../../../shared/words.js';
import { filmRate, lengthWords, type StoredFields } from '../model/fields.js';
import classes from './fields.module.css';

export const WAY_NAMES: Record<FieldChoice, string> = { measured: 'each stretch as measured', ...FIELD_WAY_WORDS };

/** Choices in the order in which they are asked for most. */
const ORDER: readonly FieldChoice[] = ['measured', 'film', 'one-a-field', 'one-a-frame', 'progressive'];

export const ORDER_CHOICE_NAMES: Record<OrderChoice, string> = {
  measured: 'as measured',
  flagged: 'as the file says',
  top: 'top field first',
  bottom: 'bottom field first',
};

const ratesOf = (rate: Rate, film: Rate): Record<FieldChoice, string> => ({
  measured: '',
  film: `${formatRate(film)} \u00b7 each picture whole`,
  'one-a-field': `${formatRate(times(rate, { num: 2, den: 1 }))} \u00b7 lines rebuilt`,
  'one-a-frame': `${formatRate(rate)} \u00b7 lines rebuilt`,
  progressive: `${formatRate(rate)} \u00b7 combs stay`,
});

/** How a source's fields may be read, what comes of it, and the button that does it. */
export function FieldChoices({
  stored,
  asked,
  runs,
  isRead,
  onAsk,
  onRead,
  onBack,
}: {
  stored: StoredFields;
  asked: FieldsAsked;
  runs: readonly FieldRun[];
  /** The source is read in these very runs. */
  isRead: boolean;
  onAsk: (asked: FieldsAsked) => void;
  onRead: () => void;
  /** Null where the source is read as stored. */
  onBack: (() => void) | null;
}) {
  const { finding, frames, rate } = stored;
  const film = hasFilm(finding);
  const rates = ratesOf(rate, filmRate(stored));
  const whereOf = (way: FieldChoice): string | null => {
    const ranges = runs.filter((run) => run.way === way).map((run) => `${run.from}\u2013${run.to - 1}`);
    return asked.way === 'measured' && ranges.length > 0
      ? `for ${ranges.slice(0, 2).join(', ')}${ranges.length > 2 ? ' \u2026' : ''}`
      : null;
  };
  const outcome = outcomeOf(runs);
  const choices = ORDER.filter((way) => way !== 'measured' || finding?.kind === 'mixed');
  return (
    <aside className={`sheet ${classes.aside}`} aria-label="Read it as">
      <h2 className="heading">Read it as</h2>
      <div role="radiogroup" aria-label="How its fields are read" className={classes.choices}>
        {choices.map((way) => (
          // biome-ignore lint/a11y/useSemanticElements: a card of three lines is no input
          <button
            type="button"
            role="radio"
            key={way}
            aria-checked={asked.way === way}
            data-part={whereOf(way) !== null}
            disabled={way === 'film' && !film}
            onClick={() => onAsk({ ...asked, way })}
          >
            <b>{WAY_NAMES[way]}</b>
            {rates[way] && <small className="number quiet">{rates[way]}</small>}
            {whereOf(way) && <small className={classes.where}>{whereOf(way)}</small>}
            {way === 'film' && !film && <small className="quiet">no film was found in its fields</small>}
          </button>
        ))}
      </div>
      <NativeSelect
        size="xs"
        label="First field"
        value={asked.order}
        onChange={(e) => onAsk({ ...asked, order: e.currentTarget.value as OrderChoice })}
        data={Object.entries(ORDER_CHOICE_NAMES).map(([value, label]) => ({ value, label }))}
      />
      <h2 className="heading">What comes of it</h2>
      <dl className={classes.outcome}>
        <dt>Pictures</dt>
        <dd>
          {count(frames)} &rarr; {count(outcome.pictures)}
        </dd>
        <dt>Length</dt>
        <dd>{lengthWords(stored, runs)}</dd>
        <dt>Lines kept as they are</dt>
        <dd>{Math.round(outcome.linesKept * 100)} %</dd>
        <dt>Pictures with lines rebuilt</dt>
        <dd>{count(outcome.rebuilt)}</dd>
        {film && (
          <>
            <dt>Breaks of the beat bridged</dt>
            <dd>{outcome.breaks}</dd>
          </>
        )}
        {outcome.alone.kept + outcome.alone.leftOut > 0 && (
          <>
            <dt>Film pictures of one field</dt>
            <dd>
              {outcome.alone.kept} kept, {outcome.alone.leftOut} left out
            </dd>
          </>
        )}
      </dl>
      {new Set(runs.map((run) => run.way)).size > 1 && (
        <p className="quiet">
          Its stretches have rates of their own, so that it counts as variable: each picture has its own time.
        </p>
      )}
      {finding && finding.breaks.length > 0 && asked.way === 'progressive' && (
        <p className="quiet">{plural(finding.breaks.length, 'break')} of the beat stay in it.</p>
      )}
      <div className={classes.actions}>
        <Button disabled={isRead} onClick={onRead}>
          {isRead ? 'It is read so' : 'Read it so'}
        </Button>
        {onBack && (
          <Button variant="default" onClick={onBack}>
            Read it as stored
          </Button>
        )}
      </div>
    </aside>
  );
}
