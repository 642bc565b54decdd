import { Button, Group, Modal, NumberInput, SegmentedControl, Select, Switch, Text, TextInput } from '@mantine/core';
import { allowsFields, type FieldOrder } from '@thawline/core/fields';
import {
  allowsDropFrame,
  formatRate,
  formatTimecode,
  parseRate,
  type Rate,
  readPlace,
  sameRate,
  times,
} from '@thawline/core/time';
import {
  COLOUR_CHOICES,
  COLOUR_SPACES,
  type ColourChoice,
  colourReason,
  FRAME_LEAST,
  FRAME_MOST,
  type Project,
  type Timeline,
  timelineColour,
} from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { RateField } from '../../../shared/rates/RateField.js';
import { suggestRate } from '../../../shared/rates/rateMismatches.js';
import { TWO_FIELDS } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { newId } from '../../../shared/state/view.js';
import { plural } from '../../../shared/words.js';

const SIZES = ['1280x720', '1920x1080', '3840x2160', '1080x1920'];

const FRAME_CHOICES = [{ value: 'whole', label: 'whole pictures' }, ...TWO_FIELDS];

/** What frames of two fields mean at a rate. */
function fieldHint(rate: Rate | null, fields: FieldOrder | null): string {
  if (!rate) return '';
  if (!allowsFields(rate)) return 'fields go with frames up to 30 a second';
  return fields ? `${formatRate(times(rate, { num: 2, den: 1 }))} moments a second, half of the lines at each` : '';
}

const COLOURS = [
  { value: 'sources', label: 'as its sources have them' },
  ...COLOUR_CHOICES.map((value) => ({ value, label: COLOUR_SPACES[value].words })),
];

/** What a choice of colours means for what is on a timeline. */
function colourHint(project: Project, timeline: Timeline): string {
  if (timeline.clips.length === 0) return '';
  const finding = timelineColour(project, timeline);
  const converted = finding.converted.length;
  return `${colourReason(finding)}${converted > 0 ? `; ${plural(converted, 'source is', 'sources are')} converted` : ''}`;
}

interface Props {
  readonly timeline: Timeline | null;
  readonly onClose: () => void;
  /** Another rate for a timeline with clips: its edit is carried. */
  readonly onCarry: (rate: string) => void;
}

