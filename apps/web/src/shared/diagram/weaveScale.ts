/** Sizes of the weave's drawing, in CSS pixels. Pure. */

export const LEFT = 108;
/** Height of a picture's and of a frame's box. */
export const BOX = 26;
/** From this size on, pixels a frame, pictures and frames bear their numbers. */
const NUMBERED = 30;
/** From this size on the film strip is shown. */
const STRIP = 80;
/** Under this size, frames are columns of a painting. */
const DRAWN = 10;
const WIDEST = 220;

export interface WeaveScale {
  /** Pixels a frame. */
  readonly unit: number;
  /** First frame that is drawn, and how many fit. */
  readonly from: number;
  readonly shown: number;
  readonly x: (place: number) => number;
  readonly numbered: boolean;
  readonly pictureWidth: number;
  readonly frameWidth: number;
  /** Null without a film strip. */
  readonly strip: { readonly width: number; readonly height: number } | null;
  /** Upper edges of the pictures' and of the frames' boxes. */
  readonly top: number;
  readonly bottom: number;
  readonly height: number;
}

interface Asked {
  /** Width of the drawing. */
  readonly width: number;
  /** Pixels a frame that are asked for; under 10: the whole clip. */
  readonly zoom: number;
  /** The picture that each frame shows. */
  readonly pictures: ArrayLike<number>;
  /** The frame at which the playhead is. */
  readonly at: number;
  /** Whether there are pictures to make a film strip of, and their width over height. */
  readonly strip: boolean;
  readonly aspect: number;
  /** Whether a screen's refreshes are drawn beneath. */
  readonly screen: boolean;
}

/** @returns null where frames would be too narrow to draw: the whole clip is one painting then */
export function weaveScale({ width, zoom, pictures, at, strip, aspect, screen }: Asked): WeaveScale | null {
  const room = Math.max(0, width - LEFT - 12);
  const frames = pictures.length;
  const whole = room / Math.max(1, frames);
  if (zoom < DRAWN && whole < DRAWN) return null;
  // As many frames as keep the boxes of the denser row readable.
  const density = frames > 1 ? ((pictures[frames - 1] as number) - (pictures[0] as number)) / (frames - 1) : 1;
  const asked = zoom < DRAWN ? whole : zoom;
  const unit = Math.min(WIDEST, zoom >= NUMBERED ? Math.max(asked, (asked - 2) * Math.max(1, density)) : asked);
  const shown = Math.max(3, Math.floor(room / unit));
  const from = Math.max(0, Math.min(at - Math.floor(shown / 2), frames - shown));
  const picture = unit / Math.max(1, density);
  const stripWidth = Math.min(picture * 0.94, 150);
  const film = strip && zoom >= STRIP ? { width: stripWidth, height: Math.min(72, stripWidth / aspect) } : null;
  const top = 18 + (film ? film.height + 6 : 0);
  const bottom = top + 74;
  return {
    unit,
    from,
    shown,
    x: (place) => LEFT + (place - from + 0.5) * unit,
    numbered: unit >= NUMBERED,
    pictureWidth: Math.min(30, picture * 0.86),
    frameWidth: Math.min(34, unit * 0.9),
    strip: film,
    top,
    bottom,
    height: bottom + 48 + (screen ? 26 : 0),
  };
}
