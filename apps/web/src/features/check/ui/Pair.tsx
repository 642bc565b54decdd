import { Button, SegmentedControl, TextInput } from '@mantine/core';
import type { Verdict } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import classes from './check.module.css';

/** The chosen picture and the one before it, in turn at one place or beside each other. */
export function Pair({ source, verdict, picture }: { source: Source; verdict: Pick<Verdict, 'held'>; picture: number }) {
  const [way, setWay] = useState<'flip' | 'beside'>('flip');
  const [before, setBefore] = useState(false);
  const { run } = useProject();
  const holds = verdict.held.includes(picture);
  const said = source.judged?.some((j) => j.picture === picture) ?? false;
  const as = said ? null : holds ? ('new' as const) : ('held' as const);
  const judge = { type: 'judgePicture' as const, sourceId: source.id, picture, as };
  useShortcut('flip', () => setBefore((b) => !b));
  useShortcut('correct', () => void run(judge));
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
          <Note key={picture} source={source} picture={picture} />
          <Button size="compact-sm" variant="default" onClick={() => void run(judge)}>
            {said ? 'Leave it to the check' : holds ? 'Call it new' : 'Call it held'}
          </Button>
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

/** A note on the picture: kept on it, however it is read or placed. */
function Note({ source, picture }: { source: Source; picture: number }) {
  const { run } = useProject();
  const own = source.marks?.find((m) => m.picture === picture)?.note ?? null;
  const [typed, setTyped] = useState(own ?? '');
  const keep = (): void => {
    const note = typed.trim() === '' ? null : typed.trim();
    if (note !== own) void run({ type: 'markPicture', sourceId: source.id, picture, note });
  };
  return (
    <TextInput
      size="xs"
      w={170}
      aria-label="Mark on this picture"
      placeholder="mark this picture"
      value={typed}
      maxLength={500}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
