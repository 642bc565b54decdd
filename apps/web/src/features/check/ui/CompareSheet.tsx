import { Button, Group, Modal, Select } from '@mantine/core';
import { timelineAsSource, timelineLength } from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { count } from '../../../shared/words.js';
import { useMoving } from '../model/queries.js';

/** Chooses two sources or timelines to compare, and says what that takes. */
export function CompareSheet({ opened, onClose, first }: { opened: boolean; onClose: () => void; first?: string | undefined }) {
  const { id, project } = useProject();
  const timelines = project.timelines.filter((t) => timelineLength(t) > 0).map((t) => timelineAsSource(project, t));
  const moving = [...useMoving(), ...timelines];
  const [a, setA] = useState<string | null>(null);
  const [b, setB] = useState<string | null>(null);
  const chosenA = a ?? first ?? moving[0]?.id ?? null;
  const chosenB = b ?? moving.find((s) => s.id !== chosenA)?.id ?? null;
  const [sourceA, sourceB] = [chosenA, chosenB].map((chosen) => moving.find((s) => s.id === chosen));
  const options = [
    { group: 'Sources', items: moving.filter((s) => s.kind !== 'timeline').map((s) => ({ value: s.id, label: s.name })) },
    { group: 'Timelines', items: timelines.map((s) => ({ value: s.id, label: s.name })) },
  ].filter(({ items }) => items.length > 0);
  const start = (): void => {
    if (!chosenA || !chosenB) return;
    call('startJobs', { parameters: { project: id }, body: { kind: 'compare', a: chosenA, b: chosenB } })
      .then(onClose)
      .catch(tellError);
  };
  return (
    <Modal opened={opened} onClose={onClose} title="Compare two" centered>
      <p className="quiet">
        Which pictures of the first does the second show? Size, codec and rate may differ: a master and its converted copy, two
        renders, a timeline and what was rendered of it.
      </p>
      <Select label="Pictures of" data={options} value={chosenA} onChange={setA} allowDeselect={false} searchable mt="sm" />
      <Select
        label="as they are shown by"
        data={options}
        value={chosenB}
        onChange={setB}
        allowDeselect={false}
        searchable
        mt="sm"
      />
      <p className="quiet">
        {sourceA && sourceB && sourceA.id !== sourceB.id
          ? `All ${count(sourceA.pictures + sourceB.pictures)} pictures are decoded and matched.`
          : 'Choose two that differ.'}
      </p>
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={onClose}>
          Not now
        </Button>
        <Button disabled={!sourceA || !sourceB || sourceA.id === sourceB.id} onClick={start}>
          Compare them
        </Button>
      </Group>
    </Modal>
  );
}
