import { Button, Group, TextInput } from '@mantine/core';
import { cadenceFacts, FITS, type Fit, longestRun } from '@thawline/core/cadence';
import { formatRate, formatTimecode, parseTimecode, rateToNumber } from '@thawline/core/time';
import { apply, type Clip, cadenceOf, clipEnd, ownRate, passingRate, type Source, type Timeline } from '@thawline/project';
import { useEffect, useMemo, useState } from 'react';
import { useProject } from '../api/project.js';
import { rateLabel } from '../rates/rates.js';
import { useGo } from '../state/places.js';
import { count, percent } from '../words.js';
import classes from './timelines.module.css';

const FIT_NAMES: Record<Fit, readonly [string, string]> = {
  nearest: ['Keep time', 'nearest'],
  blend: ['Keep time', 'blend'],
  pictures: ['Keep pictures', ''],
};

/** The chosen clip: the price of each fit, computed before one is chosen, and its place by number. */
export function ClipPanel({ timeline, clip, frame }: { timeline: Timeline; clip: Clip | null; frame: number }) {
  const { project } = useProject();
  const source = clip && project.sources.find((s) => s.id === clip.sourceId);
  if (!clip || !source) {
    return (
      <section className={`sheet ${classes.panel}`}>
        <h2 className="heading">{timeline.name}</h2>
        <p className="quiet">
          {formatRate(timeline.rate)} frames a second, {timeline.width}&times;{timeline.height}.{' '}
          {timeline.clips.length === 0
            ? 'Drag a source from the row below onto a lane, or press its name.'
            : 'Choose a clip below to compare what keeping its time or its pictures costs, and to place it by number.'}
        </p>
      </section>
    );
  }
  return <Panel key={clip.id} timeline={timeline} clip={clip} source={source} frame={frame} />;
}

function Panel({ timeline, clip, source, frame }: { timeline: Timeline; clip: Clip; source: Source; frame: number }) {
  const { run } = useProject();
  const go = useGo();
  const lane = timeline.lanes.find((l) => l.id === clip.laneId);
  const timelineId = timeline.id;
  return (
    <section className={`sheet ${classes.panel}`} data-testid="clip-panel">
      <Group justify="space-between" wrap="nowrap">
        <h2 className={`heading ${classes.clipTitle}`} title={source.name}>
          {source.name}
        </h2>
        <span className="quiet">
          {lane?.name} &middot; read at <b className="number">{rateLabel(source)}</b>
          {clip.speed.num !== clip.speed.den && (
            <>
              , sped to <b className="number">{percent(clip.speed)}</b>
            </>
          )}{' '}
          in a timeline of <b className="number">{formatRate(timeline.rate)}</b>
        </span>
      </Group>
      <FitTable timeline={timeline} clip={clip} source={source} />
      <Group gap="xs" mt="xs" align="flex-end">
        <FrameField
          label="Begins"
          timeline={timeline}
          value={clip.start}
          onFrame={(f) => run({ type: 'moveClips', timelineId, clipIds: [clip.id], byFrames: f - clip.start, byLanes: 0 })}
        />
        <FrameField
          label="Head"
          timeline={timeline}
          value={clip.start}
          onFrame={(f) => run({ type: 'trimClip', timelineId, clipId: clip.id, start: f, end: clipEnd(clip) })}
        />
        <FrameField
          label="Tail"
          timeline={timeline}
          value={clipEnd(clip)}
          onFrame={(f) => run({ type: 'trimClip', timelineId, clipId: clip.id, start: clip.start, end: f })}
        />
        <Button
          variant="default"
          size="compact-md"
          onClick={() => run({ type: 'trimClip', timelineId, clipId: clip.id, start: frame, end: clipEnd(clip) })}
          disabled={frame <= clip.start || frame >= clipEnd(clip)}
        >
          Head here
        </Button>
        <Button
          variant="default"
          size="compact-md"
          onClick={() => run({ type: 'trimClip', timelineId, clipId: clip.id, start: clip.start, end: frame })}
          disabled={frame <= clip.start || frame >= clipEnd(clip)}
        >
          Tail here
        </Button>
        <Button
          variant="default"
          size="compact-md"
          ml="auto"
          onClick={async () => {
            if (await run({ type: 'removeClips', timelineId, clipIds: [clip.id] })) go('timelines', timelineId);
          }}
        >
          Take off
        </Button>
      </Group>
    </section>
  );
}

