import { Button, Group, NumberInput, Popover, SegmentedControl } from '@mantine/core';
import type { CheckReply, JobReply } from '@thawline/contract';
import { beside } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useState } from 'react';
import { useShortcut } from '../../../shared/keys/useShortcut.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { count } from '../../../shared/words.js';
import classes from './check.module.css';

/** A part of a file to check: pictures (`to` not included), and where to look in each, in shares of it. */
export interface CheckedPart {
  readonly range: { readonly from: number; readonly to: number } | null;
  readonly region: { readonly x: number; readonly y: number; readonly width: number; readonly height: number } | null;
}

type Region = NonNullable<CheckedPart['region']>;

interface Props {
  readonly source: Source;
  readonly picture: number;
  /** The newest check of a part; null when there is none. */
  readonly partial: CheckReply | null;
  readonly shown: boolean;
  readonly onShow: (part: boolean) => void;
  readonly onCheck: (asked: CheckedPart) => void;
  readonly running: JobReply | null;
  /** The area that keeps changing while pictures hold, from the check that is shown. */
  readonly counter: CheckReply['counter'];
}

/** Checks a part: some pictures, or a part of each, beside a counter that is burnt in. */
export function PartLine({ source, picture, partial, shown, onShow, onCheck, running, counter }: Props) {
  const [from, setFrom] = useState(0);
  const [to, setTo] = useState(source.pictures);
  const [region, setRegion] = useState<Region | null>(null);
  useShortcut('inHere', () => setFrom(Math.min(picture, to - 2)));
  useShortcut('outHere', () => setTo(Math.max(picture + 1, from + 2)));
  const whole = from === 0 && to === source.pictures && !region;
  return (
    <div className={classes.part}>
      <Group gap={6}>
        <span className="quiet">Pictures</span>
        <NumberInput
          size="xs"
          w={86}
          aria-label="First picture to check"
          value={from}
          min={0}
          max={Math.max(0, to - 2)}
          onChange={(v) => setFrom(Math.max(0, Math.min(Number(v) || 0, to - 2)))}
        />
        <span className="quiet">to</span>
        <NumberInput
          size="xs"
          w={86}
          aria-label="Last picture to check"
          value={to - 1}
          min={from + 1}
          max={source.pictures - 1}
          onChange={(v) => setTo(Math.max(from + 2, Math.min((Number(v) || 0) + 1, source.pictures)))}
        />
        <RegionPick source={source} picture={picture} region={region} onRegion={setRegion} />
        <Button
          size="compact-sm"
          variant="default"
          disabled={whole || running !== null}
          onClick={() => onCheck({ range: from === 0 && to === source.pictures ? null : { from, to }, region })}
        >
          Check this part
        </Button>
        {running && (
          <span className="quiet">{running.total ? `${Math.round((100 * running.done) / running.total)} %` : running.phase}</span>
        )}
      </Group>
      {counter && !region && (
        <span className={classes.counter}>
          Something {whereOf(counter)} goes on changing where the pictures hold: a counter?{' '}
          <Button size="compact-sm" variant="default" onClick={() => setRegion(beside(counter))}>
            Check the rest of the picture
          </Button>
        </span>
      )}
      {partial && (
        <SegmentedControl
          size="xs"
          value={shown ? 'part' : 'whole'}
          onChange={(v) => onShow(v === 'part')}
          data={[
            { value: 'whole', label: 'whole file' },
            {
              value: 'part',
              label: `${partial.range.from} to ${count(partial.range.to - 1)}${partial.region ? ', a region' : ''}`,
            },
          ]}
        />
      )}
    </div>
  );
}

/** "at the bottom left", as one says it. */
function whereOf({ x, y, width, height }: Region): string {
  const third = (from: number, size: number): 0 | 1 | 2 => {
    const middle = from + size / 2;
    return middle < 1 / 3 ? 0 : middle > 2 / 3 ? 2 : 1;
  };
  const down = ['at the top', 'in the middle', 'at the bottom'][third(y, height)];
  const across = [' left', '', ' right'][third(x, width)];
  return `${down}${across}`;
}

/** Draws a box on the picture: only what lies in it is looked at. */
function RegionPick({
  source,
  picture,
  region,
  onRegion,
}: {
  source: Source;
  picture: number;
  region: Region | null;
  onRegion: (region: Region | null) => void;
}) {
  const [start, setStart] = useState<{ x: number; y: number } | null>(null);
  const placeOf = (event: React.PointerEvent<HTMLElement>): { x: number; y: number } => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = (n: number): number => Math.max(0, Math.min(1, n));
    return { x: share((event.clientX - box.left) / box.width), y: share((event.clientY - box.top) / box.height) };
  };
  const boxTo = (end: { x: number; y: number }): Region | null => {
    if (!start) return region;
    const box = {
      x: Math.min(start.x, end.x),
      y: Math.min(start.y, end.y),
      width: Math.abs(end.x - start.x),
      height: Math.abs(end.y - start.y),
    };
    return box.width > 0.04 && box.height > 0.04 ? box : null;
  };
  return (
    <Popover position="bottom-start" shadow="md" width={420}>
      <Popover.Target>
        <Button size="compact-sm" variant="default">
          {region ? `Region ${Math.round(region.width * 100)} \u00d7 ${Math.round(region.height * 100)} %` : 'Region\u2026'}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <p className="quiet">Draw a box over what is to be looked at: beside a counter that is burnt in, say.</p>
        <div
          className={classes.region}
          style={{ aspectRatio: `${source.width} / ${source.height}` }}
          data-testid="region"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            setStart(placeOf(e));
          }}
          onPointerMove={(e) => start && onRegion(boxTo(placeOf(e)))}
          onPointerUp={(e) => {
            onRegion(boxTo(placeOf(e)));
            setStart(null);
          }}
        >
          <img src={pictureAddress(source.mediaId, picture)} alt={`Picture ${picture}`} draggable={false} />
          {region && (
            <i
              style={{
                left: `${region.x * 100}%`,
                top: `${region.y * 100}%`,
                width: `${region.width * 100}%`,
                height: `${region.height * 100}%`,
              }}
            />
          )}
        </div>
        <Group justify="flex-end" mt="xs">
          <Button size="compact-sm" variant="default" disabled={!region} onClick={() => onRegion(null)}>
            The whole picture
          </Button>
        </Group>
      </Popover.Dropdown>
    </Popover>
  );
}