/** Makes a timeline, or changes one. The rate is the person's to choose; a suggestion says its reason. */
export function TimelineForm({ timeline, onClose, onCarry }: Props) {
  const { project, run } = useProject();
  const go = useGo();
  const suggestion = suggestRate(project);
  const [name, setName] = useState(timeline?.name ?? `Timeline ${project.timelines.length + 1}`);
  const [typed, setTyped] = useState(timeline ? formatRate(timeline.rate) : '');
  const [width, setWidth] = useState<number | string>(timeline?.width ?? 1920);
  const [height, setHeight] = useState<number | string>(timeline?.height ?? 1080);
  const [dropped, setDropped] = useState(timeline?.dropFrame ?? false);
  const [began, setBegan] = useState(
    timeline ? formatTimecode(timeline.startFrame, timeline.rate, { dropFrame: timeline.dropFrame }) : '00:00:00:00',
  );
  const [held, setHeld] = useState<FieldOrder | 'whole'>(timeline?.fields ?? 'whole');
  const [space, setSpace] = useState<ColourChoice | 'sources'>(timeline?.colour ?? 'sources');
  const colour = space === 'sources' ? null : space;
  const rate = parseRate(typed);
  const fields = held !== 'whole' && rate !== null && allowsFields(rate) ? held : null;
  const dropFrame = dropped && rate !== null && allowsDropFrame(rate);
  const place = rate ? readPlace(began, { rate, dropFrame, startFrame: 0 }, 0) : null;
  const startFrame = place?.ok ? place.frame : 0;
  const badStart = place !== null && (!place.ok || place.frame < 0);
  const carries = timeline !== null && timeline.clips.length > 0 && rate !== null && !sameRate(rate, timeline.rate);
  const badSize = [width, height].some((n) => !Number.isInteger(n) || Number(n) < FRAME_LEAST || Number(n) > FRAME_MOST);
  const save = async (): Promise<void> => {
    if (!rate || badSize || badStart || name.trim() === '') return;
    const size = { width: Number(width), height: Number(height), startFrame, dropFrame };
    if (timeline) {
      const named =
        name.trim() === timeline.name || (await run({ type: 'renameTimeline', timelineId: timeline.id, name: name.trim() }));
      const was = [timeline.width, timeline.height, timeline.startFrame, timeline.dropFrame].join();
      const same =
        sameRate(rate, timeline.rate) &&
        Object.values(size).join() === was &&
        fields === (timeline.fields ?? null) &&
        colour === (timeline.colour ?? null);
      if (named && (same || (await run({ type: 'setTimelineFormat', timelineId: timeline.id, rate, ...size, fields, colour }))))
        onClose();
      return;
    }
    const id = newId();
    const held = { ...(fields ? { fields } : {}), ...(colour ? { colour } : {}) };
    if (await run({ type: 'addTimeline', timeline: { id, name: name.trim(), rate, ...size, ...held } })) {
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
          what="frames"
          hint={suggestion ? `${suggestion.reason}.` : undefined}
        />
        {carries && (
          <div className="notice" data-tone="sand">
            {timeline?.name} has clips, which another rate would re-time. Its edit can be carried to {formatRate(rate)} instead: a
            new timeline beside this one, with what each cut moves by shown before.
          </div>
        )}
        <Group mt="md" align="flex-end">
          <TextInput
            label="Starts at"
            w={130}
            className="number"
            value={began}
            onChange={(e) => setBegan(e.currentTarget.value)}
            error={badStart ? 'No timecode at this rate' : undefined}
          />
          <Switch
            label="Drop-frame timecode"
            mb={6}
            checked={dropFrame}
            disabled={!rate || !allowsDropFrame(rate)}
            onChange={(e) => setDropped(e.currentTarget.checked)}
          />
          <Text size="sm" className="quiet" mb={8}>
            {rate && allowsDropFrame(rate) ? 'keeps with the clock by leaving out numbers' : 'exists at 29.97 and 59.94 only'}
          </Text>
        </Group>
        <Group mt="md" align="flex-end">
          <Select
            label="Frames hold"
            w={260}
            data={FRAME_CHOICES}
            value={fields ?? 'whole'}
            allowDeselect={false}
            disabled={!rate || !allowsFields(rate)}
            onChange={(value) => value && setHeld(value as FieldOrder | 'whole')}
          />
          <Text size="sm" className="quiet" mb={8} style={{ flex: 1 }}>
            {fieldHint(rate, fields)}
          </Text>
        </Group>
        <Group mt="md" align="flex-end">
          <Select
            label="Colours"
            w={260}
            data={COLOURS}
            value={space}
            allowDeselect={false}
            onChange={(value) => value && setSpace(value as ColourChoice | 'sources')}
          />
          <Text size="sm" className="quiet" mb={8} style={{ flex: 1 }}>
            {timeline && colourHint(project, { ...timeline, colour: colour ?? undefined })}
          </Text>
        </Group>
        <Text size="sm" fw={500} mt="md" mb={4}>
          Frame size
        </Text>
        <Group gap="xs" align="flex-start">
          <NumberInput aria-label="Width" value={width} onChange={setWidth} w={100} hideControls />
          <NumberInput aria-label="Height" value={height} onChange={setHeight} w={100} hideControls />
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
            Both have to be whole numbers, from {FRAME_LEAST} to {FRAME_MOST}.
          </Text>
        )}
        <Group justify="flex-end" mt="lg">
          {carries ? (
            <Button onClick={() => onCarry(typed)}>Carry the edit to {formatRate(rate)}&hellip;</Button>
          ) : (
            <Button type="submit" disabled={!rate || badSize || badStart || name.trim() === ''}>
              {timeline ? 'Keep' : rate ? `Make it at ${formatRate(rate)}` : 'Choose a rate'}
            </Button>
          )}
        </Group>
      </form>
    </Modal>
  );
}
