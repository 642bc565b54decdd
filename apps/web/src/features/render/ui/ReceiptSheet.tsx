import { Button, Group } from '@mantine/core';
import { address, type OutputsReply, type ReceiptReply } from '@thawline/contract';
import { isSeries, RECEIPT_WORDS } from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useGo } from '../../../shared/state/places.js';
import { windowId } from '../../../shared/state/window.js';
import { bytes, plural } from '../../../shared/words.js';
import { HandOver } from './HandOver.js';
import classes from './render.module.css';
import { WrongPlaces } from './WrongPlaces.js';

/** Asked beside measured. Nothing here is remembered from the render: all of it was read from the written file. */
export function ReceiptSheet({ receipt, desk }: { receipt: ReceiptReply; desk: OutputsReply['desk'] }) {
  const { id, project } = useProject();
  const go = useGo();
  const [taking, setTaking] = useState(false);
  const { renderId, disk } = receipt;
  /** Takes the render as a source, once, and looks for what holds in it. */
  const check = async (): Promise<void> => {
    const name = receipt.file.replace(/\.\w+$/, '');
    const known = project.sources.find((s) => s.name === name);
    setTaking(true);
    try {
      const { added } = known
        ? { added: [known] }
        : await call('addRender', { parameters: { project: id, job: renderId }, body: { client: windowId() } });
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
  const start = (body: object): void => void call('startJobs', { parameters: { project: id }, body }).catch(tellError);
  const film = !isSeries(receipt.form.kind) && receipt.form.kind !== 'wav';
  return (
    <section className={`sheet ${classes.receipt}`} data-testid="receipt">
      <div className={classes.receiptHead}>
        <div>
          <small className="quiet">Receipt</small>
          <h2>{receipt.timeline}</h2>
          <div className="quiet">
            {receipt.file} &middot; {bytes(receipt.bytes)} &middot; {receipt.formWords}
          </div>
          <div className="quiet">
            measured after writing,{' '}
            {new Date(receipt.madeAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            {receipt.reused !== null &&
              receipt.reused > 0 &&
              `; ${plural(receipt.reused, 'frame', 'frames')} had been written before`}
          </div>
        </div>
        <div className={classes.stamp} data-differs={receipt.differs > 0 || disk !== 'same' || undefined} data-testid="stamp">
          {disk === 'missing'
            ? 'The file is gone'
            : disk === 'changed'
              ? 'Another file now'
              : receipt.differs === 0
                ? 'As asked'
                : plural(receipt.differs, 'thing differs', 'things differ')}
        </div>
      </div>
      {disk !== 'same' && (
        <div className="notice" data-tone="rust" data-testid="disk">
          <Group justify="space-between">
            <span>
              {disk === 'changed'
                ? 'The file on the disk was changed after this was measured: what is told here is of the one before.'
                : `The file is no longer in ${receipt.folder}.`}
            </span>
            {disk === 'changed' && (
              <Button size="compact-xs" variant="default" onClick={() => start({ kind: 'receipt', jobId: renderId })}>
                Measure it again
              </Button>
            )}
          </Group>
        </div>
      )}
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
              <th>{RECEIPT_WORDS[line.what]}</th>
              <td className="number">{line.asked}</td>
              <td className={`number ${line.same ? '' : 'rust'}`}>{line.measured}</td>
              <td className={line.same ? 'moss' : 'rust'}>{line.same ? 'same' : 'look'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {receipt.alike > 0 && (
        <p className="quiet">
          {plural(receipt.alike, 'frame hardly differs', 'frames hardly differ')} from a neighbour and cannot be told from it.
        </p>
      )}
      <WrongPlaces receipt={receipt} onAgain={(anew) => start({ kind: 'rerender', jobId: renderId, anew })} />
      <div className={classes.actions}>
        <Button
          component="a"
          href={address('receiptFile', { project: id, job: receipt.jobId, form: 'html' })}
          target="_blank"
          variant="default"
        >
          Print receipt
        </Button>
        <Button component="a" href={address('receiptFile', { project: id, job: receipt.jobId, form: 'json' })} variant="default">
          Save receipt
        </Button>
        {!isSeries(receipt.form.kind) && (
          <Button component="a" href={address('file', { job: renderId })} variant="default" disabled={disk === 'missing'}>
            Save the file
          </Button>
        )}
        {film && (
          <Button variant="default" onClick={() => void check()} loading={taking} disabled={disk === 'missing'}>
            Check its pictures
          </Button>
        )}
      </div>
      <p className="quiet">
        In <span className="number">{receipt.folder}</span>
        {receipt.files.length > 1 && `: ${receipt.files.join(', ')}`}
      </p>
      <HandOver receipt={receipt} desk={desk} onHand={() => start({ kind: 'deliver', jobId: renderId })} />
    </section>
  );
}
