import { Button, Menu, NativeSelect, Switch } from '@mantine/core';
import { IconChevronDown, IconDots } from '@tabler/icons-react';
import { address } from '@thawline/contract';
import { REMARKS, type RemarkCode, type Source } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { ORDERS, type SourceOrder, useView } from '../../../shared/state/view.js';
import { plural } from '../../../shared/words.js';
import type { SourceRow } from '../model/sourceList.js';
import classes from './sources.module.css';

export const REMARK_WORDS: Record<RemarkCode, string> = {
  lost: 'Not found yet',
  variable: 'variable timing',
  claim: 'claim not kept',
  repeats: 'repeats',
  gap: 'sound and picture differ',
  stored: 'stored is not measured',
  faults: 'held or missing pictures',
  missing: 'numbers missing',
  tracks: 'more sound tracks',
  early: 'ends early',
  interlaced: 'interlaced',
  odd: 'odd rate',
  drift: 'off its rate',
};

const ORDER_WORDS: Record<SourceOrder, string> = {
  added: 'as added',
  name: 'by name',
  stored: 'by stored rate',
  measured: 'by measured rate',
  true: 'by true rate',
  read: 'by read-at rate',
  runs: 'by length',
  size: 'by size',
  fields: 'by fields',
  sound: 'by sound',
  uses: 'by uses',
  remark: 'by what stands out',
};

interface Props {
  readonly rows: readonly SourceRow[];
  /** How many of them are shown. */
  readonly shown: number;
  /** Those that are chosen. */
  readonly targets: readonly Source[];
  readonly onFiles: () => void;
  readonly onFolder: () => void;
  readonly onInPlace: () => void;
  /** Null where there is nothing to do it to. */
  readonly onReadAt: (() => void) | null;
  readonly onFields: (() => void) | null;
  readonly onCheck: (() => void) | null;
  readonly onRemove: (() => void) | null;
}

/** What can be done to sources, and which of them are shown in which order. */
export function SourceBar({ rows, shown, targets, onFiles, onFolder, onInPlace, onReadAt, onFields, onCheck, onRemove }: Props) {
  const { id } = useProject();
  const list = useView((s) => s.sourceList);
  const setList = useView((s) => s.setSourceList);
  const standing = REMARKS.map((code) => ({
    code,
    count: rows.filter((r) => r.remarks.some((m) => m.code === code)).length,
  })).filter((r) => r.count > 0 || r.code === list.remark);
  return (
    <div className={classes.bar2}>
      <Menu position="bottom-start">
        <Menu.Target>
          <Button size="compact-md" rightSection={<IconChevronDown size={14} />}>
            Add
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={onFiles}>Files&hellip;</Menu.Item>
          <Menu.Item onClick={onFolder}>A folder&hellip;</Menu.Item>
          <Menu.Item onClick={onInPlace}>Use in place from the media folders&hellip;</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {rows.length > 0 && (
        <>
          <Button size="compact-md" variant="default" disabled={!onReadAt} onClick={() => onReadAt?.()}>
            Read at&hellip;
          </Button>
          <Button size="compact-md" variant="default" disabled={!onFields} onClick={() => onFields?.()}>
            Fields&hellip;
          </Button>
          <Button size="compact-md" variant="default" disabled={!onCheck} onClick={() => onCheck?.()}>
            {targets.length > 0 ? 'Check' : 'Check the rest'}
          </Button>
          <Button size="compact-md" variant="default" onClick={() => onRemove?.()} disabled={!onRemove}>
            Remove
          </Button>
          <NativeSelect
            size="xs"
            aria-label="What stands out"
            className={classes.filter ?? ''}
            value={list.remark ?? ''}
            onChange={(e) => setList({ remark: (e.currentTarget.value || null) as RemarkCode | null })}
            data={[
              { value: '', label: 'all, whatever stands out' },
              ...standing.map(({ code, count }) => ({ value: code, label: `${REMARK_WORDS[code]} (${count})` })),
            ]}
          />
          <span className={`quiet ${classes.chosen}`}>
            {targets.length > 0 ? `${targets.length} chosen` : plural(shown, 'source')}
          </span>
          <Menu position="bottom-end" closeOnItemClick={false}>
            <Menu.Target>
              <Button size="compact-md" variant="default" aria-label="Sort and display">
                <IconDots size={16} />
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Label>Order</Menu.Label>
              <div className={classes.menuPart}>
                <NativeSelect
                  size="xs"
                  aria-label="Order"
                  value={list.order}
                  onChange={(e) => setList({ order: e.currentTarget.value as SourceOrder })}
                  data={ORDERS.map((value) => ({ value, label: ORDER_WORDS[value] }))}
                />
                <Switch
                  size="xs"
                  label="largest or last first"
                  checked={list.down}
                  onChange={(e) => setList({ down: e.currentTarget.checked })}
                />
                <Switch
                  size="xs"
                  label="grouped by rate"
                  checked={list.grouped}
                  onChange={(e) => setList({ grouped: e.currentTarget.checked })}
                />
              </div>
              <Menu.Divider />
              <Menu.Item component="a" href={address('table', { project: id })} download="sources.csv">
                Save the table as CSV
              </Menu.Item>
            </Menu.Dropdown>
          </Menu>
        </>
      )}
    </div>
  );
}
