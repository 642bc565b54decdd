import { Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { call } from '../../../api/client.js';
import { Bin } from './Bin.js';
import { Brand } from './Brand.js';
import { NewProject } from './NewProject.js';
import { ProjectRow } from './ProjectRow.js';
import classes from './projects.module.css';

/** The way in: projects there are, a new one, and those in the bin. */
export function ProjectsView() {
  const projects = useQuery({ queryKey: ['projects'], queryFn: () => call('listProjects'), refetchOnWindowFocus: true });
  const all = projects.data ?? [];
  const inUse = all.filter((p) => p.deletedAt === null);
  return (
    <main className={classes.page}>
      <Brand />
      <section className={`sheet ${classes.card}`} aria-label="Projects">
        <h2 className="heading">Projects</h2>
        {projects.isPending && <Loader size="sm" />}
        {projects.isError && (
          <div className="notice" data-tone="rust">
            The server does not answer. Start it and reload.
          </div>
        )}
        {projects.data && inUse.length === 0 && (
          <p className="quiet">There is none yet. Name one below and drop files on it, or open a project file.</p>
        )}
        {inUse.map((project) => (
          <ProjectRow key={project.id} project={project} />
        ))}
        <NewProject />
      </section>
      <Bin projects={all.filter((p) => p.deletedAt !== null)} />
      <p className={classes.foot}>
        <Link to="/storage">Backups, and what takes the room</Link>
      </p>
    </main>
  );
}
