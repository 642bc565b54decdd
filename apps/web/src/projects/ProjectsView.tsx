import { Button, Group, Loader, TextInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call } from '../api/client.js';
import { tellError } from '../api/project.js';
import { place } from '../state/places.js';
import { plural } from '../words.js';
import classes from './projects.module.css';

/** The way in: projects there are, and a new one. */
export function ProjectsView() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: () => call('listProjects') });
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = async (): Promise<void> => {
    try {
      const made = await call('createProject', { body: { name: name.trim() || 'Untitled' } });
      void client.invalidateQueries({ queryKey: ['projects'] });
      void navigate(place(made.id, 'sources'));
    } catch (error) {
      tellError(error);
    }
  };
  return (
    <main className={classes.page}>
      <div className={classes.brand}>
        <img src="/mark.svg" alt="" width={34} height={34} />
        <div>
          <h1>Thawline</h1>
          <p className="quiet">What rate a file stores, what it measures, what is true.</p>
        </div>
      </div>
      <section className={`sheet ${classes.card}`}>
        <h2 className="heading">Projects</h2>
        {projects.isPending && <Loader size="sm" />}
        {projects.isError && (
          <div className="notice" data-tone="rust">
            The server does not answer. Start it and reload.
          </div>
        )}
        {projects.data?.length === 0 && <p className="quiet">There is none yet. Name one below and drop files on it.</p>}
        {projects.data?.map((p) => (
          <Link key={p.id} to={place(p.id, 'sources')} className={classes.project}>
            <b>{p.name}</b>
            <span className="quiet">
              {plural(p.sources, 'source')}, {plural(p.timelines, 'timeline')}
            </span>
          </Link>
        ))}
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
          </Group>
        </form>
      </section>
    </main>
  );
}
