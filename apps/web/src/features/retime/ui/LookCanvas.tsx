import { SHARES } from '@thawline/core/cadence';
import { differenceRgba, mixLightRgba } from '@thawline/core/picture';
import { useEffect, useRef, useState } from 'react';
import { type Composed, draw as drawn, previewSize } from '../../../shared/player/draw.js';
import { type Look, momentOrWhy, type Pictures, type Unseen } from '../../../shared/player/looks.js';
import { type MadePictures, keyOf as momentKey } from '../../../shared/player/made.js';
import classes from './retime.module.css';

interface Props {
  readonly pictures: Pictures;
  readonly look: Look;
  /** Shows what differs from it instead. */
  readonly against?: Look;
  readonly made: MadePictures;
  readonly testId?: string;
}

const GAIN = 4;

type State = 'ready' | 'making' | Unseen;

/** What a frame shows one way, drawn; where that is not made yet, it says so and shows nothing in its place. */
export function LookCanvas({ pictures, look, against, made, testId }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [state, setState] = useState<State>('making');
  const looks = against ? [look, against] : [look];
  const seen = looks.map((l) => layersOf(pictures, l, made));
  const why = (['lost', 'later', 'making'] as const).find((state) => seen.includes(state));
  const key = seen.map((layers) => (typeof layers === 'string' ? layers : layers.map(keyOf).join())).join();
  const first = pictures(look.picture);
  const { width, height } = typeof first === 'string' ? { width: 2, height: 2 } : previewSize(first);
  // biome-ignore lint/correctness/useExhaustiveDependencies: `key` stands for the pictures that are seen
  useEffect(() => {
    let wanted = true;
    if (why) {
      setState(why);
      return undefined;
    }
    const draw = async (): Promise<void> => {
      const images = await Promise.all(seen.map((layers) => imagesOf(layers as readonly Wanted[])));
      const context = canvas.current?.getContext('2d', { willReadFrequently: against !== undefined });
      if (!wanted || !context) return;
      const pixels = images.map((of) => {
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
  }, [key, why, width, height]);
  return (
    <div className={classes.look} data-state={state} data-testid={testId} data-picture={look.picture} data-share={look.share}>
      <canvas ref={canvas} width={width} height={height} hidden={state !== 'ready'} />
      {state === 'making' && <span>not made yet</span>}
      {state === 'lost' && <span>cannot be shown</span>}
      {state === 'later' && <span>seen when it is rendered</span>}
    </div>
  );
}

/** A picture to be drawn: one of the source's, two mixed in linear light, or a made one. */
type Wanted = { readonly opacity: number } & (
  | { readonly picture: Composed }
  | { readonly mixed: readonly [Composed, Composed]; readonly share: number }
  | { readonly bitmap: ImageBitmap; readonly of: string }
);

function keyOf(wanted: Wanted): string {
  if ('bitmap' in wanted) return wanted.of;
  if ('mixed' in wanted) return `${wanted.mixed[0].key} ${wanted.mixed[1].key} ${wanted.share}`;
  return `${wanted.picture.key} ${wanted.opacity}`;
}

function layersOf(pictures: Pictures, look: Look, made: MadePictures): readonly Wanted[] | 'making' | Unseen {
  const moment = momentOrWhy(pictures, look);
  if (typeof moment === 'string') return moment;
  if (moment) {
    if (made.isLost(moment)) return 'lost';
    const bitmap = made.get(moment)?.bitmap;
    return bitmap ? [{ bitmap, of: momentKey(moment), opacity: 1 }] : 'making';
  }
  const picture = pictures(look.picture);
  if (typeof picture === 'string') return picture;
  if (look.way !== 'blend' || look.share === 0) return [{ picture, opacity: 1 }];
  const next = pictures(look.next);
  if (typeof next === 'string') return next;
  const share = look.share / SHARES;
  if (look.mix === 'light') return [{ mixed: [picture, next], share, opacity: 1 }];
  return [
    { picture, opacity: 1 },
    { picture: next, opacity: share },
  ];
}

async function imagesOf(layers: readonly Wanted[]): Promise<{ readonly image: CanvasImageSource; readonly opacity: number }[]> {
  return Promise.all(
    layers.map(async (one) => {
      if ('bitmap' in one) return { image: one.bitmap, opacity: one.opacity };
      if ('mixed' in one) return { image: await mixedInLight(...one.mixed, one.share), opacity: one.opacity };
      return { image: await drawn(one.picture), opacity: one.opacity };
    }),
  );
}

async function mixedInLight(a: Composed, b: Composed, share: number): Promise<ImageBitmap> {
  const [first, second] = await Promise.all(
    [a, b].map(async (picture) => {
      const canvas = await drawn(picture);
      const pixels = canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height);
      if (!pixels) throw new Error('no canvas');
      return pixels;
    }),
  );
  if (!first || !second) throw new Error('no pictures');
  mixLightRgba(first.data, second.data, share, first.data);
  return createImageBitmap(first);
}
