import { Button, Group, SegmentedControl, Select } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { SHUTTER_MAX } from '@thawline/core/cadence';
import { calmSeconds } from '@thawline/core/motion';
import type { Mix } from '@thawline/core/picture';
import { rateToNumber, secondsOf } from '@thawline/core/time';
import {
  type ClipCadence,
  cadenceAsSeen,
  momentsAFrame,
  type SoundWay,
  type Source,
  soundOf,
  soundWay,
  type Timeline,
} from '@thawline/project';
import { useMemo } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { METHODS, type Method } from '../../../shared/player/looks.js';
import { count, plural, SOUND_CHOICES, speedWords } from '../../../shared/words.js';
import { countStates, quickStretches, speedAt } from '../model/frames.js';
import { usePan } from '../model/usePan.js';
import classes from './retime.module.css';

const SHUTTERS = [0, 45, 90, 180, 270, SHUTTER_MAX];

/** The clip in numbers, and how what lies between its pictures is shown. */
export function RetimeFacts({ timeline, cadence, n }: { timeline: Timeline; cadence: ClipCadence; n: number }) {
  const { run, project, timings } = useProject();
  const { clip, source, mapping } = cadence;
  // Of frames of two fields each field is a moment of its own.
  const seen = useMemo(
    () => cadenceAsSeen(project, timeline, clip, timings) ?? cadence,
    [project, timeline, clip, timings, cadence],
  );
  const counts = useMemo(() => countStates(seen), [seen]);
  const frames = plural(clip.length, 'frame');
  const here = { timelineId: timeline.id, clipIds: [clip.id] };
  const speed = speedAt(mapping, source, n);
  const sounds = soundOf(timeline, clip);
  return (
    <section className={`sheet ${classes.facts}`} data-testid="retime-facts">
      <Fact name="Speed here" value={speedWords(speed)} />
      <Fact
        name="Runs"
        value={`${secondsOf(clip.length, timeline.rate).toFixed(2)} s`}
        under={timeline.fields ? `${frames}, ${count(momentsAFrame(timeline) * clip.length)} fields` : frames}
      />
      <Fact name="Real" value={count(counts.real)} />
      <Fact name="Held" value={count(counts.held)} tone={counts.held > 0 ? 'ice' : undefined} />
      {counts.blended > 0 && <Fact name="Blended" value={count(counts.blended)} tone="sand" />}
      <Fact name="Made by motion" value={count(counts.made)} tone={counts.made > 0 ? 'sand' : undefined} />
      {source.kind !== 'timeline' && <PanFact cadence={seen} speed={speed} />}
      {source.kind !== 'timeline' && <HeldOutFact source={source} />}
      <Group gap={10} ml="auto" wrap="nowrap" align="flex-end">
        <div className={classes.between}>
          <small className="quiet">Between pictures</small>
          <SegmentedControl
            size="xs"
            aria-label="Between pictures"
            value={(METHODS as readonly string[]).includes(clip.fit) ? clip.fit : 'other'}
            onChange={(fit) => void run({ type: 'setFit', ...here, fit: fit as Method })}
            data={METHODS.map((value) => ({ value, label: value }))}
          />
        </div>
        {(clip.fit === 'blend' || clip.instead.some((i) => i.as === 'blend')) && (
          <Select
            size="xs"
            w={124}
            label="Mixed"
            allowDeselect={false}
            data={[
              { value: 'stored', label: 'as stored' },
              { value: 'light', label: 'in linear light' },
            ]}
            value={clip.mix}
            onChange={(mix) => mix && void run({ type: 'setMix', ...here, mix: mix as Mix })}
          />
        )}
        {sounds[0] && source.sound && (
          <Select
            size="xs"
            w={156}
            label="Sound"
            allowDeselect={false}
            disabled={clip.fit === 'freeze'}
            data={[...SOUND_CHOICES]}
            value={soundWay(source, sounds[0])}
            onChange={(way) =>
              way &&
              void run({ type: 'setSound', timelineId: timeline.id, clipIds: sounds.map((c) => c.id), way: way as SoundWay })
            }
          />
        )}
        <Select
          size="xs"
          w={104}
          label="Shutter"
          allowDeselect={false}
          data={[...new Set([...SHUTTERS, clip.shutter])]
            .sort((a, b) => a - b)
            .map((d) => ({ value: String(d), label: d === 0 ? 'shut: sharp' : `${d}\u00b0` }))}
          value={String(clip.shutter)}
          onChange={(d) => d !== null && void run({ type: 'setShutter', ...here, degrees: Number(d) })}
        />
      </Group>
    </section>
  );
}

