import { Kbd, Modal, Table } from '@mantine/core';
import { SHORTCUTS } from '../../shared/keys/shortcuts.js';

export function ShortcutSheet({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Shortcuts" size="lg">
      <Table>
        <Table.Tbody>
          {Object.entries(SHORTCUTS).map(([name, { shows, does, where }]) => (
            <Table.Tr key={name}>
              <Table.Td>
                {shows.split(' ').map((key) => (
                  <Kbd key={key} mr={4}>
                    {key}
                  </Kbd>
                ))}
              </Table.Td>
              <Table.Td>{does}</Table.Td>
              <Table.Td className="quiet">{where}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
    </Modal>
  );
}
