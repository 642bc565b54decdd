import { Button, Menu, TextInput } from '@mantine/core';
import { IconCopy, IconDots, IconFileExport, IconPencil, IconTrash } from '@tabler/icons-react';
import type { ProjectSummary } from '@thawline/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { place } from '../../../shared/state/places.js';
import { plural } from '../../../shared/words.js';
import { useProjectActions } from '../model/useProjectActions.js';
import classes from './projects.module.css';
import { SaveProjectSheet } from './SaveProjectSheet.js';

/** A project in the list: opened by its name; renamed, copied, saved as a file or put into the bin from its menu. */
export function ProjectRow({ project }: { project: ProjectSummary }) {
  const { id, name, sources, timelines, damaged } = project;
  const { copy, remove, rename } = useProjectActions();
  const [typed, setTyped] = useState<string | null>(null);
  const [saving, setSaving] = useState(false);
  if (typed !== null) {
    const done = (): void => {
      const now = typed.trim();
      if (now !== '' && now !== name) rename(id, now);
      setTyped(null);
    };
    return (
      <div className={classes.project}>
        <TextInput
          aria-label={`Name of ${name}`}
          value={typed}
          maxLength={120}
          autoFocus
          flex={1}
          onChange={(e) => setTyped(e.currentTarget.value)}
          onBlur={done}
          onKeyDown={(e) => {
            if (e.key === 'Enter') done();
            if (e.key === 'Escape') setTyped(null);
          }}
        />
      </div>
    );
  }
  return (
    <div className={classes.project} data-testid="project-row">
      {damaged ? (
        <span className={classes.name}>
          <b>{name}</b>
          <span className="rust">
            cannot be read: its row is damaged. <Link to="/storage">Bring it back from a backup</Link>
          </span>
        </span>
      ) : (
        <Link to={place(id, 'sources')} className={classes.name}>
          <b>{name}</b>
          <span className="quiet">
            {plural(sources, 'source')}, {plural(timelines, 'timeline')}
          </span>
        </Link>
      )}
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="subtle" size="compact-sm" aria-label={`More for ${name}`}>
            <IconDots size={16} />
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {!damaged && (
            <>
              <Menu.Item leftSection={<IconPencil size={16} />} onClick={() => setTyped(name)}>
                Rename
              </Menu.Item>
              <Menu.Item leftSection={<IconCopy size={16} />} onClick={() => copy(id, name)}>
                Copy
              </Menu.Item>
              <Menu.Item leftSection={<IconFileExport size={16} />} onClick={() => setSaving(true)}>
                Save as a file
              </Menu.Item>
            </>
          )}
          <Menu.Item leftSection={<IconTrash size={16} />} onClick={() => remove(id)}>
            Put into the bin
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {saving && <SaveProjectSheet project={project} onClose={() => setSaving(false)} />}
    </div>
  );
}
