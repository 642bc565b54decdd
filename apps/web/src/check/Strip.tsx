import { Button, Group, SegmentedControl } from '@mantine/core';
import { differenceRgba } from '@thawline/core/picture';
import type { Verdict } from '@thawline/core/truth';
import type { Source } from '@thawline/project';
import { useEffect, useMemo, useRef, useState } from 'react';
import { pictureAddress } from '../player/pictures.js';
import classes from './check.module.css';

const ACROSS = 6;
const SHOWN = 12;
const GAIN = { low: 4, high: 16 } as const;

interface Props {
  readonly source: Source;
  readonly verdict: Pick<Verdict, 'held' | 'jumps' | 'blends'>;
  readonly picture: number;
  readonly onPicture: (picture: number | undefined) => void;
}

/** Twelve pictures around the chosen one: held ones under frost, and beneath each what differs from the one before. */
export function Strip({ source, verdict, picture, onPicture }: Props) {
  const [gain, setGain] = useState<keyof typeof GAIN>('low');
  const held = useMemo(() => new Set(verdict.held), [verdict.held]);
  const jumps = useMemo(() => new Set(verdict.jumps), [verdict.jumps]);
  const blends = useMemo(() => new Set(verdict.blends), [verdict.blends]);
  const from = Math.max(0, Math.min(Math.floor(picture / ACROSS) * ACROSS, source.pictures - SHOWN));
  const pictures = Array.from({ length: Math.min(SHOWN, source.pictures) }, (_, i) => from + i);
  const found = [...verdict.held, ...verdict.jumps].sort((a, b) => a - b);
  const next = found.find((f) => f > picture);
  const previous = found.findLast((f) => f < picture);
  const said = (k: number): string => (held.has(k) ? 'held' : jumps.has(k) ? 'jump' : blends.has(k) ? 'blend' : 'new');
  return (
    <section className={`sheet ${classes.strip}`}>
      <div className={classes.head}>
        <h2 className="heading number">
          Pictures {from} to {from + pictures.length - 1}
        </h2>
        <Group gap={6}>
          <SegmentedControl
            size="xs"
            value={gain}
            onChange={(v) => setGain(v as keyof typeof GAIN)}
            data={[
              { value: 'low', label: 'difference \u00d74' },
              { value: 'high', label: '\u00d716' },
            ]}
          />
          <Button size="compact-sm" variant="default" disabled={previous === undefined} onClick={() => onPicture(previous)}>
            Previous finding
          </Button>
          <Button size="compact-sm" variant="default" disabled={next === undefined} onClick={() => onPicture(next)}>
            Next finding
          </Button>
        </Group>
      </div>
      <div className={classes.pictures}>
        {pictures.map((k) => (
          <button
            type="button"
            key={k}
            className={classes.picture}
            aria-current={k === picture}
            onClick={() => onPicture(k)}
            data-testid={`strip-${k}`}
            data-state={said(k)}
          >
            <span className={classes.frame}>
              <img src={pictureAddress(source.mediaId, k)} alt={`Picture ${k}`} />
              {held.has(k) && <i className="frost" />}
            </span>
            <span className={classes.under}>
              <b className="number">{k}</b>
              <small className={held.has(k) ? classes.held : jumps.has(k) ? 'rust' : 'quiet'}>{said(k)}</small>
            </span>
            <Difference mediaId={source.mediaId} picture={k} gain={GAIN[gain]} />
          </button>
        ))}
      </div>
    </section>
  );
}

const DIFFERENCE = { width: 240, height: 136 };

/** What differs between a picture and the one before, computed from both by core. */
function Difference({ mediaId, picture, gain }: { mediaId: string; picture: number; gain: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let wanted = true;
    const draw = async (): Promise<void> => {
      const context = canvas.current?.getContext('2d');
      if (!context) return;
      const { width, height } = DIFFERENCE;
      context.fillRect(0, 0, width, height);
      if (picture === 0) return;
      const [a, b] = await Promise.all([pixels(mediaId, picture - 1), pixels(mediaId, picture)]);
      if (!wanted) return;
      const out = context.createImageData(width, height);
      differenceRgba(a, b, gain, out.data);
      context.putImageData(out, 0, 0);
    };
    // A picture that does not come leaves the well black; the strip's own image says so.
    draw().catch(() => undefined);
    return () => {
      wanted = false;
    };
  }, [mediaId, picture, gain]);
  return (
    <canvas
      ref={canvas}
      width={DIFFERENCE.width}
      height={DIFFERENCE.height}
      className={classes.difference}
      aria-label={`What differs between ${picture - 1} and ${picture}`}
    />
  );
}

async function pixels(mediaId: string, picture: number): Promise<Uint8ClampedArray> {
  const image = new Image();
  image.src = pictureAddress(mediaId, picture);
  await image.decode();
  const canvas = new OffscreenCanvas(DIFFERENCE.width, DIFFERENCE.height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  context.drawImage(image, 0, 0, DIFFERENCE.width, DIFFERENCE.height);
  return context.getImageData(0, 0, DIFFERENCE.width, DIFFERENCE.height).data;
}
