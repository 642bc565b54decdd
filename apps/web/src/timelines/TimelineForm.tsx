import { Button, Group, Modal, NumberInput, SegmentedControl, Text, TextInput } from '@mantine/core';
import { formatRate, parseRate, sameRate } from '@thawline/core/time';
import type { Timeline } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../api/project.js';
import { RateField } from '../rates/RateField.js';
import { suggestRate } from '../shell/chain.js';
import { useGo } from '../state/places.js';
import { newId } from '../state/view.js';

const SIZES = ['1280x720', '1920x1080', '3840x2160', '1080x1920'];

/** Makes a timeline, or changes one. The rate is the person's to choose; a suggestion says its reason. */
export function TimelineForm({ timeline, onClose }: { timeline: Timeline | null; onClose: () => void }) {
  const { project, run } = useProject();
  const go = useGo();
  const suggestion = suggestRate(project);
  const [name, setName] = useState(timeline?.name ?? `Timeline ${project.timelines.length + 1}`);
  const [typed, setTyped] = useState(timeline ? formatRate(timeline.rate) : '');
  const [width, setWidth] = useState<number | string>(timeline?.width ?? 1920);
  const [height, setHeight] = useState<number | string>(timeline?.height ?? 1080);
  const rate = parseRate(typed);
  const locked = timeline !== null && timeline.clips.length > 0;
  const badSize = [width, height].some((n) => !Number.isInteger(n) || Number(n) % 2 !== 0 || Number(n) < 16 || Number(n) > 8192);
  const save = async (): Promise<void> => {
    if (!rate || badSize || name.trim() === '') return;
    const size = { width: Number(width), height: Number(height) };
    if (timeline) {
      const named =
        name.trim() === timeline.name || (await run({ type: 'renameTimeline', timelineId: timeline.id, name: name.trim() }));
      const same = sameRate(rate, timeline.rate) && size.width === timeline.width && size.height === timeline.height;
      if (named && (same || (await run({ type: 'setTimelineFormat', timelineId: timeline.id, rate, ...size })))) onClose();
      return;
    }
    const id = newId();
    if (await run({ type: 'addTimeline', timeline: { id, name: name.trim(), rate, ...size } })) {
      onClose();
      go('timelines', id);
    }
  };
  return (
    <Modal opened onClose={onClose} title={timeline ? `${timeline.name}: name, rate, frame size` : 'New timeline'} size="lg">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <TextInput
          label="Name"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={120}
          required
          data-autofocus
        />
        <Text size="sm" fw={500} mt="md">
          Frames a second
        </Text>
        <RateField
          label="Rate"
          typed={typed}
          onType={setTyped}
          disabled={locked}
          what="frames"
          hint={
            locked
              ? 'It has clips: another rate would re-time them. Make a new timeline at that rate.'
              : suggestion
                ? `${suggestion.reason}.`
                : undefined
          }
        />
        <Text size="sm" fw={500} mt="md" mb={4}>
          Frame size
        </Text>
        <Group gap="xs" align="flex-start">
          <NumberInput aria-label="Width" value={width} onChange={setWidth} w={100} step={2} hideControls />
          <NumberInput aria-label="Height" value={height} onChange={setHeight} w={100} step={2} hideControls />
          <SegmentedControl
            size="xs"
            data={SIZES}
            value={`${width}x${height}`}
            onChange={(value) => {
              const [w, h] = value.split('x').map(Number);
              setWidth(w ?? 1920);
              setHeight(h ?? 1080);
            }}
          />
        </Group>
        {badSize && (
          <Text size="sm" c="red" mt={4}>
            Both have to be even, from 16 to 8192.
          </Text>
        )}
        <Group justify="flex-end" mt="lg">
          <Button type="submit" disabled={!rate || badSize || name.trim() === ''}>
            {timeline ? 'Keep' : rate ? `Make it at ${formatRate(rate)}` : 'Choose a rate'}
          </Button>
        </Group>
      </form>
    </Modal>
  );
}
