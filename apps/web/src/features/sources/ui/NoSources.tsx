import { Button, Group } from '@mantine/core';
import type { AddWays } from './AddArea.js';
import classes from './sources.module.css';

/** An empty project: what to do first. */
export function NoSources({ onFiles, onInPlace }: Pick<AddWays, 'onFiles' | 'onInPlace'>) {
  return (
    <div className={classes.empty}>
      <h2>Drop your files here</h2>
      <p className="quiet">
        Films, numbered pictures, stills, or a whole folder. Each is read at once: the rate it stores, the rate its own timestamps
        measure, how many pictures there are. Nothing is changed in them, and no timeline takes its rate from the first one.
      </p>
      <Group justify="center" gap="xs">
        <Button onClick={onFiles}>Choose files</Button>
        <Button variant="default" onClick={onInPlace}>
          Use in place
        </Button>
      </Group>
    </div>
  );
}
