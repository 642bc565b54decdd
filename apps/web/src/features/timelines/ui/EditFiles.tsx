import { Anchor, Button, Group, Modal, SegmentedControl } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { address, type EditPreviewReply, type OpenEditReply } from '@thawline/contract';
import { formatRate, parseRate } from '@thawline/core/time';
import { type EditForm, lossesOf, type Timeline } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { RateField } from '../../../shared/rates/RateField.js';
import { useGo } from '../../../shared/state/places.js';
import { windowId } from '../../../shared/state/window.js';
import { plural } from '../../../shared/words.js';
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
  const text = useQuery({
    queryKey: ['edit-text', file?.name, file?.size, file?.lastModified],
    queryFn: () => (file as File).text(),
    enabled: file !== null,
  });
  const asked = file && (!list || rate) ? { file: file.name.slice(-255), text: text.data ?? '', rate: list ? rate : null } : null;
  const preview = useQuery({
    queryKey: ['edit-preview', id, asked?.file, file?.size, file?.lastModified, typed],
    queryFn: () => call('previewEdit', { parameters: { project: id }, body: asked as NonNullable<typeof asked> }),
    enabled: asked !== null && text.isSuccess,
    retry: false,
    gcTime: 0,
  });
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
          {preview.error && <p className="rust">{preview.error.message}</p>}
          {preview.data && <Preview of={preview.data} />}
          <p className="quiet">
            The file is only read. Its clips find their sources by name; those that are not here yet are placed all the same and
            can be found afterwards. One undo takes all of it back.
          </p>
          <Group justify="flex-end">
            {!file && <span className="quiet">Choose a file first.</span>}
            {list && !rate && <span className="rust">Say the list's rate: 25, 23.976, 29.97df …</span>}
            <Button disabled={!file || (list && !rate) || preview.isError} loading={busy} onClick={() => void open()}>
              Open it
            </Button>
          </Group>
        </>
      )}
    </Modal>
  );
}

/** Rows that are shown of a list; what is unsure comes first. */
const SHOWN_EVENTS = 300;
const SURE_WORDS = { certain: 'certain', likely: 'likely', unsure: 'look at it' } as const;
const SURE_TONES = { certain: 'moss', likely: 'quiet', unsure: 'sand' } as const;

/** What a file would come to, before it is opened: of a list, which picture each event begins at. */
function Preview({ of: { clips, timelines, events, troubles } }: { of: EditPreviewReply }) {
  const order = { unsure: 0, likely: 1, certain: 2 } as const;
  const rows = [...events].sort((a, b) => order[a.sure] - order[b.sure]).slice(0, SHOWN_EVENTS);
  const [main] = timelines.slice(-1);
  return (
    <div data-testid="edit-preview">
      <p>
        <b className="number">{clips}</b> {clips === 1 ? 'clip' : 'clips'}
        {main && (
          <>
            {' '}
            in {main.name}, <span className="number">{formatRate(main.rate)}</span>
          </>
        )}
        {troubles.length > 0 && <>, {plural(troubles.length, 'remark')}</>}.
      </p>
      {rows.length > 0 && (
        <div className={classes.reportScroll}>
          <table className={classes.report}>
            <thead>
              <tr>
                <th>Where</th>
                <th>Source in</th>
                <th>Source</th>
                <th>Picture</th>
                <th>Sure</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((e, i) => (
                <tr key={i}>
                  <td className="quiet">{e.place}</td>
                  <td className="number">{e.label}</td>
                  <td className={classes.longName}>{e.source}</td>
                  <td className="number">{e.lost ? '\u2013' : e.picture}</td>
                  <td className={e.lost ? 'rust' : SURE_TONES[e.sure]}>{e.lost ? 'not here yet' : SURE_WORDS[e.sure]}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {events.length > rows.length && <p className="quiet">{events.length - rows.length} more events, at least as sure.</p>}
      {troubles.length > 0 && (
        <ul className={classes.troubles}>
          {troubles.map((t, i) => (
            <li key={i}>{t.sentence}</li>
          ))}
        </ul>
      )}
    </div>
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
