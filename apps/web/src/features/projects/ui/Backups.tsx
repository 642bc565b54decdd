import { Button, Loader } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { BackupReply, RestoredReply } from '@thawline/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { place } from '../../../shared/state/places.js';
import { bytes, plural } from '../../../shared/words.js';
import classes from './projects.module.css';

const REASONS: Record<BackupReply['reason'], string> = {
  daily: 'first change of the day',
  'before-update': 'before an update',
  'by-hand': 'made by hand',
};

/** "28 Nov 2026, 09:30" in the person's own time. */
function when(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
}

/** Copies of the database, and bringing a project of one back beside the present ones. */
export function Backups() {
  const client = useQueryClient();
  const backups = useQuery({ queryKey: ['backups'], queryFn: () => call('backups') });
  const [open, setOpen] = useState<string | null>(null);
  const [restored, setRestored] = useState<RestoredReply['projects']>([]);
  const make = useMutation({
    mutationFn: () => call('makeBackup', { body: {} }),
    onSuccess: () =>
      client.invalidateQueries({ queryKey: ['backups'] }).then(() => client.invalidateQueries({ queryKey: ['storage'] })),
    onError: tellError,
  });
  return (
    <section className={`sheet ${classes.card}`} aria-label="Backups">
      <h2 className="heading">Backups</h2>
      <p className="quiet">
        One is made with the first change of each day and before every update. A project of one comes back beside the present
        ones; nothing is written over. Files of sources are not in them.
      </p>
      {backups.isPending && <Loader size="sm" />}
      {backups.data?.length === 0 && <p className="quiet">There is none yet.</p>}
      {restored.map(({ id, name }) => (
        <div key={id} className="notice" data-tone="moss" role="status">
          <Link to={place(id, 'sources')}>{name}</Link> is back.
        </div>
      ))}
      {backups.data?.map(({ name, at, reason, bytes: size }) => (
        <div key={name} className={classes.backup}>
          <button
            type="button"
            className={classes.unfold}
            aria-expanded={open === name}
            onClick={() => setOpen(open === name ? null : name)}
          >
            <b className="number">{when(at)}</b>
            <span className="quiet">{REASONS[reason]}</span>
            <span className="number quiet">{bytes(size)}</span>
          </button>
          {open === name && <BackupProjects backup={name} onRestored={setRestored} />}
        </div>
      ))}
      <Button variant="default" size="compact-sm" mt="md" loading={make.isPending} onClick={() => make.mutate()}>
        Make a backup now
      </Button>
    </section>
  );
}

function BackupProjects({ backup, onRestored }: { backup: string; onRestored: (projects: RestoredReply['projects']) => void }) {
  const client = useQueryClient();
  const parameters = { backup };
  const projects = useQuery({ queryKey: ['backup', backup], queryFn: () => call('backupProjects', { parameters }) });
  const restore = useMutation({
    mutationFn: (projectId: string) => call('restoreBackup', { parameters, body: { projectId } }),
    onSuccess: (reply) => {
      onRestored(reply.projects);
      void client.invalidateQueries({ queryKey: ['projects'] });
    },
    onError: tellError,
  });
  if (projects.isPending) return <Loader size="sm" />;
  if (projects.isError) return <div className="notice">{projects.error.message}</div>;
  return (
    <>
      {projects.data.length === 0 && <p className="quiet">It holds no project.</p>}
      {projects.data.map(({ id, name, sources, timelines, steps }) => (
        <div key={id} className={classes.project}>
          <span className={classes.held}>
            <b>{name}</b>
            <span className="quiet">
              {plural(sources, 'source')}, {plural(timelines, 'timeline')}, {plural(steps, 'step')}
            </span>
          </span>
          <Button
            variant="default"
            size="compact-sm"
            disabled={restore.isPending}
            aria-label={`Bring ${name} back`}
            onClick={() => restore.mutate(id)}
          >
            Bring back
          </Button>
        </div>
      ))}
    </>
  );
}
