import { Button } from '@mantine/core';
import { timelineLength } from '@thawline/project';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { usePlayer } from '../../../shared/player/usePlayer.js';
import { headedFor, useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { useChoice, useEditing } from '../model/editing.js';
import { findings } from '../model/findings.js';
import { CarrySheet } from './CarrySheet.js';
import { ClipPanel } from './ClipPanel.js';
import { EditBar } from './EditBar.js';
import { OpenEditSheet, SaveEditSheet } from './EditFiles.js';
import { Lanes } from './Lanes.js';
import { type Sheet, TimelineBar } from './TimelineBar.js';
import { TimelineForm } from './TimelineForm.js';
import { TimelineKeys } from './TimelineKeys.js';
import classes from './timelines.module.css';
import { Viewer } from './Viewer.js';
import { WeavePanel } from './WeavePanel.js';

/** Timelines, each with its own rate: viewer, the chosen clips' fits, lanes, weave. */
export function TimelinesView() {
  const { project, timings } = useProject();
  const { timeline: id, clip: clipId } = useParams();
  const go = useGo();
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const last = useView((s) => s.lastTimeline);
  const timeline = project.timelines.find((t) => t.id === (id ?? last)) ?? project.timelines[0];
  useEffect(() => {
    if (timeline && timeline.id !== id) go('timelines', timeline.id);
  }, [timeline, id, go]);
  const { frame, frameNow, setFrame } = usePlayhead(timeline?.id, timeline ? timelineLength(timeline) : 0);
  const hitches = useMemo(() => (timeline ? findings(project, timeline, timings) : []), [project, timeline, timings]);
  const chosen = useChoice(timeline, clipId);
  const editing = useEditing(timeline ?? NO_TIMELINE, chosen, frameNow);
  const playing = usePlayer(timeline, frameNow, setFrame);
  const { on, toggle } = playing;
  // Going somewhere by hand ends the playing.
  const goFrame = useCallback(
    (to: number) => {
      if (on) toggle();
      setFrame(to);
    },
    [on, toggle, setFrame],
  );
  const place = useRef<HTMLInputElement>(null);
  const close = useCallback(() => setSheet(null), []);
  const bar = useMemo(
    () => timeline && <EditBar timeline={timeline} chosen={chosen} editing={editing} />,
    [timeline, chosen, editing],
  );
  if (!timeline) {
    return (
      <div className={classes.empty}>
        <h2>No timeline yet</h2>
        <p className="quiet">
          Choose its rate from where the programme goes and from what the dialogue runs at. It can differ from every source: each
          source keeps its own rate, and the weave shows what that costs.
        </p>
        <Button onClick={() => setSheet('new')}>New timeline</Button>{' '}
        <Button variant="default" onClick={() => setSheet('open')}>
          Open an edit file
        </Button>
        {sheet === 'new' && <TimelineForm timeline={null} onClose={close} onCarry={close} />}
        {sheet === 'open' && <OpenEditSheet onClose={close} />}
      </div>
    );
  }
  const carrying = typeof sheet === 'object' && sheet !== null ? sheet.carry : null;
  return (
    <div className={classes.view}>
      <TimelineKeys
        timeline={timeline}
        editing={editing}
        frameNow={frameNow}
        setFrame={goFrame}
        hitches={hitches}
        onPlay={toggle}
        onSpeed={playing.nextSpeed}
        onGoTo={() => place.current?.focus()}
      />
      <TimelineBar timeline={timeline} onSheet={setSheet} />
      <div className={classes.top}>
        <Viewer timeline={timeline} chosen={chosen} frame={frame} setFrame={goFrame} playing={playing} placeRef={place} />
        <ClipPanel timeline={timeline} chosen={chosen} editing={editing} frameNow={frameNow} />
      </div>
      <section className={`sheet ${classes.bottom}`}>
        <Lanes timeline={timeline} setFrame={goFrame} frameNow={frameNow} chosen={chosen} bar={bar} />
        <WeavePanel timeline={timeline} frame={frame} setFrame={goFrame} chosen={chosen[0] ?? null} hitches={hitches} />
      </section>
      {(sheet === 'new' || sheet === 'edit') && (
        <TimelineForm
          timeline={sheet === 'edit' ? timeline : null}
          onClose={close}
          onCarry={(rate) => setSheet({ carry: rate })}
        />
      )}
      {carrying !== null && <CarrySheet timeline={timeline} asked={carrying} onClose={close} />}
      {sheet === 'open' && <OpenEditSheet onClose={close} />}
      {sheet === 'save' && <SaveEditSheet timeline={timeline} onClose={close} />}
    </div>
  );
}

const NO_TIMELINE = {
  id: 'none',
  name: '',
  rate: { num: 25, den: 1 },
  width: 16,
  height: 16,
  startFrame: 0,
  dropFrame: false,
  range: null,
  lanes: [],
  clips: [],
  marks: [],
  kept: null,
};

interface PlayheadState {
  readonly frame: number;
  /** The frame at the moment it is asked. */
  readonly frameNow: () => number;
  readonly setFrame: (frame: number) => void;
}

/** The playhead, up to the place behind the last frame: kept by this browser while it runs, and in the address (?f=) so that reload and links keep the place. */
function usePlayhead(timeline: string | undefined, last: number): PlayheadState {
  const [search, setSearch] = useSearchParams();
  const known = useView((s) => (timeline ? s.playheads[timeline] : undefined));
  const setPlayhead = useView((s) => s.setPlayhead);
  const asked = Number(search.get('f') ?? 0);
  const frame = Math.min(Math.max(0, known ?? (Number.isInteger(asked) ? asked : 0)), last);
  const playing = useView((s) => s.live !== null);
  useEffect(() => {
    if (timeline && known !== frame) setPlayhead(timeline, frame);
    if (playing) return undefined;
    const timer = setTimeout(() => {
      // A navigation of ours would stop the person's own, if one is under way.
      if (headedFor('timelines') && search.get('f') !== String(frame)) setSearch({ f: String(frame) }, { replace: true });
    }, 200);
    return () => clearTimeout(timer);
  }, [frame, known, timeline, playing, search, setSearch, setPlayhead]);
  const setFrame = useCallback(
    (next: number) => {
      if (timeline) setPlayhead(timeline, Math.min(Math.max(0, next), last));
    },
    [timeline, last, setPlayhead],
  );
  const frameNow = useCallback(() => {
    const { live, playheads } = useView.getState();
    return live ?? (timeline ? (playheads[timeline] ?? 0) : 0);
  }, [timeline]);
  return { frame, frameNow, setFrame };
}
