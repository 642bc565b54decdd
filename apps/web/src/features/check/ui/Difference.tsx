import { differenceRgba } from '@thawline/core/picture';
import { useEffect, useRef } from 'react';
import { pictureAddress } from '../../../shared/player/pictures.js';
import classes from './check.module.css';

const SIZE = { width: 240, height: 136 };

export interface ComparedPicture {
  readonly mediaId: string;
  readonly picture: number;
}

/** What differs between two pictures, computed from both by core. */
export function Difference({ a, b, gain }: { a: ComparedPicture | null; b: ComparedPicture; gain: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [mediaA, pictureA] = [a?.mediaId, a?.picture];
  const { mediaId: mediaB, picture: pictureB } = b;
  useEffect(() => {
    let wanted = true;
    const draw = async (): Promise<void> => {
      const context = canvas.current?.getContext('2d');
      if (!context) return;
      const { width, height } = SIZE;
      context.fillRect(0, 0, width, height);
      if (mediaA === undefined || pictureA === undefined) return;
      const [first, second] = await Promise.all([pixels(mediaA, pictureA), pixels(mediaB, pictureB)]);
      if (!wanted) return;
      const out = context.createImageData(width, height);
      differenceRgba(first, second, gain, out.data);
      context.putImageData(out, 0, 0);
    };
    // A picture that does not come leaves the well black; the strip's own image says so.
    draw().catch(() => undefined);
    return () => {
      wanted = false;
    };
  }, [mediaA, pictureA, mediaB, pictureB, gain]);
  return (
    <canvas
      ref={canvas}
      width={SIZE.width}
      height={SIZE.height}
      className={classes.difference}
      aria-label={`What differs between ${pictureA ?? 'nothing'} and ${pictureB}`}
    />
  );
}

async function pixels(mediaId: string, picture: number): Promise<Uint8ClampedArray> {
  const image = new Image();
  image.src = pictureAddress(mediaId, picture);
  await image.decode();
  const canvas = new OffscreenCanvas(SIZE.width, SIZE.height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('no canvas');
  context.drawImage(image, 0, 0, SIZE.width, SIZE.height);
  return context.getImageData(0, 0, SIZE.width, SIZE.height).data;
}
