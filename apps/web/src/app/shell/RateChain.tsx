import { Popover } from '@mantine/core';
import { formatDecimalRate, formatRate, rateToNumber, sameRate } from '@thawline/core/time';
import { otherRate, type Timeline, writtenFrames } from '@thawline/project';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { useProject } from '../../api/ProjectProvider.js';
import { mismatches, ratesOf } from '../../shared/rates/rateMismatches.js';
import { frameRateLabel } from '../../shared/rates/rates.js';
import { place } from '../../shared/state/places.js';
import { useRenderWishes } from '../../shared/state/renderWishes.js';
import { useView, type ViewingSpeed } from '../../shared/state/view.js';
import { plural } from '../../shared/words.js';
import classes from './shell.module.css';

/** Sources > Timeline > Viewing > Render, each with its rate. A kinked join says that two neighbours do not match, and why. */
export function RateChain() {
  const { id, project, timings } = useProject();
  const last = useView((s) => s.lastTimeline);
  const timeline = project.timelines.find((t) => t.id === last) ?? project.timelines[0];
  const speed = useView((s) => s.viewingSpeed);
  const rates = useMemo(() => ratesOf(project), [project]);
  const odd = useMemo(() => (timeline ? mismatches(project, timeline, timings) : []), [project, timeline, timings]);
  const form = useRenderWishes((s) => s.form);
  const written = timeline && writtenFrames(form, timeline);
  // Film by 2:3 has a rate of its own, and nothing is lost by it.
  const other = timeline && otherRate(timeline, form.rate) && written && sameRate(written.rate, form.rate);
  const rate = timeline ? frameRateLabel(timeline) : '\u2013';
  const sources = rates.length === 0 ? '\u2013' : rates.length === 1 ? rates[0] : `${rates.length} rates`;
  return (
    <div className={classes.chain} data-testid="rate-chain">
      <Link className={classes.link} to={place(id, 'sources')}>
        <small>Sources</small>
        <b>{sources}</b>
      </Link>
      <Join
        kinked={odd.length > 0}
        label={`Sources and timeline: ${odd.length > 0 ? plural(odd.length, 'clip does', 'clips do') : 'all clips'} ${odd.length > 0 ? 'not match' : 'match'}`}
      >
        <b>
          {plural(odd.length, 'clip does', 'clips do')} not run at {rate}
        </b>
        <div className={classes.odd}>
          {odd.map((m) => (
            <div key={m.clipId}>
              <Link to={place(id, 'timelines', timeline?.id, m.clipId)}>{m.name}</Link>{' '}
              <span className="number quiet">{m.sourceRate}</span>:{' '}
              {m.hitches > 0
                ? `${plural(m.hitches, 'hitch', 'hitches')}, ${m.perSecond.toFixed(2)} a second`
                : m.fit === 'nearest'
                  ? 'even, no hitches'
                  : m.fit === 'blend'
                    ? 'blended'
                    : 'keeps pictures'}
            </div>
          ))}
        </div>
        <div className="quiet">Choose a clip on the timeline to compare its fits.</div>
      </Join>
      <Link className={classes.link} to={place(id, 'timelines', timeline?.id)}>
        <small>{timeline ? `Timeline \u00b7 ${timeline.name}` : 'Timeline'}</small>
        <b>{rate}</b>
      </Link>
      <Join kinked={false} label="The viewer plays the timeline's own frames; its speed is for looking only" />
      <Link
        className={classes.link}
        to={place(id, 'timelines', timeline?.id)}
        title="What the viewer plays at. For looking only: it never reaches the render"
        data-testid="viewing"
      >
        <small>Viewing only</small>
        <b>{timeline ? viewing(timeline, speed) : rate}</b>
      </Link>
      <Join
        kinked={other === true}
        label={other ? 'The render has another rate than the timeline' : "The render has the timeline's rate"}
      >
        <b>
          The render is asked for at {written ? frameRateLabel(written) : rate}, the timeline runs at {rate}
        </b>
        <div>
          Frames are held, skipped or made between the timeline's: the Render view draws which. Carrying the edit to that rate is
          usually better.
        </div>
      </Join>
      <Link className={classes.link} to={place(id, 'render')}>
        <small>Render</small>
        <b>{written ? frameRateLabel(written) : rate}</b>
      </Link>
    </div>
  );
}

/** The viewing rate and how it comes about: "50, 25 times 2". */
function viewing(timeline: Timeline, speed: ViewingSpeed): string {
  const rate = rateToNumber(timeline.rate) * speed;
  return speed === 1 ? formatRate(timeline.rate) : `${formatDecimalRate(rate)} \u00b7 \u00d7${speed === 0.5 ? '\u00bd' : speed}`;
}

function Join({ kinked, label, children }: { kinked: boolean; label: string; children?: React.ReactNode }) {
  return (
    <Popover width={340} shadow="md" disabled={!kinked}>
      <Popover.Target>
        <button
          type="button"
          className={classes.join}
          aria-label={label}
          title={label}
          disabled={!kinked}
          data-kinked={kinked || undefined}
        >
          <svg viewBox="0 0 36 22" width="100%" height="22" preserveAspectRatio="none" fill="none" aria-hidden="true">
            <path
              d={kinked ? 'M1 11h9l5-8 6 16 5-8h9' : 'M1 11h34'}
              stroke={kinked ? 'var(--rust)' : 'var(--ink)'}
              strokeWidth="2"
              strokeLinejoin="round"
            />
          </svg>
        </button>
      </Popover.Target>
      <Popover.Dropdown>{children}</Popover.Dropdown>
    </Popover>
  );
}
