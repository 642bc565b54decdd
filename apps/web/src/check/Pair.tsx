import { Button, SegmentedControl } from '@mantine/core';
import type { Verdict } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { pictureAddress } from '../player/pictures.js';
import { keysOf } from '../shell/shortcuts.js';
import classes from './check.module.css';

/** The chosen picture and the one before it, in turn at one place or beside each other. */
export function Pair({ source, verdict, picture }: { source: Source; verdict: Pick<Verdict, 'held'>; picture: number }) {
  const [way, setWay] = useState<'flip' | 'beside'>('flip');
  const [before, setBefore] = useState(false);
  useHotkeys(keysOf('flip'), () => setBefore((b) => !b));
  if (picture === 0) return null;
  const shown = way === 'beside' ? [picture - 1, picture] : [before ? picture - 1 : picture];
  return (
    <section className={`sheet ${classes.strip}`}>
      <div className={classes.head}>
        <h2 className="heading number">
          {picture - 1} and {picture}
          {verdict.held.includes(picture) ? ', held' : ''}
        </h2>
        <span className={classes.turns}>
          {way === 'flip' && (
            <Button size="compact-sm" variant="default" onClick={() => setBefore(!before)}>
              Flip
            </Button>
          )}
          <SegmentedControl
            size="xs"
            value={way}
            onChange={(v) => setWay(v as typeof way)}
            data={[
              { value: 'flip', label: 'in turn' },
              { value: 'beside', label: 'side by side' },
            ]}
          />
        </span>
      </div>
      <div className={classes.pair} data-testid="pair" data-shown={shown.join()}>
        {shown.map((k) => (
          <figure key={way === 'beside' ? k : 'one'}>
            <img src={pictureAddress(source.mediaId, k)} alt={`Picture ${k}`} />
            <figcaption className="number">{k}</figcaption>
          </figure>
        ))}
      </div>
    </section>
  );
}
