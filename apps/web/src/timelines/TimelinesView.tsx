import { Button, Group, Menu } from '@mantine/core';
import { IconDots, IconPlus } from '@tabler/icons-react';
import { formatRate } from '@thawline/core/time';
import { timelineLength } from '@thawline/project';
import { useEffect, useMemo, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { useProject } from '../api/project.js';
import { useGo } from '../state/places.js';
import { useView } from '../state/view.js';
import { ClipPanel } from './ClipPanel.js';
import { findings } from './findings.js';
import { Lanes } from './Lanes.js';
import { TimelineForm } from './TimelineForm.js';
import { TimelineKeys } from './TimelineKeys.js';
import classes from './timelines.module.css';
import { Viewer } from './Viewer.js';
import { WeavePanel } from './WeavePanel.js';

/** Timelines, each with its own rate: viewer, the chosen clip's fits, lanes, weave. */
export function TimelinesView() {
  const { project, run, timings } = useProject();
  const { timeline: id, clip: clipId } = useParams();
  const go = useGo();
  const [form, setForm] = useState<'new' | 'edit' | null>(null);
  const last = useView((s) => s.lastTimeline);
  const timeline = project.timelines.find((t) => t.id === (id ?? last)) ?? project.timelines[0];
  useEffect(() => {
    if (timeline && timeline.id !== id) go('timelines', timeline.id);
  }, [timeline, id, go]);
  const [frame, setFrame] = usePlayhead(timeline?.id, timeline ? Math.max(0, timelineLength(timeline) - 1) : 0);
  const hitches = useMemo(() => (timeline ? findings(project, timeline, timings) : []), [project, timeline, timings]);
  if (!timeline) {
    return (
      <div className={classes.empty}>
        <h2>No timeline yet</h2>
        <p className="quiet">
          Choose its rate from where the programme goes and from what the dialogue runs at. It can differ from every source: each
          source keeps its own rate, and the weave shows what that costs.
        </p>
        <Button onClick={() => setForm('new')}>New timeline</Button>
        {form && <TimelineForm timeline={null} onClose={() => setForm(null)} />}
      </div>
    );
  }
  const clip = timeline.clips.find((c) => c.id === clipId) ?? null;
  return (
    <div className={classes.view}>
      <TimelineKeys timeline={timeline} clip={clip} frame={frame} setFrame={setFrame} hitches={hitches} />
      <Group gap="xs" className={classes.tabs ?? ''}>
        {project.timelines.map((t) => (
          <button
            type="button"
            key={t.id}
            className={classes.tab}
            aria-pressed={t.id === timeline.id}
            onClick={() => go('timelines', t.id)}
            title={t.name}
          >
            <span>{t.name}</span> <b className="number">{formatRate(t.rate)}</b>
          </button>
        ))}
        <Button variant="default" size="compact-md" leftSection={<IconPlus size={15} />} onClick={() => setForm('new')}>
          Timeline
        </Button>
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="default" size="compact-md" aria-label="More for this timeline" ml="auto">
              <IconDots size={16} />
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => setForm('edit')}>Name, rate, frame size</Menu.Item>
            <Menu.Item
              onClick={async () => {
                if (await run({ type: 'removeTimeline', timelineId: timeline.id })) go('timelines');
              }}
            >
              Remove {timeline.name}
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <Button size="compact-md" variant="default" onClick={() => go('render')}>
          Render
        </Button>
      </Group>
      <div className={classes.top}>
        <Viewer timeline={timeline} frame={frame} setFrame={setFrame} />
        <ClipPanel timeline={timeline} clip={clip} frame={frame} />
      </div>
      <section className={`sheet ${classes.bottom}`}>
        <Lanes timeline={timeline} frame={frame} setFrame={setFrame} chosen={clip?.id ?? null} />
        <WeavePanel timeline={timeline} frame={frame} setFrame={setFrame} chosen={clip} hitches={hitches} />
      </section>
      {form && <TimelineForm timeline={form === 'edit' ? timeline : null} onClose={() => setForm(null)} />}
    </div>
  );
}

/** The playhead: kept by this browser while it runs, and in the address (?f=) so that reload and links keep the place. */
function usePlayhead(timeline: string | undefined, last: number): [number, (frame: number) => void] {
  const [search, setSearch] = useSearchParams();
  const known = useView((s) => (timeline ? s.playheads[timeline] : undefined));
  const setPlayhead = useView((s) => s.setPlayhead);
  const asked = Number(search.get('f') ?? 0);
  const frame = Math.min(Math.max(0, known ?? (Number.isInteger(asked) ? asked : 0)), last);
  useEffect(() => {
    const timer = setTimeout(() => {
      if (search.get('f') !== String(frame)) setSearch({ f: String(frame) }, { replace: true });
    }, 200);
    return () => clearTimeout(timer);
  }, [frame, search, setSearch]);
  return [frame, (next) => timeline && setPlayhead(timeline, Math.min(Math.max(0, next), last))];
}
