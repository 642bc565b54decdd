import { Button, Group } from '@mantine/core';
import { formatDecimalRate, formatTimecode, nominalRate, rateToNumber } from '@thawline/core/time';
import {
  asSeen,
  type FrameFinding,
  type Project,
  reusedStretches,
  sourceOf,
  type Timeline,
  type TimelineCheck,
} from '@thawline/project';
import { useMemo } from 'react';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { numberOf } from '../../../shared/diagram/halves.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { FindingButtons, useWalk } from '../../../shared/keys/useWalk.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { count, plural } from '../../../shared/words.js';
import { pictureAtFrame } from '../model/pictureBehind.js';
import { CAUSES, heldFrames, timelineLong, useTimelineChecks } from '../model/timelineChecks.js';
import { Band } from './Band.js';
import { CheckList } from './CheckList.js';
import classes from './check.module.css';
import { Difference } from './Difference.js';
import { FoundList } from './FoundList.js';

/** A timeline's own frames, or their fields: what its rate repeats and leaves out, apart from what its sources do. Places are moments, as the check has them. */
export function TimelineCheckView() {
  const { project } = useProject();
  const { timeline: open, frame } = useParams();
  const judged = useTimelineChecks();
  const timeline = project.timelines.find((t) => t.id === open);
  const check = timeline && judged.get(timeline.id);
  return (
    <div className={classes.view}>
      <CheckList timeline={open} />
      {timeline && check ? (
        <Result key={timeline.id} timeline={timeline} check={check} frame={Number(frame) || 0} />
      ) : (
        <div className={`sheet ${classes.none}`}>
          <h2>There is no such timeline</h2>
        </div>
      )}
    </div>
  );
}

/** Causes beneath a small picture. */
const SHORT = { rate: 'by rate', cut: 'at a cut', source: 'in source', skip: 'skipped', jump: 'jump' } as const;

/** Frames of the strip. */
const SHOWN = 12;

function Result({ timeline, check, frame }: { timeline: Timeline; check: TimelineCheck; frame: number }) {
  const { project, timings } = useProject();
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const { from: first, to: end } = check.range;
  const at = Math.max(first, Math.min(Math.max(first, end - 1), frame));
  const to = (next: number | undefined): void => {
    if (next !== undefined) go('check', 'timeline', timeline.id, Math.max(first, Math.min(end - 1, next)));
  };
  const seen = asSeen(timeline);
  const second = nominalRate(seen.rate);
  const frameAt = Math.floor(at / check.moments);
  const listed = useMemo(() => check.findings.map((f) => ({ ...f, at: f.from })), [check]);
  const found = useMemo(() => listed.map((f) => f.at), [listed]);
  const { next, previous } = useWalk({ at, first, last: end - 1, second, onGo: to, found });
  const edit = (): void => {
    setPlayhead(timeline.id, frameAt);
    go('timelines', timeline.id);
  };
  const held = heldFrames(check);
  const length = end - first;
  const odd = Math.abs(check.trueRate / rateToNumber(seen.rate) - 1) > 0.001;
  const unchecked = check.uncheckedIds.map((id) => project.sources.find((s) => s.id === id)?.name ?? id);
  const here = check.findings.find((f) => f.from <= at && at < f.to);
  if (length <= 0) {
    return (
      <div className={`sheet ${classes.none}`}>
        <h2>{timeline.name}</h2>
        <p className="quiet">Nothing is placed on it yet.</p>
      </div>
    );
  }
  return (
    <>
      <div className={classes.middle}>
        <section className={`sheet ${classes.verdict}`} data-testid="timeline-verdict">
          <div>
            <small className="quiet">True rate</small>
            <div className={`number ${classes.big} ${odd ? 'rust' : ''}`}>{formatDecimalRate(check.trueRate)}</div>
          </div>
          <Fact name={timeline.fields ? 'Fields a second' : 'Timeline'} value={formatDecimalRate(rateToNumber(seen.rate))} />
          <Fact name="Held by rate" value={count(check.frames.rate + check.frames.cut)} />
          <Fact name="Held in sources" value={count(check.frames.source)} />
          <Fact name="Skipped" value={count(check.frames.skip)} />
          <p>
            {timelineLong(check)}
            {unchecked.length > 0 && ` Not checked yet: ${unchecked.join(', ')}; what these hold is not counted.`}
          </p>
        </section>
        <section className={`sheet ${classes.strip}`}>
          <div className={classes.head}>
            <h2 className="heading number">
              {count(length)} {timeline.fields ? 'fields' : 'frames'}
              {timeline.range ? ', in to out' : ''}, {plural(held, 'held', 'held')}
            </h2>
            <span className="quiet number">
              {formatTimecode(timeline.startFrame + frameAt, timeline.rate, { dropFrame: timeline.dropFrame })}
              {here ? `, ${CAUSES[here.cause]}` : ''}
            </span>
          </div>
          <Band check={check} at={at} onFrame={to} />
        </section>
        <section className={`sheet ${classes.strip}`}>
          <div className={classes.head}>
            <h2 className="heading">{timeline.fields ? 'Fields' : 'Frames'}</h2>
            <Group gap={6}>
              <FindingButtons next={next} previous={previous} onGo={to} />
              <Button size="compact-sm" variant="default" onClick={edit}>
                Open in the edit
              </Button>
            </Group>
          </div>
          <Frames timeline={timeline} check={check} at={at} onFrame={to} />
        </section>
      </div>
      <aside className={`sheet ${classes.findings}`}>
        <h2 className="heading">
          Findings <span className="quiet">{check.findings.length === 0 ? 'none' : count(check.findings.length)}</span>
        </h2>
        <FoundList
          found={listed}
          here={at}
          onGo={to}
          titleOf={(f) => `${sourceOf(project, f.sourceId)?.name ?? ''}, picture ${f.picture}`}
          testId="timeline-findings"
          row={(f) => (
            <>
              <span className="number">{numberOf(f.from, 0, timeline.fields)}</span>
              <span className="number quiet">{f.to - f.from > 1 ? `\u00d7${f.to - f.from}` : ''}</span>
              <span className={f.cause === 'skip' || f.cause === 'jump' ? 'rust' : classes.held}>{CAUSES[f.cause]}</span>
            </>
          )}
        />
        <Reused project={project} timeline={timeline} timings={timings} />
      </aside>
    </>
  );
}

