import { cadenceFacts, stepMap } from '@thawline/core/cadence';
import { evenTiming, formatRate, movedByEven, type Rate, type Timing, timingLength } from '@thawline/core/time';
import { useMemo, useState } from 'react';
import { Weave } from '../../../shared/diagram/Weave.js';
import { count, plural } from '../../../shared/words.js';
import classes from './readat.module.css';

/** Pictures that are listed. */
const SHOWN = 6;

function frameOf(pictures: Int32Array, picture: number): number {
  return Math.max(
    0,
    pictures.findIndex((p) => p >= picture),
  );
}

/** What making variable timing even will hold and skip, drawn before it is done: threads from its true moments to whole frames. */
export function EvenWeave({ timing, rate }: { timing: Timing; rate: Rate }) {
  const [at, setAt] = useState(0);
  const moved = useMemo(() => movedByEven(timing, rate), [timing, rate]);
  const { mapping, map, facts, finds } = useMemo(() => {
    const even = evenTiming(timing, rate);
    const length = timingLength(even, rate);
    const question = { timing: even, timeline: rate, fit: 'nearest' as const, inPicture: 0, headTrim: 0, length };
    const answer = stepMap(question);
    const odd = [...answer.steps.keys()].filter((n) => n > 0 && answer.steps[n] !== 1);
    // Drawn at the pictures' own moments: the weave shows how far each is moved.
    return { mapping: { ...question, timing }, map: answer, facts: cadenceFacts(question, answer), finds: odd };
  }, [timing, rate]);
  const next = finds.find((n) => n > at) ?? finds[0];
  return (
    <div data-testid="even-weave">
      <p>
        <b className="number">{facts.held}</b> of {plural(facts.frames, 'frame')} hold the picture before,{' '}
        <b className="number">{facts.skipped}</b> {facts.skipped === 1 ? 'picture is' : 'pictures are'} skipped;
        <b className="number">{count(moved.length)}</b> of{' '}
        {plural(timing.kind === 'variable' ? timing.ticks.length : 0, 'picture')} {moved.length === 1 ? 'moves' : 'move'}
        {moved[0] && (
          <>
            , by <b className="number">{Math.abs(moved[0].ms).toFixed(1)} ms</b> at most
          </>
        )}
        .{' '}
        {next !== undefined && (
          <button type="button" className={classes.link} onClick={() => setAt(next)}>
            Next hold or skip
          </button>
        )}
      </p>
      {moved.length > 0 && (
        <p className="quiet" data-testid="even-moved">
          Furthest:{' '}
          {moved.slice(0, SHOWN).map(({ picture, ms }, i) => (
            <span key={picture}>
              {i > 0 && ', '}
              <button type="button" className={classes.link} onClick={() => setAt(frameOf(map.pictures, picture))}>
                picture {picture}
              </button>{' '}
              <span className="number">
                {ms > 0 ? '+' : '\u2212'}
                {Math.abs(ms).toFixed(1)} ms
              </span>
            </span>
          ))}
        </p>
      )}
      <Weave
        zoom={38}
        screen={null}
        pictureAt={null}
        shape={1}
        mapping={mapping}
        map={map}
        at={at}
        firstFrame={0}
        sourceLabel="variable"
        timelineLabel={formatRate(rate)}
        onFrame={setAt}
      />
    </div>
  );
}
