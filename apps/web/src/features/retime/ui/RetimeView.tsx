import { Button, Select } from '@mantine/core';
import { nominalRate } from '@thawline/core/time';
import { type Clip, type ClipCadence, cadenceOf, clipEnd, isSoundClip, sourceOf, type Timeline } from '@thawline/project';
import { useCallback, useMemo } from 'react';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { useWalk } from '../../../shared/keys/useWalk.js';
import { clipPictures } from '../../../shared/player/looks.js';
import { frameRateLabel, rateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { plural } from '../../../shared/words.js';
import { retimable } from '../model/frames.js';
import { Compare } from './Compare.js';
import { CurvePanel } from './CurvePanel.js';
import { MadeStrip } from './MadeStrip.js';
import { RetimeFacts } from './RetimeFacts.js';
import classes from './retime.module.css';
import { SoundRetime } from './SoundRetime.js';

/** Slower and smoother: one clip's time, the ways between its pictures beside each other, and what of it is made. */
export function RetimeView() {
  const { project, timings } = useProject();
  const { timeline: timelineId, clip: clipId, frame: asked } = useParams();
  const go = useGo();
  const last = useView((s) => s.lastTimeline);
  const setPlayhead = useView((s) => s.setPlayhead);
  const timeline = project.timelines.find((t) => t.id === (timelineId ?? last)) ?? project.timelines[0];
  const clips = useMemo(() => (timeline ? clipsOf(timeline, (id) => sourceOf(project, id)) : []), [project, timeline]);
  const chosen = useView((s) => s.chosenClips);
  const clip = clips.find((c) => c.id === clipId) ?? clips.find((c) => chosen.includes(c.id)) ?? clips[0];
  const known = useView((s) => (timeline ? s.playheads[timeline.id] : undefined));
  const cadence = timeline && clip ? cadenceOf(project, timeline, clip, timings) : null;
  const wanted = asked === undefined ? (known ?? 0) - (clip?.start ?? 0) : Number(asked);
  const n = Math.max(0, Math.min((clip?.length ?? 1) - 1, Number.isInteger(wanted) ? wanted : 0));
  const ids = [timeline?.id, clip?.id] as const;
  const to = useCallback(
    (frame: number | undefined): void => {
      if (frame === undefined || !ids[0] || !clip) return;
      const next = Math.max(0, Math.min(clip.length - 1, frame));
      setPlayhead(ids[0], clip.start + next);
      go('retime', ids[0], ids[1], next);
    },
    [ids[0], ids[1], clip, setPlayhead, go],
  );
  useWalk({ at: n, first: 0, last: (clip?.length ?? 1) - 1, second: timeline ? nominalRate(timeline.rate) : 25, onGo: to });
  const source = cadence?.source;
  const pictures = useMemo(() => source && clipPictures(project, source, timings), [project, source, timings]);
  if (!timeline || !clip || !cadence || !source || !pictures) return <Nothing timeline={timeline} />;
  if (isSoundClip(timeline, clip))
    return (
      <div className={classes.view}>
        <Bar timeline={timeline} clip={clip} clips={clips} cadence={cadence} />
        <SoundRetime key={clip.id} timeline={timeline} clip={clip} source={source} />
      </div>
    );
  return (
    <div className={classes.view}>
      <Bar timeline={timeline} clip={clip} clips={clips} cadence={cadence} />
      <div className={classes.top}>
        <Compare cadence={cadence} pictures={pictures} n={n} onFrame={to} />
        <CurvePanel key={clip.id} timeline={timeline} cadence={cadence} n={n} onFrame={to} />
      </div>
      <RetimeFacts timeline={timeline} cadence={cadence} n={n} />
      <MadeStrip timeline={timeline} cadence={cadence} pictures={pictures} n={n} onFrame={to} />
    </div>
  );
}

function clipsOf(timeline: Timeline, find: Parameters<typeof retimable>[2]): Clip[] {
  return retimable(timeline.clips, new Set(timeline.lanes.filter((l) => l.kind === 'picture').map((l) => l.id)), find);
}

/** Which clip, in its own rates, and the way to the edit. */
function Bar({
  timeline,
  clip,
  clips,
  cadence,
}: {
  timeline: Timeline;
  clip: Clip;
  clips: readonly Clip[];
  cadence: ClipCadence;
}) {
  const { project } = useProject();
  const go = useGo();
  const names = clips.map((c) => c.label ?? sourceOf(project, c.sourceId)?.name ?? '');
  return (
    <div className={classes.bar}>
      <Select
        size="xs"
        w={150}
        aria-label="Timeline"
        allowDeselect={false}
        data={project.timelines.map((t) => ({ value: t.id, label: t.name }))}
        value={timeline.id}
        onChange={(id) => id && go('retime', id)}
      />
      <Select
        size="xs"
        w={260}
        aria-label="Clip"
        allowDeselect={false}
        searchable
        data={clips.map((c, i) => ({
          value: c.id,
          label: `${names[i]}${isSoundClip(timeline, c) ? ', sound' : ''} \u00b7 frames ${c.start} to ${clipEnd(c) - 1}`,
        }))}
        value={clip.id}
        onChange={(id) => id && go('retime', timeline.id, id, 0)}
      />
      <span className="quiet">
        read at <b className="number">{rateLabel(cadence.source)}</b> in a timeline of{' '}
        <b className="number">{frameRateLabel(timeline)}</b>
      </span>
      <Button size="compact-sm" variant="default" ml="auto" onClick={() => go('timelines', timeline.id, clip.id)}>
        Open in the edit
      </Button>
    </div>
  );
}

function Nothing({ timeline }: { timeline: Timeline | undefined }) {
  const go = useGo();
  return (
    <div className={classes.empty}>
      <h2>Nothing to retime yet</h2>
      <p className="quiet">
        {timeline
          ? `${timeline.name} has ${plural(timeline.clips.length, 'clip')}, and none of moving pictures. Place a source on it first: its time can then be slowed, curved, turned round or stopped here.`
          : 'Make a timeline and place a source on it. Its time can then be slowed, curved, turned round or stopped here.'}
      </p>
      <Button onClick={() => go('timelines', timeline?.id)}>{timeline ? `Open ${timeline.name}` : 'New timeline'}</Button>
    </div>
  );
}
