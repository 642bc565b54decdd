import { type Box, type FramingWay, placeBox, type Size } from './place.js';

const { ceil, cos, floor, max, min, PI, round, sin, sqrt } = Math;

/** How a picture is laid by hand, on top of its framing. */
export interface Pose {
  /** Cut off from each side, in shares of the picture's width or height. Nothing else moves by it. */
  readonly crop: { readonly left: number; readonly top: number; readonly right: number; readonly bottom: number };
  /** How far the anchor is from where the framing puts it, in shares of the frame's width and height. */
  readonly x: number;
  readonly y: number;
  /** Times as wide and as high as the framing makes it. */
  readonly scaleX: number;
  readonly scaleY: number;
  /** Degrees, clockwise. */
  readonly turn: number;
  /** The point that scale and turn leave where it is, in shares of the picture. */
  readonly anchorX: number;
  readonly anchorY: number;
}

/** Nothing done by hand. */
export const PLAIN_POSE: Pose = {
  crop: { left: 0, top: 0, right: 0, bottom: 0 },
  x: 0,
  y: 0,
  scaleX: 1,
  scaleY: 1,
  turn: 0,
  anchorX: 0.5,
  anchorY: 0.5,
};

/** x' = a x + c y + e, y' = b x + d y + f. */
export interface Affine {
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
  readonly e: number;
  readonly f: number;
}

export interface Point {
  readonly x: number;
  readonly y: number;
}

export function pointBy({ a, b, c, d, e, f }: Affine, { x, y }: Point): Point {
  return { x: a * x + c * y + e, y: b * x + d * y + f };
}

/** First one, then the other. */
export function after(first: Affine, then: Affine): Affine {
  return {
    a: then.a * first.a + then.c * first.b,
    b: then.b * first.a + then.d * first.b,
    c: then.a * first.c + then.c * first.d,
    d: then.b * first.c + then.d * first.d,
    e: then.a * first.e + then.c * first.f + then.e,
    f: then.b * first.e + then.d * first.f + then.f,
  };
}

/** The way back. The affine must not be flat. */
export function inverted({ a, b, c, d, e, f }: Affine): Affine {
  const size = a * d - b * c;
  return {
    a: d / size,
    b: -b / size,
    c: -c / size,
    d: a / size,
    e: (c * f - d * e) / size,
    f: (b * e - a * f) / size,
  };
}

/** A picture in a frame. All in pixels; edges lie between pixels. */
export interface Laid {
  /** What the whole picture is brought to before it is turned. */
  readonly raster: Size;
  /** What of that is seen. */
  readonly kept: Box;
  /** From the raster to the frame: a turn and a shift; of very large pictures they grow by it, too. */
  readonly matrix: Affine;
  /** Quarters of a turn, 0 to 3: pixels come to lie on pixels. Null: any other angle. */
  readonly quarters: 0 | 1 | 2 | 3 | null;
  /** Pixels of the frame in which it is seen. Of quarters it may reach over the frame's edges. */
  readonly bounds: Box;
  /** Nothing of the frame is left. */
  readonly covers: boolean;
}

/** The least that a picture may become. */
const LEAST = 2;
/** Pixels that a picture is brought to at most before it is turned, unless its framing alone has more: what is larger is magnified as it is turned. */
const RASTER_MOST = 4096 * 4096;

/** Sines and cosines of quarters are whole. */
function turnOf(degrees: number): { readonly quarters: Laid['quarters']; readonly sine: number; readonly cosine: number } {
  const turn = ((degrees % 360) + 360) % 360;
  if (turn % 90 !== 0) return { quarters: null, sine: sin((turn * PI) / 180), cosine: cos((turn * PI) / 180) };
  const quarters = (turn / 90) as 0 | 1 | 2 | 3;
  return { quarters, sine: [0, 1, 0, -1][quarters] as number, cosine: [1, 0, -1, 0][quarters] as number };
}

/** The corners of a box. */
export function cornersOf({ x, y, width, height }: Box): readonly [Point, Point, Point, Point] {
  return [
    { x, y },
    { x: x + width, y },
    { x: x + width, y: y + height },
    { x, y: y + height },
  ];
}

/**
 * Where a picture lies in a frame. By its framing alone it has even sides and stands at even places, as halved chroma wants it; laid by hand it stands
 * at whole pixels unless it is turned by other than quarters.
 * @param source its size with square pixels
 * @param frame as the pose means it
 * @param size of the frames that are composed, which may be smaller
 */
