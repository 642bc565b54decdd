import { Button } from '@mantine/core';
import { type FileFacts, type OutputsReply, objections, type ReceiptReply, reasonSentence } from '@thawline/contract';
import { FORMS } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';
import { JobLine } from '../../../shared/jobs/JobLine.js';
import classes from './render.module.css';

interface Props {
  readonly receipt: ReceiptReply;
  readonly desk: OutputsReply['desk'];
  readonly onHand: () => void;
}

/** The intake desk: what it takes, what it would say, and what it said. */
export function HandOver({ receipt, desk, onHand }: Props) {
  const { id, project } = useProject();
  const jobs = useJobs(id).filter((j) => j.kind === 'deliver' && j.subject === receipt.renderId);
  const current = jobs.find((j) => j.state !== 'done');
  if (!desk) return null;
  const timeline = project.timelines.find((t) => t.id === receipt.timelineId);
  const one = FORMS[receipt.form.kind].sound !== 'beside';
  const measured = (what: ReceiptReply['lines'][number]['what']) => receipt.lines.find((l) => l.what === what);
  // Foreseen from the receipt; what the desk itself measures is its own to say.
  const foreseen =
    desk.spec && timeline
      ? objections(desk.spec, {
          name: receipt.file,
          rate: receipt.rate,
          even: measured('timing')?.same ?? true,
          width: timeline.width,
          height: timeline.height,
          bytes: receipt.bytes,
          loudness: receipt.loudness,
          peak: receipt.peak,
          held: null,
          fields: framesOf(measured('fields')?.measured),
          timecode: measured('timecode')?.measured ?? null,
        })
      : [];
  return (
    <div className={classes.desk} data-testid="desk">
      <div className={classes.deskLine}>
        <Button variant="default" disabled={!desk.spec || !one || receipt.disk !== 'same'} onClick={onHand}>
          Hand to the intake desk
        </Button>
        <span className="quiet">
          {desk.spec ? `${desk.spec.name}: takes ${desk.words}` : `The intake desk at ${desk.address} does not answer.`}
          {!one && ' One file is handed over: render as MP4, MOV, WebM or Matroska.'}
        </span>
      </div>
      {foreseen.length > 0 && one && (
        <p className="rust" data-testid="foreseen">
          It will not take this: {foreseen.map(reasonSentence).join(' ')}
        </p>
      )}
      {current && <JobLine job={current} />}
      {receipt.deliveries.slice(0, 3).map((delivery) => (
        <p
          key={delivery.jobId}
          className={delivery.accepted ? 'moss' : 'rust'}
          data-testid="delivery"
          data-accepted={delivery.accepted}
        >
          {delivery.accepted ? 'The desk accepted it' : `The desk refused it: ${delivery.reasons.join(' ')}`}
          <span className="quiet"> {new Date(delivery.at).toLocaleTimeString('en-GB', { timeStyle: 'short' })}</span>
        </p>
      ))}
    </div>
  );
}

/** What a receipt says of a file's frames: no line of it stands for whole pictures. */
function framesOf(measured = ''): FileFacts['fields'] {
  const said = measured.startsWith('top') ? 'top' : measured.startsWith('bottom') ? 'bottom' : 'whole';
  return { said, found: null };
}
