import { Button, SegmentedControl, Select } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { ReceiptReply } from '@thawline/contract';
import { sourceOf } from '@thawline/project';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';
import { frameRateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { type RenderScope, useRenderWishes } from '../../../shared/state/renderWishes.js';
import { useView } from '../../../shared/state/view.js';
import { plural } from '../../../shared/words.js';
import { FormCard } from './form/FormCard.js';
import { KeptParts } from './KeptParts.js';
import { PriceCard } from './PriceCard.js';
import { Queue } from './Queue.js';
import { ReceiptSheet } from './ReceiptSheet.js';
import classes from './render.module.css';

/** What is sent: a timeline's price before, the queue, and the receipt of what came out. */
export function RenderView() {
  const { id, project } = useProject();
  const { job: open } = useParams();
  const go = useGo();
  const last = useView((s) => s.lastTimeline);
  const setLast = useView((s) => s.setLastTimeline);
  const chosenClips = useView((s) => s.chosenClips);
  const { part, set } = useRenderWishes();
  // The progress of trials is shown beside the price.
  const jobs = useJobs(id).filter((j) => j.kind !== 'trial');
  const receipts = useQuery({ queryKey: ['receipts', id], queryFn: () => call('receipts', { parameters: { project: id } }) });
  const outputs = useQuery({ queryKey: ['outputs'], queryFn: () => call('outputs') });
  const timeline = project.timelines.find((t) => t.id === last) ?? project.timelines[0];
  const receipt = receipts.data?.find((r) => r.jobId === open) ?? receipts.data?.[0];
  if (!timeline) {
    return (
      <div className={classes.empty}>
        <h2>Nothing to render yet</h2>
        <p className="quiet">A render writes a timeline at exactly its rate and measures the file afterwards.</p>
        <Button onClick={() => go('timelines')}>Make a timeline</Button>
      </div>
    );
  }
  const clip = timeline.clips.find((c) => chosenClips.includes(c.id));
  const clipName = clip && (sourceOf(project, clip.sourceId)?.name ?? 'clip');
  const parts: { value: RenderScope; label: string }[] = [
    { value: 'all', label: 'All of it' },
    ...(timeline.range ? [{ value: 'range' as const, label: 'In to out' }] : []),
    ...(clip ? [{ value: 'clip' as const, label: `Only ${clipName}` }] : []),
  ];
  return (
    <div className={classes.view}>
      <div className={classes.left}>
        <section className={`sheet ${classes.card}`}>
          <Select
            label="Timeline"
            data={project.timelines.map((t) => ({ value: t.id, label: `${t.name} \u00b7 ${frameRateLabel(t)}` }))}
            value={timeline.id}
            allowDeselect={false}
            onChange={(value) => value && setLast(value)}
          />
          {parts.length > 1 && (
            <SegmentedControl
              size="xs"
              mt="xs"
              data={parts}
              value={parts.some((p) => p.value === part) ? part : 'all'}
              onChange={(value) => set({ part: value as RenderScope })}
            />
          )}
          <FormCard key={timeline.id} timeline={timeline} outputs={outputs.data} />
          <PriceCard timeline={timeline} clipId={clip?.id} />
        </section>
        <Queue jobs={jobs} />
        {(receipts.data?.length ?? 0) > 1 && (
          <Receipts receipts={receipts.data ?? []} current={receipt?.jobId} onOpen={(job) => go('render', job)} />
        )}
        <KeptParts renders={receipts.data?.length ?? 0} />
      </div>
      {receipt ? (
        <ReceiptSheet key={receipt.jobId} receipt={receipt} desk={outputs.data?.desk ?? null} />
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

interface ReceiptsProps {
  readonly receipts: readonly ReceiptReply[];
  readonly current: string | undefined;
  readonly onOpen: (job: string) => void;
}

function Receipts({ receipts, current, onOpen }: ReceiptsProps) {
  return (
    <section className={`sheet ${classes.card}`}>
      <h2 className="heading">Receipts</h2>
      <div className={classes.pasts}>
        {receipts.map((r) => (
          <button
            type="button"
            key={r.jobId}
            className={classes.past}
            aria-current={r.jobId === current}
            onClick={() => onOpen(r.jobId)}
          >
            <span className={classes.pastName}>
              {r.timeline}
              {r.jobId === r.renderId ? '' : ', measured again'}
            </span>
            <span className={r.disk !== 'same' || r.differs > 0 ? 'rust' : 'moss'}>
              {r.disk === 'missing'
                ? 'gone'
                : r.disk === 'changed'
                  ? 'changed'
                  : r.differs === 0
                    ? 'as asked'
                    : plural(r.differs, 'differs', 'differ')}
            </span>
          </button>
        ))}
      </div>
    </section>
  );
}
