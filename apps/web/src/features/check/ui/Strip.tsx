import { Group, SegmentedControl } from '@mantine/core';
import type { Verdict } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useMemo, useState } from 'react';
import { FindingButtons } from '../../../shared/keys/useWalk.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import classes from './check.module.css';
import { Difference } from './Difference.js';

const ACROSS = 6;
const SHOWN = 12;
/** "Why 40 is a jump". */
const AS: Readonly<Record<string, string>> = { jump: 'a jump', cut: 'a cut', backward: 'from earlier' };
const GAIN = { low: 4, high: 16 } as const;

interface Props {
  readonly source: Source;
  readonly verdict: Pick<Verdict, 'held' | 'jumps' | 'blends' | 'cuts' | 'faults' | 'unchanged'>;
  readonly picture: number;
  /** The findings on both sides. */
  readonly beside: { readonly next: number | undefined; readonly previous: number | undefined };
  readonly onPicture: (picture: number | undefined) => void;
  /** What the buttons go to: "finding", "cut". */
  readonly walked: string;
  /** Why the chosen picture was found; null where it was not. */
  readonly why: string | null;
}

/** Twelve pictures around the chosen one: held ones under frost, and beneath each what differs from the one before. */
export function Strip({ source, verdict, picture, beside, onPicture, walked, why }: Props) {
  const [gain, setGain] = useState<keyof typeof GAIN>('low');
  const held = useMemo(() => new Set(verdict.held), [verdict.held]);
  const jumps = useMemo(() => new Set(verdict.jumps), [verdict.jumps]);
  const blends = useMemo(() => new Set(verdict.blends), [verdict.blends]);
  const from = Math.max(0, Math.min(Math.floor(picture / ACROSS) * ACROSS, source.pictures - SHOWN));
  const pictures = Array.from({ length: Math.min(SHOWN, source.pictures) }, (_, i) => from + i);
  const marks = useMemo(() => new Map((source.marks ?? []).map((m) => [m.picture, m.note])), [source.marks]);
  const judged = useMemo(() => new Set((source.judged ?? []).map((j) => j.picture)), [source.judged]);
  const cuts = useMemo(() => new Set(verdict.cuts), [verdict.cuts]);
  const unchanged = useMemo(() => new Set(verdict.unchanged), [verdict.unchanged]);
  const faults = useMemo(() => new Map(verdict.faults.map((f) => [f.picture, f.kind])), [verdict.faults]);
  const said = (k: number): string =>
    faults.get(k) ??
    (held.has(k)
      ? 'held'
      : jumps.has(k)
        ? 'jump'
        : cuts.has(k)
          ? 'cut'
          : blends.has(k)
            ? 'blend'
            : unchanged.has(k)
              ? 'same'
              : 'new');
  return (
    <section className={`sheet ${classes.strip}`}>
      <div className={classes.head}>
        <h2 className="heading number">
          Pictures {from} to {from + pictures.length - 1}
        </h2>
        <Group gap={6}>
          <SegmentedControl
            size="xs"
            value={gain}
            onChange={(v) => setGain(v as keyof typeof GAIN)}
            data={[
              { value: 'low', label: 'difference \u00d74' },
              { value: 'high', label: '\u00d716' },
            ]}
          />
          <FindingButtons what={walked} next={beside.next} previous={beside.previous} onGo={onPicture} />
        </Group>
      </div>
      {why && (
        <p className={classes.why} data-testid="why">
          <b>
            Why {picture} is {AS[said(picture)] ?? said(picture)}:
          </b>{' '}
          {why}
        </p>
      )}
      <div className={classes.pictures}>
        {pictures.map((k) => (
          <button
            type="button"
            key={k}
            className={classes.picture}
            aria-current={k === picture}
            onClick={() => onPicture(k)}
            data-testid={`strip-${k}`}
            data-state={said(k)}
          >
            <span className={classes.frame}>
              <img src={pictureAddress(source.mediaId, k)} alt={`Picture ${k}`} />
              {held.has(k) && <i className="frost" />}
              {marks.has(k) && (
                <em className={classes.mark} title={marks.get(k)}>
                  {marks.get(k) || 'mark'}
                </em>
              )}
            </span>
            <span className={classes.under}>
              <b className="number">{k}</b>
              <small className={held.has(k) ? classes.held : jumps.has(k) || faults.has(k) ? 'rust' : 'quiet'}>
                {said(k)}
                {judged.has(k) && ' by hand'}
              </small>
            </span>
            <Difference
              a={k > 0 ? { mediaId: source.mediaId, picture: k - 1 } : null}
              b={{ mediaId: source.mediaId, picture: k }}
              gain={GAIN[gain]}
            />
          </button>
        ))}
      </div>
    </section>
  );
}
