import { Button, Group, Select } from '@mantine/core';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useGo } from '../../../shared/state/places.js';
import { windowId } from '../../../shared/state/window.js';

/** A source that an edit file named and that is not here: which one it is, or where to look for it. */
export function LostNotice({ source }: { source: Source }) {
  const { id, project, run, take } = useProject();
  const go = useGo();
  const others = project.sources.filter((s) => !s.lost);
  const stem = source.name.replace(/\.[^.]+$/, '').toLowerCase();
  const [by, setBy] = useState<string | null>(others.find((s) => s.name.toLowerCase() === stem)?.id ?? null);
  const replace = async (): Promise<void> => {
    if (by && (await run({ type: 'replaceSource', sourceId: source.id, byId: by }))) go('sources', by);
  };
  const look = (): void => {
    call('look', { parameters: { project: id, source: source.id }, body: { client: windowId() } })
      .then((change) => {
        take(change);
        go('sources');
      })
      .catch(tellError);
  };
  return (
    <div className="notice" data-tone="rust" data-testid="lost-notice">
      <b>{source.name}</b> was named by an edit file and is not here yet{source.lost?.url ? `; it lay at ${source.lost.url}` : ''}
      . Its clips stand where they belong. Its facts are the edit&rsquo;s until it is found.
      <Group gap="xs" mt={6} wrap="nowrap">
        <Select
          size="xs"
          aria-label="Which source it is"
          placeholder="one of the sources here"
          searchable
          data={others.map((s) => ({ value: s.id, label: s.name }))}
          value={by}
          onChange={setBy}
        />
        <Button size="compact-sm" disabled={!by} onClick={() => void replace()}>
          Use this source
        </Button>
        <Button size="compact-sm" variant="default" onClick={look}>
          Find the file
        </Button>
      </Group>
    </div>
  );
}
