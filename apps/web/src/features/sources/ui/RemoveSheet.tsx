import { Button, Group, Modal } from '@mantine/core';
import { type Source, usesOf } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { plural } from '../../../shared/words.js';
import classes from './sources.module.css';

/** Removing sources that are in use: where, and what goes with them. */
export function RemoveSheet({
  sources,
  onClose,
  onDone,
}: {
  sources: readonly Source[];
  onClose: () => void;
  onDone: () => void;
}) {
  const { project, run } = useProject();
  const used = sources.map((source) => ({ source, uses: usesOf(project, source.id) })).filter((u) => u.uses.length > 0);
  const clips = used.reduce((sum, u) => sum + u.uses.reduce((n, use) => n + use.clips, 0), 0);
  const free = sources.filter((s) => !used.some((u) => u.source === s));
  const remove = async (ids: string[], withUses: boolean): Promise<void> => {
    if (await run({ type: 'removeSources', sourceIds: ids, withUses })) onDone();
  };
  return (
    <Modal opened onClose={onClose} title={`${plural(used.length, 'source is', 'sources are')} in use`}>
      <ul className={classes.reasons}>
        {used.map(({ source, uses }) => (
          <li key={source.id}>
            <b>{source.name}</b>: {uses.map((use) => `${plural(use.clips, 'clip')} on ${use.timeline}`).join(', ')}
          </li>
        ))}
      </ul>
      <p className="quiet">The files stay where they are. One undo brings all of it back.</p>
      <Group justify="flex-end">
        {free.length > 0 && (
          <Button
            variant="default"
            onClick={() =>
              remove(
                free.map((s) => s.id),
                false,
              )
            }
          >
            Remove only the {plural(free.length, 'unused one')}
          </Button>
        )}
        <Button
          color="red"
          onClick={() =>
            remove(
              sources.map((s) => s.id),
              true,
            )
          }
        >
          Remove {plural(sources.length, 'source')} and {plural(clips, 'clip')}
        </Button>
      </Group>
    </Modal>
  );
}
