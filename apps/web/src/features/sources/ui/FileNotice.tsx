import { Group } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { FileState } from '@thawline/contract';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { windowId } from '../../../shared/state/window.js';
import { FolderBrowser } from './FolderBrowser.js';
import classes from './sources.module.css';

/** A file that moved or changed: what happened, and the ways back. */
export function FileNotice({ source, file }: { source: Source; file: FileState }) {
  const { id, take } = useProject();
  const client = useQueryClient();
  const [browsing, setBrowsing] = useState(false);
  const again = (): void => void client.invalidateQueries({ queryKey: ['files', id] });
  const find = (path: string | null): void => {
    call('find', { parameters: { media: file.mediaId }, body: { path } })
      .then(() => {
        setBrowsing(false);
        again();
      })
      .catch(tellError);
  };
  const renew = (): void => {
    call('renew', { parameters: { project: id, source: source.id }, body: { client: windowId() } })
      .then((change) => {
        take(change);
        again();
      })
      .catch(tellError);
  };
  return (
    <div className="notice" data-tone="rust" data-testid="file-notice">
      {file.sentence}
      {file.path !== null && (
        <Group gap="md">
          <button type="button" className={classes.do} onClick={() => find(null)}>
            Find the file
          </button>
          <button type="button" className={classes.do} onClick={() => setBrowsing(true)}>
            Choose the file&hellip;
          </button>
          {file.state === 'changed' && (
            <button type="button" className={classes.do} onClick={renew}>
              Use the changed file
            </button>
          )}
        </Group>
      )}
      {browsing && (
        <FolderBrowser
          title={`Where is ${source.name} now?`}
          action="Use this file"
          one
          onClose={() => setBrowsing(false)}
          onChoose={([path]) => path && find(path)}
        />
      )}
    </div>
  );
}
