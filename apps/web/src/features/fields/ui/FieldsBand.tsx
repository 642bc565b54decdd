import type { FieldFinding } from '@thawline/core/truth';
import { fieldStretchWords } from '@thawline/project';
import classes from './fields.module.css';

/** What the fields of a file are along its length: each stretch, breaks of a beat, and the frame that is looked at. */
export function FieldsBand({
  finding,
  frames,
  frame,
  onFrame,
}: {
  finding: FieldFinding;
  frames: number;
  frame: number;
  onFrame: (frame: number) => void;
}) {
  const share = (k: number): string => `${(k / frames) * 100}%`;
  const wordsOf = (s: FieldFinding['stretches'][number]): string => fieldStretchWords(s, finding.film);
  return (
    <section className={`sheet ${classes.along}`}>
      <h2 className="heading">What it is, along its length</h2>
      <div className={classes.band} data-testid="fields-band">
        {finding.stretches.map((s) => (
          <button
            type="button"
            key={s.from}
            data-kind={s.kind}
            style={{ left: share(s.from), width: share(s.to - s.from) }}
            title={`${wordsOf(s)}, frames ${s.from} to ${s.to - 1}, ${(s.certainty * 100).toFixed(1)} % certain`}
            onClick={() => onFrame(s.from)}
          >
            {s.kind === 'interlaced' ? '' : wordsOf(s)}
          </button>
        ))}
        {finding.breaks.map((k) => (
          <button
            type="button"
            key={k}
            className={classes.broken}
            aria-label={`break at ${k}`}
            title={`The beat breaks at ${k}`}
            style={{ left: share(k) }}
            onClick={() => onFrame(k)}
          />
        ))}
        <i className={classes.here} style={{ left: share(frame + 0.5) }} />
      </div>
      <div className={classes.under}>
        {finding.stretches.map((s) => (
          <small key={s.from} className="quiet number" style={{ left: share(s.from) }}>
            {s.from}
            {s.kind === 'interlaced' && ': fields, two moments a frame'}
          </small>
        ))}
        {finding.breaks.map((k) => (
          <small key={`b${k}`} className="rust number" style={{ left: share(k) }} data-break>
            break at {k}
          </small>
        ))}
      </div>
    </section>
  );
}
