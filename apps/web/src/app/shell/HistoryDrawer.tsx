import { Button, Drawer, Group } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { call } from '../../api/client.js';
import { useProject } from '../../api/ProjectProvider.js';
import classes from './shell.module.css';

/** What was done, newest first; what is undone stands above, ready to be done again. A press goes to the state after that step. */
export function HistoryDrawer({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const { id, state, undo, redo, jump } = useProject();
  const history = useQuery({
    queryKey: ['history', id],
    queryFn: () => call('history', { parameters: { project: id } }),
    enabled: opened,
  });
  const steps = history.data ?? [];
  const here = steps.find((r) => !r.undone)?.number ?? 0;
  return (
    <Drawer opened={opened} onClose={onClose} title="History" position="right">
      <Group mb="sm" gap="xs">
        <Button variant="default" size="compact-md" onClick={undo} disabled={!state.undoLabel}>
          Undo
        </Button>
        <Button variant="default" size="compact-md" onClick={redo} disabled={!state.redoLabel}>
          Redo
        </Button>
      </Group>
      {steps.length === 0 && <p className="quiet">Nothing was done yet.</p>}
      {steps.map((revision) => (
        <button
          type="button"
          key={revision.number}
          className={classes.revision}
          data-undone={revision.undone || undefined}
          aria-current={revision.number === here ? 'step' : undefined}
          onClick={() => jump(revision.number)}
        >
          <span>{revision.undone ? `${revision.label} (undone)` : revision.label}</span>
          <small className="number quiet">
            {new Date(revision.at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}
          </small>
        </button>
      ))}
      {steps.length > 0 && (
        <button type="button" className={classes.revision} aria-current={here === 0 ? 'step' : undefined} onClick={() => jump(0)}>
          <span>The beginning</span>
        </button>
      )}
    </Drawer>
  );
}
