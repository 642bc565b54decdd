import { Button } from '@mantine/core';
import type { ProjectSummary } from '@thawline/contract';
import { plural } from '../../../shared/words.js';
import { useProjectActions } from '../model/useProjectActions.js';
import classes from './projects.module.css';

/** Deleted projects: taken out again, or gone for good with what only they needed. */
export function Bin({ projects }: { projects: readonly ProjectSummary[] }) {
  const { takeOut, emptyBin } = useProjectActions();
  if (projects.length === 0) return null;
  return (
    <section className={`sheet ${classes.card}`} aria-label="Bin">
      <h2 className="heading">Bin</h2>
      {projects.map(({ id, name, sources, timelines }) => (
        <div key={id} className={classes.project}>
          <span className={classes.name}>
            <b>{name}</b>
            <span className="quiet">
              {plural(sources, 'source')}, {plural(timelines, 'timeline')}
            </span>
          </span>
          <Button variant="default" size="compact-sm" onClick={() => takeOut(id)}>
            Restore
          </Button>
        </div>
      ))}
      <div className={classes.binFoot}>
        <span className="quiet">
          Emptied, {projects.length === 1 ? 'it is' : 'they are'} gone, with copies of files that no other project needs. Backups
          still hold {projects.length === 1 ? 'it' : 'them'}.
        </span>
        <Button variant="default" size="compact-sm" onClick={emptyBin}>
          Empty the bin
        </Button>
      </div>
    </section>
  );
}
