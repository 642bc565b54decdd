import { Button, Group } from '@mantine/core';
import type { TrialReply } from '@thawline/contract';
import { clockTimecode, formatExact, formatRate, secondsOf } from '@thawline/core/time';
import {
  atFieldRate,
  cadenceOf,
  channelNotes,
  chromaWords,
  colourReason,
  FORMS,
  type FormFields,
  fileNameOf,
  filesOf,
  formFields,
  likeSources,
  otherRate,
  peakWords,
  pictureNotes,
  renderedAt,
  settledForm,
  sizesBeside,
  type Timeline,
  tallyFrames,
  timelineColour,
  unheldBy,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { Weave } from '../../../shared/diagram/Weave.js';
import { useGo } from '../../../shared/state/places.js';
import { renderScopeOf, useRenderWishes } from '../../../shared/state/renderWishes.js';
import { useView } from '../../../shared/state/view.js';
import { bytes, clock, count, plural } from '../../../shared/words.js';
import { type Trial, useTrial } from '../model/useTrial.js';
import classes from './render.module.css';

/** What will come out and what it costs, before anything is written: step maps say what, a trial of a little of it how long. */
export function PriceCard({ timeline, clipId }: { timeline: Timeline; clipId: string | undefined }) {
  const { id, project, timings, run } = useProject();
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const { form: wanted, part: chosen, name, folder, change } = useRenderWishes();
  const form = useMemo(() => settledForm(wanted), [wanted]);
  const part = useMemo(() => renderScopeOf(timeline, chosen, clipId), [timeline, chosen, clipId]);
  const rendered = useMemo(() => renderedAt(project, timeline, form, part.frames), [project, timeline, form, part]);
  const { range } = rendered;
  const fields = formFields(form, timeline);
  const inFields = formFields(form, rendered.timeline) !== null;
  // Where frames hold two fields, each field is counted.
  const tally = useMemo(() => {
    const { project: edit, timeline: own } = rendered;
    if (!inFields) return tallyFrames(edit, own, timings, range);
    return tallyFrames(edit, atFieldRate(own), timings, { from: 2 * range.from, to: 2 * range.to });
  }, [rendered, timings, range, inFields]);
  const counted = inFields ? 'field' : 'frame';
  const frames = range.to - range.from;
  const unheld = unheldBy(form, timeline);
  const beside = sizesBeside(form, timeline);
  const trial = useTrial(timeline, { form, part, folder, empty: frames <= 0 || unheld !== null });
  const lost = useMemo(() => filesOf(project, timeline, part.frames).filter((s) => s.lost), [project, timeline, part]);
  const sounding = rendered.timeline.clips.some((c) => rendered.timeline.lanes.find((l) => l.id === c.laneId)?.kind === 'sound');
  const { rate } = rendered.timeline;
  const colours = useMemo(() => timelineColour(project, timeline), [project, timeline]);
  const rows: [string, string][] = [
    [
      'Rate',
      `${formatRate(rate)}${rate.den === 1 ? '' : ` (${formatExact(rate)})`}${otherRate(timeline, rate) ? '' : ', as the timeline'}`,
    ],
    ['Size', `${timeline.width}\u00d7${timeline.height}`],
    ...(inFields || timeline.fields ? [['Frames', frameWords(timeline, fields)] as [string, string]] : []),
    ...(form.kind === 'wav' ? [] : [['Colours', colourReason(colours)] as [string, string]]),
    ['Range', `${clockTimecode(range.from, rendered.timeline)} \u2013 ${clockTimecode(range.to, rendered.timeline)}`],
    ['Length', `${clock(secondsOf(frames, rate))}, ${plural(frames, 'frame')}`],
    ['Sound', sounding && form.sound !== 'off' ? soundWords(trial.found) : sounding ? 'left out' : 'none on this timeline'],
  ];
  const notes = useMemo(
    () => [
      ...pictureNotes(project, timeline, part.frames, form),
      ...(sounding ? channelNotes(project, timeline, part.frames, form) : []),
    ],
    [project, timeline, part, form, sounding],
  );
  const like = useMemo(
    () => (form.kind === 'wav' ? null : likeSources(project, timeline, part.frames, form)),
    [project, timeline, part, form],
  );
  const blocked =
    unheld !== null ||
    frames <= 0 ||
    lost.length > 0 ||
    (name.trim() !== '' && fileNameOf(name) === null) ||
    (form.kind === 'wav' && !sounding);
  return (
    <>
      <table className={classes.facts}>
        <tbody>
          {rows.map(([what, value]) => (
            <tr key={what}>
              <th>{what}</th>
              <td className="number">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {frames > 0 && form.kind !== 'wav' && (
        <div className="notice" data-testid="price">
          <b className="number">{count(tally.frames)}</b> {tally.frames === 1 ? counted : `${counted}s`}:{' '}
          <b className="number">{count(tally.real)}</b> real, <b className="number">{count(tally.held)}</b> held,{' '}
          <b className="number">{count(tally.blended)}</b> blended
          {tally.made > 0 && (
            <>
              , <b className="number">{count(tally.made)}</b> made by motion
            </>
          )}
          {tally.black > 0 && (
            <>
              , <b className="number">{count(tally.black)}</b> black
            </>
          )}
          {tally.missing > 0 && (
            <>
              , <b className="number">{count(tally.missing)}</b> of files that are not there
            </>
          )}
          .{' '}
          {inFields
            ? ''
            : tally.hitches.length === 0
              ? 'No hitches.'
              : `${plural(tally.hitches.length, 'hitch stays', 'hitches stay')}, in ${tally.hitching.join(', ')}.`}
        </div>
      )}
      {frames > 0 && notes.length > 0 && (
        <ul className={`notice ${classes.notes}`} aria-label="What becomes of its pictures and sound">
          {notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {frames > 0 && like && (
        <Button size="compact-sm" variant="default" mt={6} onClick={() => change(like)}>
          Keep what its sources have: {chromaWords(like.chroma)}, {like.depth} bit
        </Button>
      )}
      {lost.length > 0 && (
        <div className="notice" data-testid="price-lost">
          <p>
            {lost.length === 1 ? 'A file' : count(lost.length)} of this render {lost.length === 1 ? 'is' : 'files are'} not there:{' '}
            {lost.map((s) => s.name).join(', ')}. Say where {lost.length === 1 ? 'it is' : 'they are'} under Sources, or take{' '}
            {lost.length === 1 ? 'it' : 'them'} off the timeline.
          </p>
          <Button size="compact-sm" variant="default" onClick={() => go('sources', lost[0]?.id)}>
            Go to {lost[0]?.name}
          </Button>
        </div>
      )}
      {frames > 0 && lost.length === 0 && !unheld && <Cost trial={trial} lossless={FORMS[form.kind].lossless} />}
      {otherRate(timeline, form.rate) && form.kind !== 'wav' && frames > 0 && (
        <RateWeave timeline={timeline} rendered={rendered} />
      )}
      <div className={classes.buttons}>
        <Button
          disabled={blocked}
          onClick={() => {
            const body = { kind: 'render', timelineId: timeline.id, range: part.range, clipId: part.clipId, form, name, folder };
            call('startJobs', { parameters: { project: id }, body }).catch(tellError);
          }}
        >
          Render
        </Button>
        {tally.hitches.length > 0 && !otherRate(timeline, form.rate) && (
          <Button
            variant="default"
            onClick={() => {
              setPlayhead(timeline.id, tally.hitches[0] ?? 0);
              go('timelines', timeline.id);
            }}
          >
            Show the hitches
          </Button>
        )}
      </div>
      {unheld && <p className="quiet">{unheld}</p>}
      {beside.length > 0 && (
        <Group gap={6} mt={6}>
          {beside.map((size) => (
            <Button
              key={size.width}
              variant="default"
              size="compact-sm"
              onClick={() => void run({ type: 'setTimelineFormat', timelineId: timeline.id, rate: timeline.rate, ...size })}
            >
              Make the timeline {size.width}&times;{size.height}
            </Button>
          ))}
        </Group>
      )}
      {frames <= 0 && <p className="quiet">This timeline has no clips yet.</p>}
      {form.kind === 'wav' && !sounding && <p className="quiet">There is no sound on this timeline.</p>}
    </>
  );
}

/** What frames hold, where that is not what everybody expects. */
function frameWords({ fields: own }: Timeline, fields: FormFields | null): string {
  if (!fields) return 'whole pictures: the moments of second fields are left out';
  if (fields.pulldown)
    return `film by 2:3, ${fields.order} first: each picture stays two fields or three, in one beat over all cuts`;
  return `of two fields, ${fields.order} first, each at its own moment${own === fields.order ? ', as the timeline' : ''}`;
}

function soundWords(trial: TrialReply | null): string {
  if (!trial) return 'on';
  const { peak, loudness, addedDb, gainDb } = trial;
  if (peak === null) return 'on, silent';
  const loud = loudness === null ? '' : `, ${loudness.toFixed(1)} LUFS`;
  const gained = gainDb === 0 ? '' : `, brought ${gainDb > 0 ? 'up' : 'down'} by ${Math.abs(gainDb).toFixed(1)} dB`;
  const added = addedDb === null || addedDb < 0.05 ? '' : `; coding adds ${addedDb.toFixed(1)} dB`;
  return `on, peak ${peakWords(peak)}${loud}${gained}${added}`;
}

/** An estimate; where it may be a quarter off and more, what it lies between. */
function Estimated({ of: { value, least, most }, say }: { of: TrialReply['bytes']; say: (n: number) => string }) {
  const open = most > value * 1.25 || least < value * 0.75;
  return open ? (
    <>
      between <b className="number">{say(least)}</b> and <b className="number">{say(most)}</b>
    </>
  ) : (
    <>
      about <b className="number">{say(value)}</b>
    </>
  );
}

/**
 * Most of the disk that a render needs, as a multiple of the file's size: its parts are kept until they are joined into the file, and
 * the sound and the container come on top.
 */
const DISK_SHARE = 2.2;

/** Time and size of the render with the free space, as estimated from a little of it. */
function Cost({ trial: { found, trying, trouble }, lossless }: { trial: Trial; lossless: boolean }) {
  if (!found && trouble) return <p className="rust">Time and size cannot be tried: {trouble}</p>;
  if (!found)
    return (
      <p className="quiet">
        {trying ? 'Trying a little of it, to tell its time and size \u2026' : 'Time and size are not known yet.'}
      </p>
    );
  const scarce = found.free < found.bytes.most * DISK_SHARE;
  return (
    <p className={classes.cost} data-testid="cost" data-trying={trying || undefined}>
      Comes to <Estimated of={found.bytes} say={bytes} /> in <Estimated of={found.seconds} say={clock} />
      {found.reused > 0 && (
        <>
          , <b className="number">{count(found.reused)}</b> frames are there already
        </>
      )}
      {!lossless && found.psnr !== null && (
        <>
          ; coded pictures lie <span className="number">{found.psnr.toFixed(1)} dB</span> from the composed ones
        </>
      )}
      .{' '}
      <span className={scarce ? 'rust' : 'quiet'}>
        <span className="number">{bytes(found.free)}</span> are free{scarce ? ': that is hardly enough' : ''}.
      </span>
    </p>
  );
}

/** The price of another rate, drawn: timeline frames above, rendered frames below. */
function RateWeave({ timeline, rendered }: { timeline: Timeline; rendered: ReturnType<typeof renderedAt> }) {
  const { timings } = useProject();
  const go = useGo();
  const [at, setAt] = useState(0);
  const clip = rendered.timeline.clips[0];
  const cadence = clip && cadenceOf(rendered.project, rendered.timeline, clip, timings);
  if (!cadence) return null;
  return (
    <div className={classes.rateWeave}>
      <Weave
        mapping={cadence.mapping}
        map={cadence.map}
        at={Math.max(at, rendered.range.from)}
        firstFrame={0}
        rows={{ above: 'timeline', below: 'render' }}
        sourceLabel={formatRate(timeline.rate)}
        timelineLabel={formatRate(rendered.timeline.rate)}
        zoom={26}
        screen={null}
        pictureAt={null}
        shape={timeline.width / timeline.height}
        onFrame={setAt}
      />
      <p className="quiet">
        Carrying the edit to {formatRate(rendered.timeline.rate)} is usually better: its sources are then read at that rate
        themselves.{' '}
        <button type="button" className={classes.link} onClick={() => go('timelines', timeline.id)}>
          Go to the timeline
        </button>
      </p>
    </div>
  );
}
