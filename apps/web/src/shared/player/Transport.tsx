import { ActionIcon, Group } from '@mantine/core';
import { IconChevronLeft, IconChevronRight, IconPlayerPlayFilled, IconPlayerStopFilled } from '@tabler/icons-react';
import type { ReactNode } from 'react';

interface Props {
  readonly playing: boolean;
  readonly onStep: (by: 1 | -1) => void;
  readonly onPlay: () => void;
  /** More buttons behind them. */
  readonly children?: ReactNode;
}

/** A frame back, play or stop, a frame on. */
export function Transport({ playing, onStep, onPlay, children }: Props) {
  return (
    <Group gap={4} wrap="nowrap">
      <ActionIcon variant="filled" color="dark" size="sm" aria-label="One frame back" onClick={() => onStep(-1)}>
        <IconChevronLeft size={15} />
      </ActionIcon>
      <ActionIcon variant="filled" color="dark" size="md" aria-label={playing ? 'Stop' : 'Play'} onClick={onPlay}>
        {playing ? <IconPlayerStopFilled size={15} /> : <IconPlayerPlayFilled size={15} />}
      </ActionIcon>
      <ActionIcon variant="filled" color="dark" size="sm" aria-label="One frame on" onClick={() => onStep(1)}>
        <IconChevronRight size={15} />
      </ActionIcon>
      {children}
    </Group>
  );
}
