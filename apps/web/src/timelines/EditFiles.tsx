import { Anchor, Button, Group, Modal, SegmentedControl } from '@mantine/core';
import { address, type OpenEditReply } from '@thawline/contract';
import { parseRate } from '@thawline/core/time';
import { type EditForm, lossesOf, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { call } from '../api/client.js';
import { tellError, useProject } from '../api/project.js';
import { RateField } from '../rates/RateField.js';
import { useGo } from '../state/places.js';
import { windowId } from '../state/window.js';
import { plural } from '../words.js';
import classes from './sheets.module.css';

/** Opens an OpenTimelineIO or CMX 3600 file: the good part as timelines, what is wrong with its place. */
export function OpenEditSheet({ onClose }: { onClose: () => void }) {
  const { id, take } = useProject();
  const go = useGo();
  const [file, setFile] = useState<File | null>(null);
  const [typed, setTyped] = useState('25');
  const [reply, setReply] = useState<OpenEditReply | null>(null);
  const [busy, setBusy] = useState(false);
  const list = file !== null && /\.edl$/i.test(file.name);
  const rate = parseRate(typed);
  const drop = useDropzone({ multiple: false, onDrop: ([first]) => setFile(first ?? null) });
  const open = async (): Promise<void> => {
    if (!file || (list && !rate)) return;
    setBusy(true);
    try {
      const body = { file: file.name.slice(-255), text: await file.text(), rate: list ? rate : null, client: windowId() };
      const opened = await call('openEdit', { parameters: { project: id }, body });
      take(opened.change);
      go('timelines', opened.timelineId);
      if (opened.troubles.length === 0) onClose();
      else setReply(opened);
    } catch (error) {
      tellError(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal
      opened
      onClose={onClose}
      title={reply ? `Opened with ${plural(reply.troubles.length, 'remark')}` : 'Open an edit file'}
      size="lg"
    >
      {reply ? (
        <>
          <p>{plural(reply.clips, 'clip')} opened. What follows could not be taken as it stands:</p>
          <ul className={classes.troubles} data-testid="troubles">
            {reply.troubles.map((t, i) => (
              <li key={i}>{t.sentence}</li>
            ))}
          </ul>
          <Group justify="flex-end">
            <Button onClick={onClose}>Go on</Button>
          </Group>
        </>
      ) : (
        <>
          <div {...drop.getRootProps()} className={classes.drop} data-over={drop.isDragActive || undefined}>
            <input {...drop.getInputProps()} aria-label="Edit file" accept=".otio,.edl,.json,.txt" />
            {file ? <b>{file.name}</b> : 'Drop an .otio or .edl file here, or press to choose one.'}
          </div>
          {list && (
            <>
              <p className="quiet">An edit list does not say which rate its timecode counts in:</p>
              <RateField label="Rate of the list" typed={typed} onType={setTyped} what="frames" />
            </>
          )}
          <p className="quiet">
            The file is only read. Its clips find their sources by name; those that are not here yet are placed all the same and
            can be found afterwards. One undo takes all of it back.
          </p>
          <Group justify="flex-end">
            <Button disabled={!file || (list && !rate)} loading={busy} onClick={() => void open()}>
              Open it
            </Button>
          </Group>
        </>
      )}
    </Modal>
  );
}

/** Saves a timeline as an edit file: first what that form cannot say. */
export function SaveEditSheet({ timeline, onClose }: { timeline: Timeline; onClose: () => void }) {
  const { id, project } = useProject();
  const [form, setForm] = useState<EditForm>('otio');
  const losses = useMemo(() => lossesOf(project, timeline, form), [project, timeline, form]);
  return (
    <Modal opened onClose={onClose} title={`Save ${timeline.name} as an edit file`} size="lg">
      <SegmentedControl
        data={[
          { value: 'otio', label: 'OpenTimelineIO (.otio)' },
          { value: 'edl', label: 'CMX 3600 list (.edl)' },
        ]}
        value={form}
        onChange={(value) => setForm(value as EditForm)}
      />
      {losses.length === 0 ? (
        <p className="moss" data-testid="losses">
          Everything on this timeline can be said in this form.
        </p>
      ) : (
        <>
          <p>What this form cannot say:</p>
          <ul className={classes.troubles} data-testid="losses">
            {losses.map((loss) => (
              <li key={loss}>{loss}</li>
            ))}
          </ul>
        </>
      )}
      <Group justify="flex-end" mt="md">
        <Anchor
          href={address('saveEdit', { project: id, timeline: timeline.id, form })}
          download
          className={classes.save ?? ''}
          onClick={onClose}
        >
          Save the {form === 'otio' ? '.otio' : '.edl'} file
        </Anchor>
      </Group>
    </Modal>
  );
}