/** How quickly the camera crosses the frame at this speed, and the speed at which that is calm. Asked for, as the held-out test is. */
function PanFact({ cadence, speed }: { cadence: ClipCadence; speed: number }) {
  const { id } = useProject();
  const { source, mapping } = cadence;
  const running = useJobs(id).some(
    (j) => j.kind === 'pan' && j.subject === source.mediaId && (j.state === 'running' || j.state === 'queued'),
  );
  const pan = usePan(source);
  // What counts is how far it moves from one shown moment to the next.
  const calm = calmSeconds(rateToNumber(mapping.timeline));
  const quick = useMemo(() => (pan ? quickStretches(mapping, pan.shifts) : []), [pan, mapping]);
  if (pan) {
    if (quick.length === 0) return <Fact name="Pan" value="calm" under={`none under ${calm.toFixed(1)} s`} />;
    const seconds = Math.min(...quick.map((q) => q.seconds));
    return (
      <Fact
        name="Pan crosses in"
        value={`${seconds.toFixed(1)} s`}
        tone="rust"
        under={`calm at ${Math.floor(((Math.abs(speed) * seconds) / calm) * 100)} %, ${calm.toFixed(1)} s`}
      />
    );
  }
  return (
    <Ask
      name="Pan"
      label="Measure it"
      title={`How quickly a point crosses the frame: under ${calm.toFixed(1)} s a pan strobes at this rate`}
      running={running}
      onAsk={() => {
        call('startJobs', { parameters: { project: id }, body: { kind: 'pan', sourceId: source.id } }).catch(tellError);
      }}
    />
  );
}

/** Something that is measured when it is asked for. */
function Ask({
  name,
  label,
  title,
  running,
  onAsk,
}: {
  name: string;
  label: string;
  title: string;
  running: boolean;
  onAsk: () => void;
}) {
  return (
    <div>
      <small className="quiet">{name}</small>
      <div>
        <Button size="compact-sm" variant="default" loading={running} onClick={onAsk} title={title}>
          {label}
        </Button>
      </div>
    </div>
  );
}

/** What the material allows: every second picture hidden and made again. Asked for, since it takes as long as decoding all of it. */
function HeldOutFact({ source }: { source: Source }) {
  const { id } = useProject();
  const running = useJobs(id).find(
    (j) => j.kind === 'heldout' && j.subject === source.mediaId && (j.state === 'running' || j.state === 'queued'),
  );
  const found = useQuery({
    queryKey: ['heldout', source.mediaId],
    queryFn: () => call('heldOut', { parameters: { media: source.mediaId } }),
  });
  const start = (): void => {
    call('startJobs', { parameters: { project: id }, body: { kind: 'heldout', sourceId: source.id } }).catch(tellError);
  };
  if (found.data) {
    const { psnr, ssim, perPicture } = found.data;
    const worst = perPicture.reduce((a, b) => (b.psnr < a.psnr ? b : a), perPicture[0] as (typeof perPicture)[number]);
    return (
      <Fact
        name="Held-out test"
        value={`${psnr.toFixed(1)} dB`}
        under={`SSIM ${ssim.toFixed(3)}, least ${worst.psnr.toFixed(1)} at ${worst.picture}`}
      />
    );
  }
  return (
    <Ask
      name="Held-out test"
      label="Hide and rebuild"
      title="Hides every second picture, makes it from its neighbours and compares"
      running={running !== undefined}
      onAsk={start}
    />
  );
}