/** Twelve frames or fields around the chosen one, each with what differs from the one before. */
function Frames({
  timeline,
  check,
  at,
  onFrame,
}: {
  timeline: Timeline;
  check: TimelineCheck;
  at: number;
  onFrame: (frame: number) => void;
}) {
  const { project, timings } = useProject();
  const { from: first, to: end } = check.range;
  const from = Math.max(first, Math.min(at - (at % (SHOWN / 2)), end - SHOWN));
  const frames = Array.from({ length: Math.min(SHOWN, end - from) }, (_, i) => from + i);
  const causes = new Map<number, FrameFinding>();
  for (const f of check.findings) {
    if (f.to <= from || f.from >= from + SHOWN) continue;
    for (let k = f.from; k < f.to; k++) causes.set(k, f);
  }
  const shown = (moment: number) => pictureAtFrame(project, asSeen(timeline), moment, timings);
  return (
    <div className={classes.pictures}>
      {frames.map((k) => {
        const picture = shown(k);
        const cause = causes.get(k)?.cause ?? null;
        const stands = cause === 'rate' || cause === 'cut' || cause === 'source';
        return (
          <button
            type="button"
            key={k}
            className={classes.picture}
            aria-current={k === at}
            onClick={() => onFrame(k)}
            data-testid={`frame-${k}`}
            data-cause={cause ?? 'new'}
          >
            <span className={classes.frame}>
              {picture && (
                <img
                  src={pictureAddress(picture.mediaId, picture.picture)}
                  alt={`${timeline.fields ? 'Field' : 'Frame'} ${numberOf(k, 0, timeline.fields)}`}
                />
              )}
              {stands && <i className="frost" />}
            </span>
            <span className={classes.under}>
              <b className="number">{numberOf(k, 0, timeline.fields)}</b>
              <small className={cause === null ? 'quiet number' : stands ? classes.held : 'rust'}>
                {cause ? SHORT[cause] : picture ? picture.picture : 'black'}
              </small>
            </span>
            {picture && <Difference a={k > first ? shown(k - 1) : null} b={picture} gain={4} />}
          </button>
        );
      })}
    </div>
  );
}

/** Pictures of this timeline that are shown elsewhere, too, or here a second time. */
function Reused({
  project,
  timeline,
  timings,
}: {
  project: Project;
  timeline: Timeline;
  timings: Parameters<typeof reusedStretches>[1];
}) {
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const stretches = useMemo(
    () => reusedStretches(project, timings).filter((s) => s.uses.some((u) => u.timelineId === timeline.id)),
    [project, timings, timeline.id],
  );
  const visit = (id: string, frame: number): void => {
    setPlayhead(id, frame);
    go('timelines', id);
  };
  const nameOf = (id: string): string => project.timelines.find((t) => t.id === id)?.name ?? '';
  return (
    <>
      <h2 className="heading">
        Shown more than once <span className="quiet">{stretches.length === 0 ? 'nothing' : count(stretches.length)}</span>
      </h2>
      <div className={classes.reused} data-testid="reused">
        {stretches.map((s) => (
          <div key={`${s.sourceId} ${s.from}`}>
            <b title={sourceOf(project, s.sourceId)?.name}>{sourceOf(project, s.sourceId)?.name}</b>
            <small className="number quiet">
              {s.from}&ndash;{s.to - 1}
            </small>
            {s.uses.map((u) => (
              <button type="button" key={u.clipId} onClick={() => visit(u.timelineId, u.frame)}>
                <span>{nameOf(u.timelineId)}</span>
                <span className="number quiet">{u.frame}</span>
              </button>
            ))}
          </div>
        ))}
      </div>
    </>
  );
}