export function layPicture(
  source: Size,
  frame: Size,
  {
    framing = 'inside',
    pose,
    size = frame,
  }: { readonly framing?: FramingWay; readonly pose?: Pose | undefined; readonly size?: Size } = {},
): Laid {
  const [across, down] = [size.width / frame.width, size.height / frame.height];
  const same = across === 1 && down === 1;
  const even = (n: number): number => max(LEAST, round(n / 2) * 2);
  const whole = placeBox(source, frame, framing);
  const base = same
    ? whole
    : {
        x: round((whole.x * across) / 2) * 2,
        y: round((whole.y * down) / 2) * 2,
        width: even(whole.width * across),
        height: even(whole.height * down),
      };
  if (!pose) return straight(base, size);
  const wanted = {
    width: pose.scaleX === 1 ? base.width : even(whole.width * pose.scaleX * across),
    height: pose.scaleY === 1 ? base.height : even(whole.height * pose.scaleY * down),
  };
  const share = sqrt(max(RASTER_MOST, base.width * base.height) / (wanted.width * wanted.height));
  const raster = share >= 1 ? wanted : { width: even(wanted.width * share), height: even(wanted.height * share) };
  const [growX, growY] = [wanted.width / raster.width, wanted.height / raster.height];
  const { left, top, right, bottom } = pose.crop;
  const kept = keptOf(raster, { left, top, right, bottom });
  const { sine, cosine, ...turn } = turnOf(pose.turn);
  const quarters = share >= 1 ? turn.quarters : null;
  const anchor = { x: pose.anchorX * raster.width, y: pose.anchorY * raster.height };
  const at = {
    x: base.x + pose.anchorX * base.width + pose.x * size.width,
    y: base.y + pose.anchorY * base.height + pose.y * size.height,
  };
  const turned = { a: cosine * growX, b: sine * growX, c: -sine * growY, d: cosine * growY };
  const exact: Affine = {
    ...turned,
    e: at.x - turned.a * anchor.x - turned.c * anchor.y,
    f: at.y - turned.b * anchor.x - turned.d * anchor.y,
  };
  // Of quarters pixels lie on pixels once the shift is whole.
  const matrix = quarters === null ? exact : { ...exact, e: round(exact.e), f: round(exact.f) };
  const corners = cornersOf(kept).map((corner) => pointBy(matrix, corner));
  const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
  const ends = { left: floor(min(...xs)), top: floor(min(...ys)), right: ceil(max(...xs)), bottom: ceil(max(...ys)) };
  // Turned freely each pixel is worked out: none outside the frame.
  const free = quarters === null;
  const [x, y] = free ? [max(0, ends.left), max(0, ends.top)] : [ends.left, ends.top];
  const [toX, toY] = free ? [min(size.width, ends.right), min(size.height, ends.bottom)] : [ends.right, ends.bottom];
  const bounds = { x, y, width: max(0, toX - x), height: max(0, toY - y) };
  return { raster, kept, matrix, quarters, bounds, covers: coversBy(matrix, { kept, quarters, bounds, size }) };
}

/** By the framing alone. */
function straight(box: Box, size: Size): Laid {
  const { x, y, width, height } = box;
  return {
    raster: { width, height },
    kept: { x: 0, y: 0, width, height },
    matrix: { a: 1, b: 0, c: 0, d: 1, e: x, f: y },
    quarters: 0,
    bounds: box,
    covers: holds(box, size),
  };
}

function keptOf({ width, height }: Size, { left, top, right, bottom }: Pose['crop']): Box {
  const x = min(width - 1, round(left * width));
  const y = min(height - 1, round(top * height));
  return { x, y, width: max(1, width - x - round(right * width)), height: max(1, height - y - round(bottom * height)) };
}

const holds = ({ x, y, width, height }: Box, size: Size): boolean =>
  x <= 0 && y <= 0 && x + width >= size.width && y + height >= size.height;

/** Edges of turned pictures are soft for so many pixels. */
const SOFT = 2;

function coversBy(
  matrix: Affine,
  {
    kept,
    quarters,
    bounds,
    size,
  }: { readonly kept: Box; readonly quarters: Laid['quarters']; readonly bounds: Box; readonly size: Size },
): boolean {
  if (quarters !== null) return holds(bounds, size);
  const back = inverted(matrix);
  return cornersOf({ x: 0, y: 0, ...size }).every((corner) => {
    const { x, y } = pointBy(back, corner);
    return x >= kept.x + SOFT && y >= kept.y + SOFT && x <= kept.x + kept.width - SOFT && y <= kept.y + kept.height - SOFT;
  });
}

/** The part of a convex polygon that lies within another one (Sutherland and Hodgman 1974); empty where they do not meet. */
export function meet(polygon: readonly Point[], within: readonly Point[]): Point[] {
  const area = signedArea(within);
  let found = [...polygon];
  for (const [i, p] of within.entries()) {
    const q = within[(i + 1) % within.length] as Point;
    // Positive on the inner side of an edge.
    const side = (r: Point): number => ((q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x)) * (area < 0 ? -1 : 1);
    const cut: Point[] = [];
    for (const [k, r] of found.entries()) {
      const s = found[(k + 1) % found.length] as Point;
      const [here, there] = [side(r), side(s)];
      if (here >= 0) cut.push(r);
      if (here * there >= 0) continue;
      const share = here / (here - there);
      cut.push({ x: r.x + (s.x - r.x) * share, y: r.y + (s.y - r.y) * share });
    }
    found = cut;
  }
  return found;
}

/** The area of a polygon. */
export function areaOf(polygon: readonly Point[]): number {
  return Math.abs(signedArea(polygon));
}

/** Positive where corners follow each other as on a clock's face (y goes down). */
function signedArea(polygon: readonly Point[]): number {
  const doubled = polygon.reduce((sum, p, i) => {
    const q = polygon[(i + 1) % polygon.length] as Point;
    return sum + p.x * q.y - q.x * p.y;
  }, 0);
  return doubled / 2;
}