/** Every fit with its length, speed, steps, hitches and pitch: from applying the command to a copy, not from a guess. */
function FitTable({ timeline, clip, source }: { timeline: Timeline; clip: Clip; source: Source }) {
  const { project, run, timings } = useProject();
  const rows = useMemo(
    () =>
      FITS.map((fit) => {
        const applied = apply(project, { type: 'setFit', timelineId: timeline.id, clipIds: [clip.id], fit }, timings);
        const after = applied.ok ? applied.project : project;
        const changed = after.timelines.find((t) => t.id === timeline.id);
        const there = changed?.clips.find((c) => c.id === clip.id);
        const cadence = changed && there && cadenceOf(after, changed, there, timings);
        // A clip that has no room for all its pictures is cut by the next one: said beside its length.
        const whole =
          cadence && source.kind !== 'still' && retimed(clip.fit, fit)
            ? longestRun(cadence.mapping) / rateToNumber(timeline.rate)
            : 0;
        return {
          fit,
          whole,
          cadence,
          facts: cadence ? cadenceFacts(cadence.mapping, cadence.map, ownRate(source)) : null,
          ok: applied.ok,
        };
      }),
    [project, timeline, clip, source, timings],
  );
  return (
    <table className={classes.fits} aria-label="Fits">
      <thead>
        <tr>
          {['Fit', 'Runs', 'Speed', 'Steps', 'Hitches', 'Sound'].map((h) => (
            <th key={h}>{h}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ fit, facts, cadence, ok, whole }) => (
          <tr
            key={fit}
            aria-selected={clip.fit === fit}
            data-testid={`fit-${fit}`}
            onClick={() =>
              ok && clip.fit !== fit && void run({ type: 'setFit', timelineId: timeline.id, clipIds: [clip.id], fit })
            }
          >
            <td>
              <button type="button" className={classes.fit} disabled={!ok}>
                <b>{FIT_NAMES[fit][0]}</b> {FIT_NAMES[fit][1]}
              </button>
            </td>
            <td className="number">
              {facts ? `${facts.seconds.toFixed(2)} s` : '\u2013'}
              {facts && whole > facts.seconds + 0.001 && <small className="rust"> of {whole.toFixed(2)}: no room</small>}
            </td>
            <td className="number">{facts ? `${(facts.speed * 100).toFixed(1)} %` : '\u2013'}</td>
            <td className="number">{cadence ? steps(cadence.map.steps, fit, source, clip, timeline) : '\u2013'}</td>
            <td className={`number ${facts && facts.hitches > 0 ? 'rust' : ''}`}>
              {facts
                ? fit === 'blend' && facts.blended > 0
                  ? `0, ${count(facts.blended)} blended`
                  : facts.hitches > 0
                    ? `${count(facts.hitches)}, ${facts.hitchesPerSecond.toFixed(2)}/s`
                    : '0'
                : '\u2013'}
            </td>
            <td className="number">
              {facts && source.sound
                ? Math.abs(facts.semitones) < 0.005
                  ? 'as is'
                  : `${facts.semitones.toFixed(2)} st`
                : source.sound
                  ? '\u2013'
                  : 'none'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Whether going from one fit to another changes how long the pictures take. */
function retimed(from: Fit, to: Fit): boolean {
  return (from === 'pictures') !== (to === 'pictures');
}

function steps(map: Int32Array, fit: Fit, source: Source, clip: Clip, timeline: Timeline): string {
  const runs = passingRate(source, clip);
  if (fit === 'blend' && runs) return `even ${(rateToNumber(runs) / rateToNumber(timeline.rate)).toFixed(3)}`;
  return [...map.slice(1, 8)].join(' ');
}

/** A frame by number or timecode; what was understood is shown when it is taken. */
function FrameField({
  label,
  timeline,
  value,
  onFrame,
}: {
  label: string;
  timeline: Timeline;
  value: number;
  onFrame: (frame: number) => Promise<boolean>;
}) {
  const [text, setText] = useState(formatTimecode(value, timeline.rate));
  const [error, setError] = useState(false);
  useEffect(() => {
    setText(formatTimecode(value, timeline.rate));
    setError(false);
  }, [value, timeline.rate]);
  const take = (): void => {
    const frame = parseTimecode(text, timeline.rate);
    setError(frame === null || frame < 0);
    if (frame === null || frame < 0 || frame === value) return;
    void onFrame(frame).then((done) => done || setText(formatTimecode(value, timeline.rate)));
  };
  return (
    <TextInput
      label={label}
      size="xs"
      w={104}
      className="number"
      value={text}
      error={error}
      title={error ? 'A timecode or a frame number' : `frame ${value}`}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
    />
  );
}
