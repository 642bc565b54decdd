import { Group, NumberInput, SegmentedControl } from '@mantine/core';
import { beyondPictures, type Clip, clipBefore, dissolvesOf, sourceOf, type Timeline } from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { plural } from '../../../shared/words.js';

/** Where a dissolve lies against its cut. */
const PLACES = [
  { value: 'before', label: 'before' },
  { value: 'across', label: 'across' },
  { value: 'after', label: 'after' },
] as const;
type CutSide = (typeof PLACES)[number]['value'];

/** Frames of a dissolve that is made by a press. */
const USUAL = 12;

function sidesOf(frames: number, place: CutSide): { before: number; after: number } {
  const before = place === 'before' ? frames : place === 'after' ? 0 : Math.floor(frames / 2);
  return { before, after: frames - before };
}

/** How a clip comes in over the one that ends where it begins: by a cut or a dissolve. Not there where none ends there. */
export function DissolveRow({ timeline, clip }: { timeline: Timeline; clip: Clip }) {
  const { project, run, timings } = useProject();
  const { before = 0, after = 0 } = clip.dissolve ?? {};
  const frames = before + after;
  const place: CutSide = frames > 0 && after === 0 ? 'before' : frames > 1 && before === 0 ? 'after' : 'across';
  const [typed, setTyped] = useState<number | string>(frames);
  const [shown, setShown] = useState(frames);
  if (shown !== frames) {
    setShown(frames);
    setTyped(frames);
  }
  const from = clipBefore(timeline, clip);
  const source = from && sourceOf(project, from.sourceId);
  if (!from || !source) return null;
  const take = (count: number, at: CutSide): void => {
    const sides = sidesOf(count, at);
    if (sides.before !== before || sides.after !== after)
      void run({ type: 'setDissolve', timelineId: timeline.id, clipId: clip.id, ...sides });
  };
  const most = Math.min(from.length, clip.length);
  const settle = (): void => {
    const count = typeof typed === 'number' && Number.isInteger(typed) ? Math.max(0, Math.min(most, typed)) : frames;
    setTyped(count);
    take(count, place);
  };
  const lane = timeline.clips.filter((c) => c.laneId === clip.laneId).sort((a, b) => a.start - b.start);
  const dissolve = dissolvesOf(lane).find((d) => d.into === clip);
  const beyond = dissolve && beyondPictures(project, timeline, dissolve, timings);
  const own = sourceOf(project, clip.sourceId);
  const stands = [
    ...(beyond && beyond.out > 0 ? [`The last picture of ${source.name} stands for ${plural(beyond.out, 'frame')}`] : []),
    ...(beyond && beyond.into > 0
      ? [`${beyond.out > 0 ? 'the' : 'The'} first picture of ${own?.name} stands for ${plural(beyond.into, 'frame')}`]
      : []),
  ];
  return (
    <Group gap="sm" mt={6} data-testid="dissolve">
      <span className="quiet" title={`Over ${source.name}`}>
        Begins with
      </span>
      <SegmentedControl
        size="xs"
        aria-label="How it comes in"
        data={[
          { value: 'cut', label: 'cut' },
          { value: 'dissolve', label: 'dissolve' },
        ]}
        value={frames > 0 ? 'dissolve' : 'cut'}
        onChange={(way) => take(way === 'cut' ? 0 : Math.min(USUAL, most), place)}
      />
      {frames > 0 && (
        <>
          <NumberInput
            size="xs"
            w={104}
            min={1}
            max={most}
            suffix=" frames"
            allowDecimal={false}
            aria-label="Frames of the dissolve"
            value={typed}
            onChange={setTyped}
            onBlur={settle}
            onKeyDown={(e) => e.key === 'Enter' && settle()}
          />
          <SegmentedControl
            size="xs"
            aria-label="Where the dissolve lies"
            title="Against the cut"
            data={[...PLACES]}
            value={place}
            onChange={(at) => take(frames, at as CutSide)}
          />
        </>
      )}
      {stands.length > 0 && <span className="rust">{stands.join(', ')}.</span>}
    </Group>
  );
}
