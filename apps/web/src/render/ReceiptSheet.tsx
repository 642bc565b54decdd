import { Button, Group } from '@mantine/core';
import { address, type ReceiptReply } from '@thawline/contract';
import { formatTimecode } from '@thawline/core/time';
import { useState } from 'react';
import { call } from '../api/client.js';
import { tellError, useProject } from '../api/project.js';
import { useGo } from '../state/places.js';
import { useView } from '../state/view.js';
import { bytes, plural } from '../words.js';
import classes from './render.module.css';

const NAMES: Record<ReceiptReply['lines'][number]['what'], string> = {
  rate: 'Rate',
  frames: 'Frames',
  length: 'Length',
  timing: 'Timing',
  size: 'Size',
  sound: 'Sound',
  pictures: 'Which picture each frame shows',
};

/** Asked beside measured. Nothing here is remembered from the render: all of it was read from the written file. */
export function ReceiptSheet({ receipt }: { receipt: ReceiptReply }) {
  const { id, project } = useProject();
  const go = useGo();
  const setPlayhead = useView((s) => s.setPlayhead);
  const timeline = project.timelines.find((t) => t.id === receipt.timelineId);
  const [taking, setTaking] = useState(false);
  /** Takes the render as a source, once, and looks for what holds in it. */
  const check = async (): Promise<void> => {
    const name = receipt.file.replace(/\.\w+$/, '');
    const known = project.sources.find((s) => s.name === name);
    setTaking(true);
    try {
      const { added } = known ? { added: [known] } : await call('addRender', { parameters: { project: id, job: receipt.jobId } });
      const [source] = added;
      if (!source) return;
      if (!known) await call('startJobs', { parameters: { project: id }, body: { kind: 'check', sourceIds: [source.id] } });
      go('check', source.id);
    } catch (error) {
      tellError(error);
    } finally {
      setTaking(false);
    }
  };
  return (
    <section className={`sheet ${classes.receipt}`} data-testid="receipt">
      <div className={classes.receiptHead}>
        <div>
          <small className="quiet">Receipt</small>
          <h2>{receipt.timeline}</h2>
          <div className="quiet">
            {receipt.file} &middot; {bytes(receipt.bytes)} &middot; measured after writing
          </div>
        </div>
        <div className={classes.stamp} data-differs={receipt.differs > 0 || undefined} data-testid="stamp">
          {receipt.differs === 0 ? 'As asked' : `${plural(receipt.differs, 'thing differs', 'things differ')}`}
        </div>
      </div>
      <table className={classes.lines}>
        <thead>
          <tr>
            <th />
            <th>Asked</th>
            <th>Measured</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {receipt.lines.map((line) => (
            <tr key={line.what} data-testid={`line-${line.what}`} data-same={line.same}>
              <th>{NAMES[line.what]}</th>
              <td className="number">{line.asked}</td>
              <td className={`number ${line.same ? '' : 'rust'}`}>{line.measured}</td>
              <td className={line.same ? 'moss' : 'rust'}>{line.same ? 'same' : 'look'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {receipt.wrong.slice(0, 12).map((wrong) => (
        <div key={wrong.frame} className="notice" data-tone="rust">
          <Group justify="space-between">
            <span>
              Frame <b className="number">{timeline ? formatTimecode(wrong.frame, timeline.rate) : wrong.frame}</b> shows what
              frame <b className="number">{timeline ? formatTimecode(wrong.shows, timeline.rate) : wrong.shows}</b> should.
            </span>
            {timeline && (
              <Button
                size="compact-xs"
                variant="default"
                onClick={() => {
                  setPlayhead(timeline.id, wrong.frame);
                  go('timelines', timeline.id);
                }}
              >
                Go there
              </Button>
            )}
          </Group>
        </div>
      ))}
      <Group mt="md">
        <Button component="a" href={address('file', { job: receipt.jobId })} variant="default">
          Save the file
        </Button>
        <Button variant="default" onClick={() => void check()} loading={taking}>
          Check its pictures
        </Button>
      </Group>
    </section>
  );
}
