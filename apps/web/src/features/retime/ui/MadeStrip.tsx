import { Button, Group } from '@mantine/core';
import { type FrameState, frameState, SHARES } from '@thawline/core/cadence';
import type { ClipCadence, Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { lookOf, momentOf, momentOrWhy, type Pictures } from '../../../shared/player/looks.js';
import { type MadeFrameKey, useMade } from '../../../shared/player/made.js';
import { count, plural } from '../../../shared/words.js';
import { LookCanvas } from './LookCanvas.js';
import classes from './retime.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly cadence: ClipCadence;
  readonly pictures: Pictures;
  readonly n: number;
  readonly onFrame: (n: number | undefined) => void;
}

const SHOWN = 12;
const ACROSS = 6;
/** Under this a made picture wants a look. */
const UNSURE = 0.5;

const WORDS: Record<FrameState, string> = { real: 'real', held: 'held', blended: 'blended', made: 'made' };

/** Twelve frames by what they are, each made one with how sure it is; and the way from the least sure to the next. */
export function MadeStrip({ timeline, cadence, pictures, n, onFrame }: Props) {
  const { run } = useProject();
  const { clip } = cadence;
  const from = Math.max(0, Math.min(Math.floor(n / ACROSS) * ACROSS, clip.length - SHOWN));
  const frames = Array.from({ length: Math.min(SHOWN, clip.length) }, (_, i) => from + i);
  const stretch = stretchAround(n, clip.length);
  const all = useMemo(
    () => madeMoments(cadence, pictures, stretch.from, stretch.to),
    [cadence, pictures, stretch.from, stretch.to],
  );
  const seen = useMemo(() => all.filter((m) => m.n >= from && m.n < from + SHOWN).map((m) => m.moment), [all, from]);
  useMade('strip', seen);
  // The others so that the least sure come to be known, on from here.
  const ahead = useMemo(
    () => [...all.filter((m) => m.n >= from), ...all.filter((m) => m.n < from)].map((m) => m.moment),
    [all, from],
  );
  const made = useMade('sureness', ahead);
  const known = all
    .map((m) => ({ n: m.n, sure: made.certainty(m.moment) }))
    .filter((m): m is { n: number; sure: number } => m.sure !== undefined);
  const order = [...known].sort((a, b) => a.sure - b.sure || a.n - b.n);
  const least = order[0];
  // Who came by another way begins with the least sure; from there on it is the next.
  const [walked, setWalked] = useState<number | null>(null);
  const next = walked === n ? (order[order.findIndex((m) => m.n === n) + 1] ?? least) : least;
  const walk = (): void => {
    setWalked(next?.n ?? null);
    onFrame(next?.n);
  };
  const where = stretch.to - stretch.from < clip.length ? `, frames ${stretch.from} to ${stretch.to - 1}` : '';
  const state = frameState(cadence.mapping, cadence.map, n);
  const chosen = clip.instead.find((i) => i.frame === n + clip.headTrim);
  const choose = (as: 'nearest' | 'blend' | null): void =>
    void run({ type: 'chooseFrames', timelineId: timeline.id, clipId: clip.id, frames: [n], as });
  useShortcut('leastSure', walk);
  useShortcut(
    'takeNearest',
    () => clip.fit === 'motion' && (state === 'made' || chosen) && choose(chosen?.as === 'nearest' ? null : 'nearest'),
  );
  useShortcut(
    'takeBlend',
    () => clip.fit === 'motion' && (state === 'made' || chosen) && choose(chosen?.as === 'blend' ? null : 'blend'),
  );
  return (
    <section className={`sheet ${classes.strip}`} data-testid="made-strip">
      <div className={classes.head}>
        <h2 className="heading number">
          Frames {from} to {from + frames.length - 1}
        </h2>
        <span className="quiet" data-testid="made-progress">
          {all.length === 0
            ? frames.some((k) => momentOrWhy(pictures, lookOf(cadence, k)) === 'later')
              ? 'seen when it is rendered: motion makes pictures within it, too'
              : 'nothing is made by motion here'
            : known.length < all.length
              ? `${count(known.length)} of ${plural(all.length, 'picture')} made for this preview${where}`
              : `all ${plural(all.length, 'picture')} made${where}; ${least ? `least sure ${least.sure.toFixed(2)} at frame ${least.n}` : ''}`}
        </span>
        <Group gap={6} wrap="nowrap">
          {clip.fit === 'motion' && (state === 'made' || chosen) && (
            <>
              {chosen && (
                <Button size="compact-sm" variant="default" onClick={() => choose(null)}>
                  Make it by motion
                </Button>
              )}
              {chosen?.as !== 'nearest' && (
                <Button size="compact-sm" variant="default" onClick={() => choose('nearest')}>
                  Nearest here
                </Button>
              )}
              {chosen?.as !== 'blend' && (
                <Button size="compact-sm" variant="default" onClick={() => choose('blend')}>
                  Blend here
                </Button>
              )}
            </>
          )}
          <Button size="compact-sm" variant="default" disabled={!least} onClick={walk}>
            {walked === n ? 'Next least sure' : 'Least sure'}
          </Button>
        </Group>
      </div>
      <div className={classes.pictures}>
        {frames.map((k) => {
          const look = lookOf(cadence, k);
          const is = frameState(cadence.mapping, cadence.map, k);
          const moment = momentOf(pictures, look);
          const sure = moment ? made.certainty(moment) : undefined;
          const position = look.picture + ((look.next - look.picture) * look.share) / SHARES;
          const byHand = clip.instead.some((i) => i.frame === k + clip.headTrim);
          return (
            <button
              type="button"
              key={k}
              className={classes.picture}
              aria-current={k === n}
              onClick={() => onFrame(k)}
              data-testid={`made-${k}`}
              data-state={is}
              data-ready={is !== 'made' || sure !== undefined}
            >
              <span className={classes.small}>
                <LookCanvas pictures={pictures} look={look} made={made} />
                {is === 'held' && <i className="frost" />}
                {is === 'blended' && <i className={classes.dots} />}
                {is === 'made' && <Wave />}
              </span>
              <span className={classes.sure} title={sure === undefined ? '' : `sure to ${Math.round(sure * 100)} %`}>
                {is !== 'made' ? (
                  <i style={{ height: '100%' }} />
                ) : (
                  sure !== undefined && (
                    <i style={{ height: `${Math.max(4, sure * 100)}%` }} data-low={sure < UNSURE || undefined} />
                  )
                )}
              </span>
              <span className={classes.under}>
                <b className="number">{k}</b>{' '}
                <span className="number">&larr; {Number.isInteger(position) ? position : position.toFixed(2)}</span>
                <small className={is === 'real' ? 'quiet' : is === 'held' ? classes.heldWord : 'sand'}>
                  {WORDS[is]}
                  {byHand && ' by hand'}
                  {is === 'made' && sure !== undefined && ` ${sure.toFixed(2)}`}
                </small>
              </span>
            </button>
          );
        })}
      </div>
    </section>
  );
}

/** A sand-coloured wave: made by motion. */
function Wave() {
  return (
    <svg className={classes.wave} viewBox="0 0 120 8" preserveAspectRatio="none" aria-hidden>
      <path d="M0 4q5-6 10 0t10 0 10 0 10 0 10 0 10 0 10 0 10 0 10 0 10 0 10 0 10 0" />
    </svg>
  );
}

/** Frames that are made without being asked for, from a hundred behind on. */
const AROUND = 400;

/** The range whose pictures are made. It moves in steps of a hundred frames, so that a step of one frame does not restart it. */
function stretchAround(n: number, length: number): { from: number; to: number } {
  const from = Math.max(0, Math.min(Math.floor(n / 100) * 100 - 100, length - AROUND));
  return { from, to: Math.min(length, from + AROUND) };
}

/** The made frames of a stretch of the clip, with what has to be made for each. */
function madeMoments(cadence: ClipCadence, pictures: Pictures, from: number, to: number): { n: number; moment: MadeFrameKey }[] {
  const found: { n: number; moment: MadeFrameKey }[] = [];
  for (let n = from; n < to; n++) {
    const moment = momentOf(pictures, lookOf(cadence, n));
    if (moment) found.push({ n, moment });
  }
  return found;
}
