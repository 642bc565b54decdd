import { Button, SegmentedControl, Select } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { clockTimecode, formatExact, formatRate, secondsOf } from '@thawline/core/time';
import { cadenceOf, type Timeline, tallyFrames, timelineLength } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../api/client.js';
import { tellError, useJobs, useProject } from '../api/project.js';
import { JobLine } from '../shell/JobLine.js';
import { useGo } from '../state/places.js';
import { useView } from '../state/view.js';
import { clock, count } from '../words.js';
import { ReceiptSheet } from './ReceiptSheet.js';
import classes from './render.module.css';

/** What is sent: a timeline's price before, the jobs, and the receipt of what came out. */
export function RenderView() {
  const { id, project } = useProject();
  const { job: open } = useParams();
  const go = useGo();
  const last = useView((s) => s.lastTimeline);
  const setLast = useView((s) => s.setLastTimeline);
  const jobs = useJobs(id).filter((j) => j.kind === 'render');
  const receipts = useQuery({ queryKey: ['receipts', id], queryFn: () => call('receipts', { parameters: { project: id } }) });
  const timeline = project.timelines.find((t) => t.id === last) ?? project.timelines[0];
  const receipt = receipts.data?.find((r) => r.jobId === open) ?? receipts.data?.[0];
  const current = jobs.filter((j) => j.state !== 'done');
  if (!timeline) {
    return (
      <div className={classes.empty}>
        <h2>Nothing to render yet</h2>
        <p className="quiet">A render writes a timeline at exactly its rate and measures the file afterwards.</p>
        <Button onClick={() => go('timelines')}>Make a timeline</Button>
      </div>
    );
  }
  return (
    <div className={classes.view}>
      <div className={classes.left}>
        <section className={`sheet ${classes.card}`}>
          <Select
            label="Timeline"
            data={project.timelines.map((t) => ({ value: t.id, label: `${t.name} \u00b7 ${formatRate(t.rate)}` }))}
            value={timeline.id}
            allowDeselect={false}
            onChange={(value) => value && setLast(value)}
          />
          <Price timeline={timeline} />
        </section>
        <section className={`sheet ${classes.card}`}>
          <h2 className="heading">Running and waiting</h2>
          {current.length === 0 && <p className="quiet">Nothing. A render shows its progress here, and can be stopped.</p>}
          {current.slice(0, 6).map((job) => (
            <div key={job.id} className={classes.job}>
              <JobLine job={job} />
            </div>
          ))}
        </section>
        {(receipts.data?.length ?? 0) > 1 && (
          <section className={`sheet ${classes.card}`}>
            <h2 className="heading">Receipts</h2>
            {receipts.data?.map((r) => (
              <button
                type="button"
                key={r.jobId}
                className={classes.past}
                aria-current={r.jobId === receipt?.jobId}
                onClick={() => go('render', r.jobId)}
              >
                <span>{r.timeline}</span>
                <span className={r.differs === 0 ? 'moss' : 'rust'}>{r.differs === 0 ? 'as asked' : `${r.differs} differ`}</span>
              </button>
            ))}
          </section>
        )}
      </div>
      {receipt ? (
        <ReceiptSheet receipt={receipt} />
      ) : (
        <section className={`sheet ${classes.none}`}>
          <h2>No receipt yet</h2>
          <p className="quiet">
            After a render the file is decoded again from first to last picture: its rate, every timestamp, the count, and which
            picture each frame shows. What was asked stands beside what was measured.
          </p>
        </section>
      )}
    </div>
  );
}

/** What will come out, computed from the step maps before anything is written. */
function Price({ timeline }: { timeline: Timeline }) {
  const { id, project, timings } = useProject();
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const [part, setPart] = useState<'all' | 'range'>('all');
  const range = part === 'range' ? timeline.range : null;
  const tally = useMemo(() => tallyFrames(project, timeline, timings, range), [project, timeline, timings, range]);
  const from = range?.from ?? 0;
  const to = range?.to ?? timelineLength(timeline);
  const length = to - from;
  const where = useMemo(() => {
    const names = timeline.clips
      .map((c) => cadenceOf(project, timeline, c, timings))
      .filter((c) => c && c.map.hitches.length > 0 && timeline.lanes.find((l) => l.id === c.clip.laneId)?.kind === 'picture');
    return [...new Set(names.map((c) => c?.source.name))];
  }, [project, timeline, timings]);
  const sounding = timeline.clips.some((c) => timeline.lanes.find((l) => l.id === c.laneId)?.kind === 'sound');
  const rows: [string, string][] = [
    ['Rate', `${formatRate(timeline.rate)}${timeline.rate.den === 1 ? '' : ` (${formatExact(timeline.rate)})`}, as the timeline`],
    ['Size', `${timeline.width}\u00d7${timeline.height}`],
    ['File', 'MP4 \u00b7 H.264 \u00b7 AAC'],
    ['Range', `${clockTimecode(from, timeline)} \u2013 ${clockTimecode(to, timeline)}`],
    ['Length', `${clock(secondsOf(length, timeline.rate))}, ${count(length)} frames`],
    ['Sound', sounding ? 'on' : 'none on this timeline'],
  ];
  return (
    <>
      {timeline.range && (
        <SegmentedControl
          size="xs"
          mt="xs"
          data={[
            { value: 'all', label: 'All of it' },
            { value: 'range', label: 'In to out' },
          ]}
          value={part}
          onChange={(value) => setPart(value as 'all' | 'range')}
        />
      )}
      <table className={classes.facts}>
        <tbody>
          {rows.map(([name, value]) => (
            <tr key={name}>
              <th>{name}</th>
              <td className="number">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {length > 0 && (
        <div className="notice" data-testid="price">
          <b className="number">{count(tally.frames)}</b> frames: <b className="number">{count(tally.real)}</b> real,{' '}
          <b className="number">{count(tally.held)}</b> held, <b className="number">{count(tally.blended)}</b> blended
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
          . {tally.hitches.length === 0 ? 'No hitches.' : `${count(tally.hitches.length)} hitches stay, in ${where.join(', ')}.`}
        </div>
      )}
      <div className={classes.buttons}>
        <Button
          disabled={length === 0}
          onClick={() => {
            call('startJobs', {
              parameters: { project: id },
              body: { kind: 'render', timelineId: timeline.id, range: range !== null },
            }).catch(tellError);
          }}
        >
          Render
        </Button>
        {tally.hitches.length > 0 && (
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
      {length === 0 && <p className="quiet">This timeline has no clips yet.</p>}
    </>
  );
}
