import { Button, Group, Progress, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { ImportedReply } from '@thawline/contract';
import { useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { sendFile } from '../../../api/uploads.js';
import { place } from '../../../shared/state/places.js';
import { bytes } from '../../../shared/words.js';
import classes from './projects.module.css';

/** A new project by its name, or one that comes out of a project file. */
export function NewProject() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [sending, setSending] = useState<{ readonly sent: number; readonly bytes: number } | null>(null);
  const [opened, setOpened] = useState<ImportedReply | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const create = async (): Promise<void> => {
    try {
      const made = await call('createProject', { body: { name: name.trim() || 'Untitled' } });
      void client.invalidateQueries({ queryKey: ['projects'] });
      void navigate(place(made.id, 'sources'));
    } catch (error) {
      tellError(error);
    }
  };
  const open = async (file: File): Promise<void> => {
    setOpened(null);
    setSending({ sent: 0, bytes: file.size });
    try {
      const upload = await sendFile(file, (sent) => setSending({ sent, bytes: file.size })).done;
      const reply = await call('importProject', { body: { upload } });
      void client.invalidateQueries({ queryKey: ['projects'] });
      setOpened(reply);
    } catch (error) {
      tellError(error);
    } finally {
      setSending(null);
    }
  };
  return (
    <>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void create();
        }}
      >
        <Group gap="xs" mt="md" wrap="nowrap">
          <TextInput
            aria-label="Name of the new project"
            placeholder="Name"
            value={name}
            onChange={(e) => setName(e.currentTarget.value)}
            maxLength={120}
            flex={1}
          />
          <Button type="submit">New project</Button>
          <Button variant="default" disabled={sending !== null} onClick={() => chooser.current?.click()}>
            Open a project file
          </Button>
        </Group>
      </form>
      <input
        ref={chooser}
        type="file"
        hidden
        accept=".zip,application/zip"
        aria-label="Project file to open"
        onChange={(e) => {
          const file = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          if (file) void open(file);
        }}
      />
      {sending && (
        <div className={classes.sending} role="status">
          {sending.sent < sending.bytes ? `Sending ${bytes(sending.sent)} of ${bytes(sending.bytes)}` : 'Looking through it'}
          <Progress value={(100 * sending.sent) / Math.max(1, sending.bytes)} size="sm" mt={6} />
        </div>
      )}
      {opened && (
        <div className={`notice ${classes.sending}`} data-tone={opened.notes.length > 0 ? 'rust' : 'moss'} role="status">
          <Link to={place(opened.id, 'sources')}>{opened.name}</Link> is here.{' '}
          {opened.notes.length === 0 ? 'All of it came along.' : opened.notes.join(' ')}
        </div>
      )}
    </>
  );
}
