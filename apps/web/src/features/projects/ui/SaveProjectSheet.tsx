import { Button, Checkbox, Group, Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { address, type ProjectSummary } from '@thawline/contract';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { plural } from '../../../shared/words.js';

/** A project as one file: what goes into it, and what cannot, before it is saved. */
export function SaveProjectSheet({ project, onClose }: { project: ProjectSummary; onClose: () => void }) {
  const [withFiles, setWithFiles] = useState(false);
  const media = withFiles ? 'yes' : 'no';
  const parameters = { project: project.id };
  const losses = useQuery({
    queryKey: ['export-losses', project.id, media],
    queryFn: () => call('exportLosses', { parameters, query: { media } }),
  });
  return (
    <Modal opened onClose={onClose} title={`Save ${project.name} as a file`} size="lg">
      <p>
        One file that opens in any Thawline: {plural(project.timelines, 'timeline')}, the history, and what checks, comparisons,
        alignments and receipts found of {plural(project.sources, 'source')}. It is a zip with JSON inside.
      </p>
      <Checkbox
        label="With the files of its sources"
        checked={withFiles}
        onChange={(e) => setWithFiles(e.currentTarget.checked)}
        mb="sm"
      />
      {losses.data && losses.data.losses.length > 0 && (
        <div className="notice" data-testid="losses">
          {losses.data.losses.map((loss) => (
            <div key={loss}>{loss}</div>
          ))}
        </div>
      )}
      <Group justify="flex-end" mt="md">
        <Button component="a" href={`${address('exportProject', parameters)}?media=${media}`} download onClick={onClose}>
          Save
        </Button>
      </Group>
    </Modal>
  );
}
