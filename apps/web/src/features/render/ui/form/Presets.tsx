import { ActionIcon, Button, Group, Popover, Select, TextInput } from '@mantine/core';
import { IconTrash } from '@tabler/icons-react';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { settledForm } from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../../api/client.js';
import { tellError } from '../../../../api/notices.js';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';

/** Forms under names that people gave them. */
export function Presets() {
  const { form, set } = useRenderWishes();
  const client = useQueryClient();
  const presets = useQuery({ queryKey: ['presets'], queryFn: () => call('presets') }).data ?? [];
  const [name, setName] = useState('');
  const [naming, setNaming] = useState(false);
  const current = presets.find((p) => JSON.stringify(settledForm(p.form)) === JSON.stringify(settledForm(form)));
  const take = (work: Promise<typeof presets>): Promise<void> =>
    work.then((now) => void client.setQueryData(['presets'], now)).catch(tellError);
  return (
    <Group gap={6} align="end" wrap="nowrap">
      <Select
        label="Kept forms"
        size="xs"
        flex={1}
        placeholder={presets.length === 0 ? 'none yet: set a form, then keep it' : 'choose one'}
        data={presets.map((p) => ({ value: p.id, label: p.name }))}
        value={current?.id ?? null}
        onChange={(id) => {
          const found = presets.find((p) => p.id === id);
          if (found) set({ form: found.form });
        }}
      />
      {current && (
        <ActionIcon
          variant="default"
          size={30}
          aria-label={`Forget ${current.name}`}
          onClick={() => void take(call('removePreset', { parameters: { preset: current.id } }))}
        >
          <IconTrash size={15} />
        </ActionIcon>
      )}
      <Popover position="bottom-end" shadow="md" trapFocus opened={naming} onChange={setNaming}>
        <Popover.Target>
          <Button variant="default" size="xs" onClick={() => setNaming(!naming)}>
            Keep
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) void take(call('savePreset', { body: { name: name.trim(), form: settledForm(form) } }));
              setName('');
              setNaming(false);
            }}
          >
            <Group gap={6} align="end">
              <TextInput
                label="Keep this form as"
                size="xs"
                maxLength={60}
                value={name}
                onChange={(e) => setName(e.currentTarget.value)}
              />
              <Button size="xs" type="submit" disabled={!name.trim()}>
                Keep form
              </Button>
            </Group>
          </form>
        </Popover.Dropdown>
      </Popover>
    </Group>
  );
}
