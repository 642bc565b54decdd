import { Button, Group, SegmentedControl } from '@mantine/core';
import type { ClipCadence, Follow, Timeline } from '@thawline/project';
import { plural } from '../../../shared/words.js';
import { useCurveEdit } from '../model/useCurveEdit.js';
import { CurveChart } from './CurveChart.js';
import { PinEditor } from './PinEditor.js';
import classes from './retime.module.css';
import { SpeedTools } from './SpeedTools.js';

interface Props {
  readonly timeline: Timeline;
  readonly cadence: ClipCadence;
  readonly n: number;
  readonly onFrame: (n: number) => void;
}

/** A clip's time: the curve with its pins, the pin that is chosen, and the changes that make pins by themselves. */
export function CurvePanel({ timeline, cadence, n, onFrame }: Props) {
  const { clip, mapping } = cadence;
  const edit = useCurveEdit(timeline, cadence);
  return (
    <section className={`sheet ${classes.curve}`} data-testid="curve-panel">
      <div className={classes.head}>
        <h2 className="heading">
          Time curve{' '}
          <small className="quiet">{clip.curve ? plural(clip.curve.length, 'pin') : 'none: one speed all through'}</small>
        </h2>
        <Group gap={8} wrap="nowrap">
          <Button size="compact-sm" variant="default" disabled={edit.hasPinAt(n)} onClick={() => edit.pinAt(n)}>
            Pin here
          </Button>
          <SegmentedControl
            size="xs"
            aria-label="What gives way"
            value={edit.follow}
            onChange={(v) => edit.setFollow(v as Follow)}
            data={[
              { value: 'move', label: 'what follows moves' },
              { value: 'keep', label: 'keeps its place' },
            ]}
          />
        </Group>
      </div>
      <CurveChart
        cadence={cadence}
        curve={edit.curve}
        n={n}
        chosen={edit.chosen}
        backward={edit.backward}
        onChoose={edit.choose}
        onFrame={onFrame}
        onPins={edit.tryPins}
        onNudge={edit.nudge}
        onNudgeHandle={edit.nudgeHandle}
      />
      <PinEditor edit={edit} headTrim={mapping.headTrim} n={n} />
      <SpeedTools timeline={timeline} cadence={cadence} n={n} follow={edit.follow} onPins={edit.take} />
    </section>
  );
}
