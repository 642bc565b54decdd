import { Anchor, Breadcrumbs, Button, Checkbox, Group, Loader, Modal } from '@mantine/core';
import { IconFolder, IconMovie, IconPhoto } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { bytes, plural } from '../../../shared/words.js';
import classes from './sources.module.css';

interface Props {
  readonly title: string;
  /** What the button says; the count of what is chosen is put behind it. */
  readonly action: string;
  /** Only one may be chosen. */
  readonly one?: boolean;
  readonly onClose: () => void;
  readonly onChoose: (paths: string[]) => void;
}

/** The media folders and what lies in them, nothing above. */
export function FolderBrowser({ title, action, one = false, onClose, onChoose }: Props) {
  const [path, setPath] = useState('');
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const folder = useQuery({ queryKey: ['folder', path], queryFn: () => call('folder', { query: { path } }), staleTime: 0 });
  const parts = path.split('/').filter(Boolean);
  const toggle = (item: string): void => {
    const without = chosen.filter((c) => c !== item);
    setChosen(chosen.includes(item) ? without : one ? [item] : [...without, item]);
  };
  const { data } = folder;
  const files = data?.files.filter((f) => f.kind !== 'other') ?? [];
  const others = (data?.files.length ?? 0) - files.length;
  const empty = data && data.folders.length + data.files.length === 0;
  return (
    <Modal opened onClose={onClose} title={title} size="lg">
      <Breadcrumbs separator="/" mb="xs">
        {['', ...parts].map((part, i) => (
          <Anchor
            key={`${i}-${part}`}
            component="button"
            type="button"
            size="sm"
            onClick={() => setPath(parts.slice(0, i).join('/'))}
          >
            {i === 0 ? 'Media folders' : part}
          </Anchor>
        ))}
      </Breadcrumbs>
      <div className={classes.browser}>
        {folder.isPending && <Loader size="sm" m="md" />}
        {folder.isError && (
          <div className="notice" data-tone="rust">
            {folder.error.message}
          </div>
        )}
        {empty && path === '' && (
          <p className="quiet">
            No media folders are named. Start Thawline with THAWLINE_MEDIA=/path/to/footage (several with colons between) to use
            files where they lie.
          </p>
        )}
        {empty && path !== '' && <p className="quiet">Nothing lies here.</p>}
        {data?.folders.map((f) => (
          <div key={f.path} className={classes.entry}>
            <Checkbox
              size="xs"
              aria-label={`Choose the folder ${f.name}`}
              checked={chosen.includes(f.path)}
              onChange={() => toggle(f.path)}
            />
            <IconFolder size={17} />
            <button type="button" className={classes.plain} onClick={() => setPath(f.path)}>
              {f.name}
            </button>
          </div>
        ))}
        {files.map((f) => (
          // biome-ignore lint/a11y/noLabelWithoutControl: the checkbox stands inside
          <label key={f.path} className={classes.entry}>
            <Checkbox
              size="xs"
              aria-label={`Choose ${f.name}`}
              checked={chosen.includes(f.path)}
              onChange={() => toggle(f.path)}
            />
            {f.kind === 'film' ? <IconMovie size={17} /> : <IconPhoto size={17} />}
            <span className={classes.name} title={f.name}>
              {f.name}
            </span>
            <small className="number quiet">{bytes(f.bytes)}</small>
          </label>
        ))}
        {others > 0 && (
          <p className="quiet">
            {plural(others, 'other file')} here {others === 1 ? 'is' : 'are'} no film and no picture.
          </p>
        )}
      </div>
      <Group justify="space-between" mt="md">
        <span className="quiet">Files stay where they are; nothing is copied or changed.</span>
        <Button disabled={chosen.length === 0} onClick={() => onChoose([...chosen])}>
          {one || chosen.length === 0 ? action : `${action} ${plural(chosen.length, 'item')}`}
        </Button>
      </Group>
    </Modal>
  );
}
