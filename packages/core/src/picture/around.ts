import type { Size } from './place.js';

const { atan2, cos, floor, hypot, max, min, PI, sin, tan } = Math;

/** Where one looks in a picture of all around. Degrees: to the right, up, and from the left to the right edge of what is seen. */
export interface LookingAt {
  readonly yaw: number;
  readonly pitch: number;
  readonly wide: number;
}

/**
 * Where each pixel of a view lies in an equirectangular picture: pairs of a column and a row, in samples, columns from -0.5 to width - 0.5. The view is
 * a plain one (rectilinear), as a camera's.
 */
export function viewOf({ width, height }: Size, { yaw, pitch, wide }: LookingAt, view: Size): Float32Array {
  const places = new Float32Array(2 * view.width * view.height);
  const reach = tan((wide * PI) / 360);
  const [sine, cosine] = [sin((pitch * PI) / 180), cos((pitch * PI) / 180)];
  let at = 0;
  for (let j = 0; j < view.height; j++) {
    const up = ((1 - (2 * (j + 0.5)) / view.height) * reach * view.height) / view.width;
    // Turned up about the axis from left to right.
    const [ahead, above] = [cosine - up * sine, sine + up * cosine];
    for (let i = 0; i < view.width; i++) {
      const right = ((2 * (i + 0.5)) / view.width - 1) * reach;
      const turns = (atan2(right, ahead) / PI + yaw / 180) / 2 + 0.5;
      places[at++] = (turns - floor(turns)) * width - 0.5;
      places[at++] = (0.5 - atan2(above, hypot(right, ahead)) / PI) * height - 0.5;
    }
  }
  return places;
}

/** A view by its places: each pixel of the four around it; left and right edges of the picture are neighbours. */
export function drawView(
  from: { readonly data: Uint8ClampedArray; readonly width: number; readonly height: number },
  places: Float32Array,
  out: Uint8ClampedArray,
): void {
  const { data, width, height } = from;
  for (let k = 0; k < places.length; k += 2) {
    const [u, v] = [places[k], places[k + 1]];
    const [i, j] = [floor(u), floor(v)];
    const [right, down] = [u - i, v - j];
    const [left, next] = [i < 0 ? width - 1 : i, i + 1 >= width ? 0 : i + 1];
    const [above, below] = [max(0, j) * width, min(height - 1, j + 1) * width];
    for (let c = 0; c < 4; c++) {
      const a = data[4 * (above + left) + c] * (1 - right) + data[4 * (above + next) + c] * right;
      const b = data[4 * (below + left) + c] * (1 - right) + data[4 * (below + next) + c] * right;
      out[2 * k + c] = a + (b - a) * down;
    }
  }
}
