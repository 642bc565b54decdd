import { Button, Group } from '@mantine/core';
import { address, type ReceiptReply } from '@thawline/contract';
import { clockTimecode } from '@thawline/core/time';
import { otherRate } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { count, plural } from '../../../shared/words.js';
import classes from './render.module.css';

/** Places are listed up to so many at once. */
const LISTED = 12;

type Wrong = ReceiptReply['wrong'][number];

interface Props {
  readonly receipt: ReceiptReply;
  /** Writes the parts of these frames anew. */
  readonly onAgain: (frames: readonly number[]) => void;
}

/** Where the file shows something else than was asked: both pictures, and what can be done. */
export function WrongPlaces({ receipt, onAgain }: Props) {
  const [more, setMore] = useState(false);
  const { wrong } = receipt;
  if (wrong.length === 0) return null;
  return (
    <div>
      {wrong.slice(0, more ? 200 : LISTED).map((place) => (
        <Place key={place.frame} place={place} receipt={receipt} onAgain={onAgain} />
      ))}
      {wrong.length > LISTED && !more && (
        <Button variant="default" size="xs" onClick={() => setMore(true)}>
          {count(wrong.length - LISTED)} more places
        </Button>
      )}
    </div>
  );
}

function Place({ place, receipt, onAgain }: Props & { place: Wrong }) {
  const { project } = useProject();
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const timeline = project.timelines.find((t) => t.id === receipt.timelineId);
  const { frame, frames, shows, asked, shown } = place;
  const at = (n: number): string => clockTimecode(n + receipt.range.from, receipt);
  const name = (p: Wrong['asked']): string => (p ? `${p.source} ${count(p.picture)}` : 'black');
  const held = shows === frame - 1;
  const own = timeline && !otherRate(timeline, receipt.rate);
  const picture = (side: 'asked' | 'written'): string => address('renderFrame', { job: receipt.renderId, frame, side });
  return (
    <div className={classes.place} data-testid="place">
      <figure>
        <img src={picture('asked')} alt={`Frame ${at(frame)} as it was asked for`} loading="lazy" />
        <figcaption className="quiet">asked: {name(asked)}</figcaption>
      </figure>
      <figure>
        <img src={picture('written')} alt={`Frame ${at(frame)} as the file has it`} loading="lazy" />
        <figcaption className="quiet">in the file{shows === null ? '' : `: ${name(shown)}`}</figcaption>
      </figure>
      <div>
        <b>
          <span className="number">{at(frame)}</span>{' '}
          {shows === null
            ? 'shows none of the pictures near by.'
            : held
              ? 'shows the picture of the frame before again.'
              : 'shows the picture of '}
          {shows !== null && !held && <span className="number">{at(shows)}</span>}
        </b>
        <p>
          The edit asks for {name(asked)}
          {shows === null ? '.' : `; the file has ${name(shown)}.`}
          {frames > 1 && ` ${plural(frames, 'frame', 'frames')} on from there are shifted alike.`}
        </p>
        <Group gap="xs">
          {own && (
            <Button
              size="compact-sm"
              variant="default"
              onClick={() => {
                setPlayhead(timeline.id, frame + receipt.range.from);
                go('timelines', timeline.id);
              }}
            >
              Go there
            </Button>
          )}
          <Button size="compact-sm" variant="default" onClick={() => onAgain([frame])}>
            Render this part again
          </Button>
        </Group>
      </div>
    </div>
  );
}
