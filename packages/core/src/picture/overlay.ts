import { nothingIn, risen } from './alpha.js';
import { USUAL_SITING } from './colour.js';
import { type PixelLayout, planeShifts, planeSizes } from './format.js';
import { type Box, type Size, samplesOf } from './place.js';

const { max, min, round } = Math;

/** Samples of luma that one of halved chroma stands for, and how much each counts: two beside it, or the one it lies on and its neighbours. */
const [BETWEEN, ON, BEHIND] = [
  [
    [0, 0.5],
    [1, 0.5],
  ],
  [
    [-1, 0.25],
    [0, 0.5],
    [1, 0.25],
  ],
  [
    [0, 0.25],
    [1, 0.5],
    [2, 0.25],
  ],
] as const;

type Taps = readonly (readonly [away: number, share: number])[];

/** The same for a plane, across and down. */
function tapsOf({ shiftX, shiftY }: { readonly shiftX: number; readonly shiftY: number }, siting: string): [Taps, Taps] {
  const whole = [[0, 1]] as const;
  const across = /left/.test(siting) ? ON : BETWEEN;
  const down = /^top/.test(siting) ? ON : /^bottom/.test(siting) ? BEHIND : BETWEEN;
  return [shiftX === 0 ? whole : across, shiftY === 0 ? whole : down];
}

/**
 * Lays a picture with alpha over a frame: out = a + b (1 - alpha of a), with a multiplied (Porter and Duff 1984, "Compositing digital images"). Where
 * the frame has colour for several pixels, each of them takes its part in it.
 * @param over layout of the picture: luma and chroma for each pixel (or three colours), and alpha; colour multiplied around black
 * @param picture packed, of the box's size
 * @param layout of the frame: luma and chroma, luma alone, or three colours where the picture has them; with alpha it is multiplied
 * @param full luma goes from 0, not from black at 16 of 255
 * @param siting where the frame's halved chroma lies
 * @param opacity how much of it is seen, 0 to 1
 * @param out the frame, packed; changed where the box is
 */
export function overlay(
  over: PixelLayout,
  layout: PixelLayout,
  {
    picture,
    box,
    frame,
    full,
    siting = USUAL_SITING,
    opacity = 1,
    out,
  }: {
    readonly picture: Uint8Array;
    readonly box: Box;
    readonly frame: Size;
    readonly full: boolean;
    readonly siting?: string | undefined;
    readonly opacity?: number;
    readonly out: Uint8Array;
  },
): void {
  const [from, to] = [samplesOf(over, picture), samplesOf(layout, out)];
  const n = box.width * box.height;
  const alphaAt = 3 * n;
  const mostOver = 2 ** over.bits - 1;
  const most = 2 ** layout.bits - 1;
  const shifts = planeShifts(layout);
  let at = 0;
  planeSizes(layout, frame.width, frame.height).forEach((size, plane) => {
    const { shiftX, shiftY } = shifts[plane];
    const isAlpha = layout.alpha && plane === shifts.length - 1;
    // What stands for nothing: multiplied colour goes around it.
    const none = isAlpha ? 0 : nothingIn(layout, plane, full);
    const noneOver = isAlpha ? 0 : nothingIn(over, plane, full);
    const own = isAlpha ? alphaAt : plane * n;
    const up = isAlpha ? most / mostOver : risen(over, layout);
    const [across, down] = tapsOf(shifts[plane], siting);
    const [left, top] = [max(0, (box.x - shiftX) >> shiftX), max(0, (box.y - 2 * shiftY) >> shiftY)];
    const right = min(size.width, ((box.x + box.width) >> shiftX) + 1);
    const bottom = min(size.height, ((box.y + box.height) >> shiftY) + 1);
    for (let y = top; y < bottom; y++) {
      for (let x = left; x < right; x++) {
        let [colour, alpha] = [0, 0];
        for (let j = 0; j < down.length; j++) {
          // Beyond the frame its last line goes on.
          const py = max(0, min(frame.height - 1, (y << shiftY) + down[j][0])) - box.y;
          if (py < 0 || py >= box.height) continue;
          for (let i = 0; i < across.length; i++) {
            const px = max(0, min(frame.width - 1, (x << shiftX) + across[i][0])) - box.x;
            if (px < 0 || px >= box.width) continue;
            const k = py * box.width + px;
            const share = down[j][1] * across[i][1];
            colour += share * (from[own + k] - noneOver);
            alpha += share * from[alphaAt + k];
          }
        }
        if (alpha === 0) continue;
        const place = at + y * size.width + x;
        const kept = 1 - (opacity * alpha) / mostOver;
        to[place] = max(0, min(most, round(none + opacity * colour * up + (to[place] - none) * kept)));
      }
    }
    at += size.width * size.height;
  });
}

/**
 * Lays a picture without alpha over a frame of the same layout, so much of it as is seen.
 * @param picture packed, of the box's size
 * @param opacity 0 to 1
 * @param out the frame, packed; changed where the box is
 */
export function layOver(
  layout: PixelLayout,
  {
    picture,
    box,
    frame,
    opacity,
    out,
  }: {
    readonly picture: Uint8Array;
    readonly box: Box;
    readonly frame: Size;
    readonly opacity: number;
    readonly out: Uint8Array;
  },
): void {
  const [from, to] = [samplesOf(layout, picture), samplesOf(layout, out)];
  const shifts = planeShifts(layout);
  const small = planeSizes(layout, box.width, box.height);
  let [source, target] = [0, 0];
  planeSizes(layout, frame.width, frame.height).forEach((size, plane) => {
    const { shiftX, shiftY } = shifts[plane];
    const { width, height } = small[plane];
    const [left, top] = [box.x >> shiftX, box.y >> shiftY];
    for (let y = max(0, -top); y < min(height, size.height - top); y++) {
      for (let x = max(0, -left); x < min(width, size.width - left); x++) {
        const place = target + (y + top) * size.width + x + left;
        to[place] = round(to[place] + (from[source + y * width + x] - to[place]) * opacity);
      }
    }
    source += width * height;
    target += size.width * size.height;
  });
}
