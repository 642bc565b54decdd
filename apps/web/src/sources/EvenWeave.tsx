import { cadenceFacts, stepMap } from '@thawline/core/cadence';
import { evenTiming, formatRate, type Rate, type Timing, timingLength } from '@thawline/core/time';
import { useMemo, useState } from 'react';
import { Weave } from '../weave/Weave.js';
import { plural } from '../words.js';
import classes from './readat.module.css';

/** What making variable timing even will hold and skip, drawn before it is done: threads from its true moments to whole frames. */
export function EvenWeave({ timing, rate }: { timing: Timing; rate: Rate }) {
  const [at, setAt] = useState(0);
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
        <b className="number">{facts.skipped}</b> {facts.skipped === 1 ? 'picture is' : 'pictures are'} skipped; none is further
        than half a frame from its moment.{' '}
        {next !== undefined && (
          <button type="button" className={classes.link} onClick={() => setAt(next)}>
            Next hold or skip
          </button>
        )}
      </p>
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
