import type { Verdict } from '@thawline/core/truth';
import { fieldKindWords, fieldStretchWords } from '@thawline/project';
import { type ReactNode, useMemo } from 'react';
import { count, plural } from '../../../shared/words.js';
import classes from './lanes.module.css';

/** Pictures that are shown, `to` not included. */
interface Shown {
  readonly from: number;
  readonly to: number;
}

interface Props {
  readonly verdict: Pick<Verdict, 'held' | 'jumps' | 'cuts' | 'faults' | 'passages' | 'fields'>;
  readonly shown: Shown;
  readonly onPicture: (picture: number) => void;
}

/** More places than this in one lane cannot be told apart. */
const MOST = 600;

const NAMES = { held: 'held', jumps: 'jumps', cuts: 'cuts', faults: 'faults' } as const;
type Lane = keyof typeof NAMES;

/** Under the trace, at the same places: what was found, a lane for each kind, and what the fields are. */
export function Lanes({ verdict, shown, onPicture }: Props) {
  const lanes = useMemo(
    (): Record<Lane, readonly number[]> => ({
      held: verdict.held,
      jumps: verdict.jumps,
      cuts: verdict.cuts,
      faults: verdict.faults.map((f) => f.picture),
    }),
    [verdict],
  );
  return (
    <div className={classes.lanes} data-testid="lanes">
      {(Object.keys(NAMES) as Lane[]).map((lane) => (
        <Row key={lane} lane={lane} places={lanes[lane]} shown={shown} onPicture={onPicture}>
          {lane === 'cuts' && <Passages passages={verdict.passages} shown={shown} onPicture={onPicture} />}
        </Row>
      ))}
      <Fields fields={verdict.fields} shown={shown} onPicture={onPicture} />
    </div>
  );
}

/** Flashes, fades and dissolves, as long as they are, among the cuts. */
function Passages({ passages, shown, onPicture }: Pick<Props, 'shown' | 'onPicture'> & Pick<Props['verdict'], 'passages'>) {
  const wide = shown.to - shown.from;
  return passages
    .filter((p) => p.to > shown.from && p.from < shown.to)
    .map((p) => (
      <button
        type="button"
        key={`${p.kind} ${p.from}`}
        tabIndex={-1}
        className={classes.passage}
        title={`${p.kind}, pictures ${p.from} to ${p.to - 1}`}
        style={{ left: `${((p.from - shown.from) / wide) * 100}%`, width: `${((p.to - p.from) / wide) * 100}%` }}
        onClick={() => onPicture(p.from)}
      >
        {p.kind}
      </button>
    ));
}

type RowProps = Pick<Props, 'shown' | 'onPicture'> & {
  readonly lane: Lane;
  readonly places: readonly number[];
  readonly children: ReactNode;
};

function Row({ lane, places, shown, onPicture, children }: RowProps) {
  const wide = shown.to - shown.from;
  const marks = useMemo(() => {
    // As many as there is room for, each at the place of the first picture it stands for.
    const per = Math.max(1, Math.ceil(wide / MOST));
    const seen = new Map<number, number>();
    for (const k of places) {
      if (k < shown.from || k >= shown.to) continue;
      const at = Math.floor((k - shown.from) / per);
      if (!seen.has(at)) seen.set(at, k);
    }
    return [...seen.values()];
  }, [places, shown, wide]);
  const inView = useMemo(() => places.filter((k) => k >= shown.from && k < shown.to).length, [places, shown]);
  return (
    <div className={classes.lane} data-lane={lane}>
      <span className="quiet">{NAMES[lane]}</span>
      <div className={classes.track} role="img" aria-label={`${NAMES[lane]}: ${count(inView)}`}>
        {marks.map((k) => (
          <button
            type="button"
            key={k}
            tabIndex={-1}
            title={`${NAMES[lane]} ${k}`}
            style={{ left: `${((k - shown.from + 0.5) / wide) * 100}%` }}
            onClick={() => onPicture(k)}
          />
        ))}
        {children}
      </div>
    </div>
  );
}

function Fields({ fields, shown, onPicture }: Pick<Props, 'shown' | 'onPicture'> & { fields: Verdict['fields'] }) {
  const wide = shown.to - shown.from;
  const stretches = fields.kind === 'mixed' ? fields.stretches : [];
  const said = fields.flag === 'wrong' ? 'the file says otherwise' : fields.flag === 'right' ? 'as flagged' : 'not flagged';
  return (
    <div className={classes.lane} data-lane="fields">
      <span className="quiet">fields</span>
      <div className={classes.track}>
        {stretches.length === 0 && fields.stretches.length > 0 && (
          <em className={fields.flag === 'wrong' ? 'rust' : 'quiet'}>
            {fieldKindWords(fields)}, {said}
          </em>
        )}
        {fields.stretches.length === 0 && <em className="quiet">not measured: too quick to hold two moments</em>}
        {stretches.map((s) => {
          const [left, right] = [Math.max(s.from, shown.from), Math.min(s.to, shown.to)];
          if (right <= left) return null;
          return (
            <button
              type="button"
              key={s.from}
              tabIndex={-1}
              className={classes.stretch}
              data-kind={s.kind}
              title={`${fieldStretchWords(s, fields.film)}, pictures ${s.from} to ${s.to - 1}`}
              style={{ left: `${((left - shown.from) / wide) * 100}%`, width: `${((right - left) / wide) * 100}%` }}
              onClick={() => onPicture(s.from)}
            >
              {fieldStretchWords(s, fields.film)}
            </button>
          );
        })}
        {fields.breaks
          .filter((k) => k >= shown.from && k < shown.to)
          .map((k) => (
            <button
              type="button"
              key={k}
              tabIndex={-1}
              className={classes.broken}
              title={`The beat of 2:3 breaks at ${k}`}
              style={{ left: `${((k - shown.from + 0.5) / wide) * 100}%` }}
              onClick={() => onPicture(k)}
            />
          ))}
        {fields.breaks.length > 0 && stretches.length === 0 && <em className="rust">{plural(fields.breaks.length, 'break')}</em>}
      </div>
    </div>
  );
}
