import type { JobReply } from '@thawline/contract';
import { formatDecimalRate, formatRate } from '@thawline/core/time';
import { isPadded, readSeconds, readsUnevenly, type Source } from '@thawline/project';
import type { ComponentPropsWithoutRef } from 'react';
import { rateLabel } from '../../../shared/rates/rates.js';
import { clock, plural, verdictShort } from '../../../shared/words.js';
import type { SourceRow } from '../model/sourceList.js';
import classes from './sources.module.css';
import { Thumb } from './Thumb.js';

/** What a row says of its source, column by column. */
export function SourceCells({ row, job }: { row: SourceRow; job: JobReply | null }) {
  const { source, check, file, uses, remarks } = row;
  const odd = check !== null && isPadded(check.verdict);
  const seconds = row.source.kind === 'still' ? null : readSeconds(source);
  const lost = file && file.state !== 'here' ? (file.state === 'missing' ? 'file missing' : 'file changed') : null;
  const first = remarks[0];
  const other = check ? verdictShort(check.verdict) : source.kind === 'film' && source.sound ? 'sync sound' : '';
  const all = [...(lost ? [lost] : []), ...remarks.map((r) => r.text)];
  const reads = source.readAt !== null && source.measured !== undefined;
  return (
    <>
      <Cell>
        <Thumb source={source} strip={file?.proxy ?? false} />
      </Cell>
      <Cell className={classes.named}>
        <b title={source.name}>{source.name}</b>
        <small className="quiet" title={sizeWords(source)}>
          {sizeWords(source)}
        </small>
      </Cell>
      <Cell className="number">{source.stored ? formatRate(source.stored) : '\u2013'}</Cell>
      <Cell className={`number ${source.variable ? 'rust' : ''}`}>
        {source.measured ? formatRate(source.measured.rate) : '\u2013'}
      </Cell>
      <Cell className={`number ${odd ? 'rust' : ''}`}>
        {check
          ? formatDecimalRate(check.verdict.trueRate)
          : job
            ? `${Math.round((100 * job.done) / (job.total ?? source.pictures))} %`
            : '\u2013'}
      </Cell>
      <Cell className={`number ${classes.readAt}`} data-changed={reads || undefined} title={rateLabel(source)}>
        {readsUnevenly(source) ? 'variable' : rateLabel(source)}
      </Cell>
      <Cell className="number">{seconds === null ? '\u2013' : clock(seconds)}</Cell>
      <Cell className="number">{uses || '\u2013'}</Cell>
      <Cell className={`${lost || first ? 'rust' : 'quiet'} ${classes.name}`} title={all.join('; ') || other}>
        {lost ?? first?.text ?? other}
        {all.length > 1 && <small className="quiet"> +{all.length - 1}</small>}
      </Cell>
    </>
  );
}

/** A cell of a row: rows are virtual, which a table element cannot be. */
export function Cell({ children, ...rest }: ComponentPropsWithoutRef<'span'>) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: as above
    // biome-ignore lint/a11y/useFocusableInteractive: keys go to the row
    <span role="gridcell" {...rest}>
      {children}
    </span>
  );
}

/** "640×360 · prog. · 48 kHz": what does not need a column of its own. */
function sizeWords(source: Source): string {
  if (source.kind === 'sound') return soundWords(source);
  const size = `${source.width}\u00d7${source.height}`;
  const fields = source.fields === 'progressive' ? 'prog.' : `${source.fields} first`;
  const sound = source.sound ? `${source.sound.sampleRate / 1000} kHz` : 'no sound';
  if (source.kind === 'still') return `${size} \u00b7 still`;
  return source.kind === 'sequence' ? `${size} \u00b7 ${source.pictures} numbered` : `${size} \u00b7 ${fields} \u00b7 ${sound}`;
}

/** "sound · pcm_s24le · 48 kHz · 2 channels". */
function soundWords({ sound, codec }: Source): string {
  return ['sound', codec, `${(sound?.sampleRate ?? 0) / 1000} kHz`, plural(sound?.channels ?? 0, 'channel')].join(' \u00b7 ');
}
