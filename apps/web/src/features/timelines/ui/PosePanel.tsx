import { Button, Group, Switch } from '@mantine/core';
import { IconRotate2, IconRotateClockwise2 } from '@tabler/icons-react';
import type { Pose } from '@thawline/core/picture';
import { type Clip, type CommandInput, POSE_REACH, SCALE_LEAST, SCALE_MOST, type Source, type Timeline } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { anchoredAt, inOneTurn, leftBy, poseOf } from '../model/pose.js';
import { TypedNumber } from './TypedNumber.js';

interface Props {
  readonly timeline: Timeline;
  readonly chosen: readonly Clip[];
  readonly clip: Clip;
  readonly source: Source;
}

type Wanted = Extract<CommandInput, { type: 'setPose' }>['pose'];

const SIDES = ['left', 'top', 'right', 'bottom'] as const;

/** How the chosen clips' pictures are laid by hand, by number; the viewer has handles for the same. */
export function PosePanel({ timeline, chosen, clip, source }: Props) {
  const { run } = useProject();
  const [together, setTogether] = useState(true);
  const pose = poseOf(clip);
  const { width, height } = timeline;
  const clipIds = chosen.map((c) => c.id);
  const set = (wanted: Wanted): void => void run({ type: 'setPose', timelineId: timeline.id, clipIds, pose: wanted });
  const size = (side: 'scaleX' | 'scaleY', percent: number): void => {
    const value = percent / 100;
    const times = value / pose[side];
    set(together ? { scaleX: pose.scaleX * times, scaleY: pose.scaleY * times } : { [side]: value });
  };
  const anchor = (part: Partial<Record<'x' | 'y', number>>): void => {
    const laying = { source, frame: { width, height }, framing: clip.framing };
    const { anchorX, anchorY, x, y } = anchoredAt(laying, pose, { x: pose.anchorX, y: pose.anchorY, ...part });
    set({ anchorX, anchorY, x, y });
  };
  const percent = { suffix: ' %', step: 1, decimals: 1 } as const;
  const ofSize = { ...percent, min: SCALE_LEAST * 100, max: SCALE_MOST * 100 };
  const { free, hidden } = leftBy(source, timeline, clip);
  return (
    <div data-testid="pose">
      <Group gap={8} mt={6} align="flex-end">
        <TypedNumber label="Across" {...pixels(width)} value={pose.x * width} onNumber={(n) => set({ x: n / width })} />
        <TypedNumber label="Down" {...pixels(height)} value={pose.y * height} onNumber={(n) => set({ y: n / height })} />
        <TypedNumber label="Width" {...ofSize} value={pose.scaleX * 100} onNumber={(n) => size('scaleX', n)} />
        <TypedNumber label="Height" {...ofSize} value={pose.scaleY * 100} onNumber={(n) => size('scaleY', n)} />
        <Switch size="xs" mb={6} label="Keep shape" checked={together} onChange={(e) => setTogether(e.currentTarget.checked)} />
      </Group>
      <Group gap={8} mt={6} align="flex-end">
        <TypedNumber
          label="Turn"
          suffix={'\u00b0'}
          min={-360}
          max={360}
          step={1}
          decimals={1}
          value={inOneTurn(pose.turn)}
          onNumber={(turn) => set({ turn: inOneTurn(turn) })}
        />
        <Button
          variant="default"
          size="compact-md"
          leftSection={<IconRotate2 size={15} />}
          onClick={() => set({ turn: inOneTurn(pose.turn - 90) })}
        >
          Quarter left
        </Button>
        <Button
          variant="default"
          size="compact-md"
          leftSection={<IconRotateClockwise2 size={15} />}
          onClick={() => set({ turn: inOneTurn(pose.turn + 90) })}
        >
          Quarter right
        </Button>
        <TypedNumber label="Anchor across" {...anchors} value={pose.anchorX * 100} onNumber={(n) => anchor({ x: n / 100 })} />
        <TypedNumber label="Anchor down" {...anchors} value={pose.anchorY * 100} onNumber={(n) => anchor({ y: n / 100 })} />
      </Group>
      <Group gap={8} mt={6} align="flex-end">
        {SIDES.map((side) => (
          <TypedNumber
            key={side}
            label={`Cut ${side}`}
            {...percent}
            min={0}
            max={99}
            value={pose.crop[side] * 100}
            onNumber={(n) => set({ crop: { [side]: n / 100 } as Partial<Pose['crop']> })}
          />
        ))}
        <TypedNumber
          label="Opacity"
          suffix=" %"
          min={0}
          max={100}
          step={5}
          value={(clip.opacity ?? 1) * 100}
          onNumber={(n) => void run({ type: 'setOpacity', timelineId: timeline.id, clipIds, opacity: n / 100 })}
        />
        <Button variant="default" size="compact-md" disabled={!clip.pose} onClick={() => set(null)}>
          As framed
        </Button>
      </Group>
      <p className="quiet">
        {free > 0.0005
          ? `${(free * 100).toFixed(1)} % of the frame is free: what lies beneath is seen there`
          : 'It fills the frame'}
        {hidden > 0.0005 && `; ${(hidden * 100).toFixed(1)} % of the picture is not seen`}.
      </p>
    </div>
  );
}

const pixels = (side: number) => ({ suffix: ' px', step: 1, min: -POSE_REACH * side, max: POSE_REACH * side });
const anchors = { suffix: ' %', step: 1, decimals: 1, min: -POSE_REACH * 100, max: POSE_REACH * 100, width: 98 };
