import { differenceRgba, mixLightRgba } from '@thawline/core/picture';
import type { Source } from '@thawline/project';
import { useEffect, useRef, useState } from 'react';
import { pictureAddress } from '../player/pictures.js';
import { type Look, momentOf } from './frames.js';
import type { MadePictures } from './made.js';
import classes from './retime.module.css';

interface Props {
  readonly source: Source;
  readonly look: Look;
  /** Shows what differs from it instead. */
  readonly against?: Look;
  readonly made: MadePictures;
  readonly testId?: string;
}

const WIDEST = 640;
const GAIN = 4;

/** What a frame shows one way, drawn; where that is not made yet, it says so and shows nothing in its place. */
export function LookCanvas({ source, look, against, made, testId }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [state, setState] = useState<'ready' | 'making' | 'lost'>('making');
  const width = Math.min(WIDEST, source.width);
  const height = Math.max(2, Math.round((width * source.height) / source.width));
  const looks = against ? [look, against] : [look];
  const moments = looks.map((l) => momentOf(source, l));
  const pictures = moments.map((m) => (m ? made.get(m)?.bitmap : undefined));
  const lost = moments.some((m) => m && made.isLost(m)) || source.lost !== null || source.kind === 'timeline';
  const waiting = moments.some((m, i) => m && !pictures[i]);
  const key = looks.map((l) => `${l.picture}/${l.share}/${l.way}/${l.mix}`).join();
  useEffect(() => {
    let wanted = true;
    if (lost || waiting) {
      setState(lost ? 'lost' : 'making');
      return undefined;
    }
    const draw = async (): Promise<void> => {
      const layers = await Promise.all(looks.map((l, i) => layersOf(source, l, pictures[i])));
      const context = canvas.current?.getContext('2d', { willReadFrequently: against !== undefined });
      if (!wanted || !context) return;
      const pixels = layers.map((of) => {
        of.forEach(({ image, opacity }) => {
          context.globalAlpha = opacity;
          context.drawImage(image, 0, 0, width, height);
        });
        return against ? context.getImageData(0, 0, width, height) : null;
      });
      const [a, b] = pixels;
      if (a && b) {
        differenceRgba(a.data, b.data, GAIN, a.data);
        context.putImageData(a, 0, 0);
      }
      setState('ready');
    };
    draw().catch(() => wanted && setState('lost'));
    return () => {
      wanted = false;
    };
  }, [source.mediaId, key, lost, waiting, pictures[0], pictures[1], width, height]);
  return (
    <div className={classes.look} data-state={state} data-testid={testId} data-picture={look.picture} data-share={look.share}>
      <canvas ref={canvas} width={width} height={height} hidden={state !== 'ready'} />
      {state === 'making' && <span>not made yet</span>}
      {state === 'lost' && <span>{source.kind === 'timeline' ? 'seen when it is rendered' : 'cannot be shown'}</span>}
    </div>
  );
}

interface Drawn {
  readonly image: CanvasImageSource;
  readonly opacity: number;
}

async function layersOf(source: Source, look: Look, made: ImageBitmap | undefined): Promise<Drawn[]> {
  if (look.way === 'motion' && look.share > 0) {
    if (!made) throw new Error('not made');
    return [{ image: made, opacity: 1 }];
  }
  const first = { image: await loaded(source.mediaId, look.picture), opacity: 1 };
  if (look.way !== 'blend' || look.share === 0) return [first];
  if (look.mix === 'light')
    return [{ image: await mixedInLight(first.image, await loaded(source.mediaId, look.next), look.share / 65536), opacity: 1 }];
  return [first, { image: await loaded(source.mediaId, look.next), opacity: look.share / 65536 }];
}

async function mixedInLight(a: HTMLImageElement, b: HTMLImageElement, share: number): Promise<ImageBitmap> {
  const [width, height] = [
    Math.min(WIDEST, a.naturalWidth),
    Math.round((Math.min(WIDEST, a.naturalWidth) * a.naturalHeight) / a.naturalWidth),
  ];
  const pixelsOf = (image: HTMLImageElement): ImageData => {
    const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
    if (!context) throw new Error('no canvas');
    context.drawImage(image, 0, 0, width, height);
    return context.getImageData(0, 0, width, height);
  };
  const [first, second] = [pixelsOf(a), pixelsOf(b)];
  mixLightRgba(first.data, second.data, share, first.data);
  return createImageBitmap(first);
}

async function loaded(mediaId: string, picture: number): Promise<HTMLImageElement> {
  const image = new Image();
  image.src = pictureAddress(mediaId, picture);
  await image.decode();
  return image;
}
