import { DndContext, type DragEndEvent, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import { ActionIcon } from '@mantine/core';
import { IconArrowDown, IconArrowUp, IconGripVertical } from '@tabler/icons-react';
import { useQueryClient } from '@tanstack/react-query';
import type { JobReply } from '@thawline/contract';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { JobLine } from '../../../shared/jobs/JobLine.js';
import classes from './render.module.css';

/** Ended jobs are shown up to so many. */
const ENDED = 4;

/** What runs, what waits in its order, and what failed. */
export function Queue({ jobs }: { jobs: readonly JobReply[] }) {
  const { id } = useProject();
  const client = useQueryClient();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const running = jobs.filter((j) => j.state === 'running');
  const waiting = jobs.filter((j) => j.state === 'queued' || j.state === 'paused').reverse();
  const ended = jobs.filter((j) => j.kind === 'render' && (j.state === 'failed' || j.state === 'cancelled')).slice(0, ENDED);
  const move = (job: string, before: string | null): void => {
    if (job === before) return;
    call('moveJob', { parameters: { job }, body: { before } })
      .then(() => client.invalidateQueries({ queryKey: ['jobs', id] }))
      .catch(tellError);
  };
  const drop = ({ active, over }: DragEndEvent): void => {
    if (over) move(String(active.id), over.id === LAST ? null : String(over.id));
  };
  return (
    <section className={`sheet ${classes.card}`} data-testid="queue">
      <h2 className="heading">Running and waiting</h2>
      {running.length + waiting.length === 0 && (
        <p className="quiet">Nothing. A render shows its progress here; it can be paused and stopped.</p>
      )}
      {running.map((job) => (
        <div key={job.id} className={classes.job}>
          <JobLine job={job} looks />
        </div>
      ))}
      <DndContext sensors={sensors} onDragEnd={drop}>
        {waiting.map((job, i) => (
          <Waiting
            key={job.id}
            job={job}
            alone={waiting.length < 2}
            earlier={i > 0 ? () => move(job.id, waiting[i - 1]?.id ?? null) : null}
            later={i < waiting.length - 1 ? () => move(job.id, waiting[i + 2]?.id ?? null) : null}
          />
        ))}
        {waiting.length > 1 && <Last />}
      </DndContext>
      {ended.map((job) => (
        <div key={job.id} className={classes.job}>
          <JobLine job={job} />
        </div>
      ))}
    </section>
  );
}

const LAST = 'last';

interface WaitingProps {
  readonly job: JobReply;
  readonly alone: boolean;
  readonly earlier: (() => void) | null;
  readonly later: (() => void) | null;
}

/** A job that can be dragged before another one, or sent there by its buttons. */
function Waiting({ job, alone, earlier, later }: WaitingProps) {
  const drag = useDraggable({ id: job.id });
  const spot = useDroppable({ id: job.id });
  const { transform } = drag;
  return (
    <div ref={spot.setNodeRef} className={classes.job} data-over={spot.isOver || undefined}>
      <div
        ref={drag.setNodeRef}
        className={classes.waiting}
        style={transform ? { transform: `translate(0, ${transform.y}px)`, zIndex: 2 } : undefined}
      >
        {!alone && (
          <span className={classes.grip} {...drag.listeners} data-testid="grip" title="Drag to another place">
            <IconGripVertical size={15} />
          </span>
        )}
        <div className={classes.grows}>
          <JobLine job={job} />
        </div>
        {!alone && (
          <span className={classes.steps}>
            <Step does={`Let ${job.label} come earlier`} to={earlier} icon={<IconArrowUp size={13} />} />
            <Step does={`Let ${job.label} come later`} to={later} icon={<IconArrowDown size={13} />} />
          </span>
        )}
      </div>
    </div>
  );
}

function Step({ does, to, icon }: { does: string; to: (() => void) | null; icon: React.ReactNode }) {
  return (
    <ActionIcon variant="subtle" size="xs" color="gray" aria-label={does} disabled={!to} onClick={() => to?.()}>
      {icon}
    </ActionIcon>
  );
}

/** Behind all that wait. */
function Last() {
  const { setNodeRef, isOver } = useDroppable({ id: LAST });
  return <div ref={setNodeRef} className={classes.last} data-over={isOver || undefined} />;
}
