import { Button, Group } from '@mantine/core';
import { formatRate } from '@thawline/core/time';
import { type Clip, cadenceOf, segmentsOf, type Timeline } from '@thawline/project';
import { useMemo } from 'react';
import { useProject } from '../api/project.js';
import { rateLabel } from '../rates/rates.js';
import { Weave } from '../weave/Weave.js';
import { count } from '../words.js';
import { nextFinding } from './findings.js';
import classes from './timelines.module.css';

interface Props {
  readonly timeline: Timeline;
  readonly frame: number;
  readonly setFrame: (frame: number) => void;
  readonly chosen: Clip | null;
  readonly hitches: readonly number[];
}

/** The weave of the clip under the playhead. */
export function WeavePanel({ timeline, frame, setFrame, chosen, hitches }: Props) {
  const { project, timings } = useProject();
  const under = segmentsOf(timeline).find((s) => frame >= s.from && frame < s.to)?.clip ?? null;
  const clip = under ?? chosen;
  const cadence = useMemo(() => (clip ? cadenceOf(project, timeline, clip, timings) : null), [project, timeline, clip, timings]);
  const next = nextFinding(hitches, frame, 1);
  const previous = nextFinding(hitches, frame, -1);
  return (
    <div className={classes.weave}>
      <Group justify="space-between">
        <h2 className="heading">Weave {cadence && <span className="quiet">&middot; {cadence.source.name}</span>}</h2>
        <Group gap="xs">
          <span className={hitches.length > 0 ? 'rust' : 'quiet'} data-testid="hitches">
            {hitches.length === 0
              ? 'no hitches'
              : next === null
                ? `${count(hitches.length)} hitches, none after this`
                : `${count(hitches.length)} hitches, next in ${count(next - frame)} frames`}
          </span>
          <Button
            variant="default"
            size="compact-xs"
            disabled={previous === null}
            onClick={() => previous !== null && setFrame(previous)}
          >
            Previous hitch
          </Button>
          <Button variant="default" size="compact-xs" disabled={next === null} onClick={() => next !== null && setFrame(next)}>
            Next hitch
          </Button>
        </Group>
      </Group>
      {cadence ? (
        <Weave
          mapping={cadence.mapping}
          map={cadence.map}
          at={frame - cadence.clip.start}
          firstFrame={cadence.clip.start}
          sourceLabel={rateLabel(cadence.source).replace('variable', 'var.')}
          timelineLabel={formatRate(timeline.rate)}
          onFrame={(n) => setFrame(n + cadence.clip.start)}
        />
      ) : (
        <p className="quiet">Place a source: the weave shows which of its pictures each frame takes.</p>
      )}
    </div>
  );
}
