import { Button } from '@mantine/core';
import type { Timing } from '@thawline/core/time';
import type { Source } from '@thawline/project';
import { useLayoutEffect, useRef } from 'react';
import { painterOf } from '../../../shared/diagram/canvas.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { paintWave, raiseOf } from '../../../shared/waveform/paint.js';
import { useWave, type Wave } from '../../../shared/waveform/useWave.js';
import { moment, pictureLength, pictureOf } from '../model/pairPlaces.js';
import classes from './align.module.css';

export interface SideProps {
  readonly a: Source;
  readonly b: Source;
  readonly timings: { readonly a: Timing | undefined; readonly b: Timing | undefined };
  /** Seconds of each. */
  readonly moments: { readonly a: number; readonly b: number };
  readonly onNudge: (side: 'a' | 'b', seconds: number) => void;
}

/** Both recordings at a moment: the very pictures, and their sounds around it on one line. */
export function Sides({ a, b, timings, moments, onNudge }: SideProps) {
  return (
    <>
      <div className={classes.pictures}>
        <Side source={a} timing={timings.a} seconds={moments.a} side="a" onNudge={onNudge} />
        <Side source={b} timing={timings.b} seconds={moments.b} side="b" onNudge={onNudge} />
      </div>
      <CloseSounds a={a} b={b} moments={moments} />
    </>
  );
}

function Side({
  source,
  timing,
  seconds,
  side,
  onNudge,
}: {
  source: Source;
  timing: Timing | undefined;
  seconds: number;
  side: 'a' | 'b';
  onNudge: SideProps['onNudge'];
}) {
  const picture = pictureOf(source, timing, seconds);
  const step = pictureLength(source);
  const nudge = (by: number, label: string, says: string) => (
    <Button key={says} size="compact-xs" variant="default" aria-label={says} title={says} onClick={() => onNudge(side, by)}>
      {label}
    </Button>
  );
  return (
    <figure data-testid={`side-${side}`} data-picture={picture ?? 'sound'}>
      {picture === null ? (
        <div className={`well ${classes.soundOnly}`}>sound alone</div>
      ) : (
        <img className="well" src={pictureAddress(source.mediaId, picture)} alt={`Picture ${picture} of ${source.name}`} />
      )}
      <figcaption>
        <span className={classes.caption} title={source.name}>
          {source.name}
        </span>
        <span className="number quiet">
          {moment(seconds)}
          {picture !== null && ` \u00b7 ${picture}`}
        </span>
      </figcaption>
      <div className={classes.nudges}>
        {picture !== null && nudge(-step, '\u25c2', `${source.name} a picture earlier`)}
        {picture !== null && nudge(step, '\u25b8', `${source.name} a picture later`)}
        {nudge(-0.001, '\u22121 ms', `${source.name} a millisecond earlier`)}
        {nudge(0.001, '+1 ms', `${source.name} a millisecond later`)}
      </div>
    </figure>
  );
}

/** Seconds on each side of the moment. */
const AROUND = 0.12;
const WIDTH = 340;
const HEIGHT = 56;

/** Both sounds close by, the moment in the middle: where they belong together, both rise on the line. */
function CloseSounds({ a, b, moments }: Pick<SideProps, 'a' | 'b' | 'moments'>) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const from = { a: around(a, moments.a), b: around(b, moments.b) };
  const waveA = useWave(a.sound ? a.mediaId : '', from.a, from.a + 2 * AROUND, WIDTH);
  const waveB = useWave(b.sound ? b.mediaId : '', from.b, from.b + 2 * AROUND, WIDTH);
  useLayoutEffect(() => {
    const painter = painterOf(canvas.current, WIDTH, HEIGHT);
    if (!painter) return;
    const { context, color } = painter;
    const row = (wave: Wave | null, start: number, middle: number, tone: string): void => {
      if (!wave) return;
      const seen = clip(wave, start, start + 2 * AROUND);
      const half = (HEIGHT / 4 - 2) * raiseOf(seen);
      const box = { left: 0, width: WIDTH, middle, half, from: start, to: start + 2 * AROUND };
      paintWave(context, seen, box, color(tone));
    };
    row(waveA, from.a, HEIGHT / 4, '--fjord');
    row(waveB, from.b, (3 * HEIGHT) / 4, '--quiet');
    context.fillStyle = color('--rust');
    context.fillRect(WIDTH / 2, 0, 1, HEIGHT);
  });
  if (!a.sound && !b.sound) return null;
  return (
    <canvas
      ref={canvas}
      className={classes.close}
      style={{ width: WIDTH, height: HEIGHT }}
      role="img"
      aria-label="Both sounds close by"
    />
  );
}

function around(source: Source, seconds: number): number {
  return seconds - (source.sound?.startSeconds ?? 0) - AROUND;
}

/** The part of a waveform that is seen: its loudness is what counts. */
function clip(wave: Wave, from: number, to: number): Wave {
  const first = Math.max(0, Math.floor((from - wave.from) / wave.bin));
  const end = Math.max(first, Math.ceil((to - wave.from) / wave.bin));
  return {
    ...wave,
    from: wave.from + first * wave.bin,
    lows: wave.lows.subarray(first, end),
    highs: wave.highs.subarray(first, end),
  };
}
