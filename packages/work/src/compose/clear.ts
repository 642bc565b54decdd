import {
  deepFormat,
  differsInLight,
  isSeenThrough,
  opaqueFormat,
  pictureBytes,
  pixelFacts,
  type Size,
  settledColour,
  settledLight,
  unmultiply,
  workingFormat,
} from '@thawline/core/picture';
import { beneath, type Clip, type Segment, type Source, segmentsOf, sourceOf } from '@thawline/project';
import type { MediaContext } from '../jobs/context.js';
import { type FrameRange, type Look, laidAt, layoutOf, PLAIN, type RenderInput, rangeOf, shapeOf } from './input.js';

/** A clip's frames as they are asked for. */
export interface WantedClip {
  readonly clip: Clip;
  readonly source: Source;
  readonly range: FrameRange;
  /** Pixels that its pictures are brought to. */
  readonly box: Size;
}

/** How frames are composed; each is good until the next. */
export interface Composing {
  /** All layers, multiplied, at 16 bit. */
  readonly layered: (context: MediaContext, input: RenderInput, size: Size) => AsyncGenerator<Uint8Array>;
  /** One clip's pictures as they are stored, colour straight. */
  readonly straight: (context: MediaContext, input: RenderInput, wanted: WantedClip) => AsyncGenerator<Uint8Array>;
}

/**
 * Frames that keep their alpha, colour straight. A clip that is alone, in the very format that is asked for, passes sample by sample; all else is laid
 * at 16 bit, multiplied, and divided by alpha at the end: nothing is left of colour where nothing is seen.
 */
export async function* composedClear(
  context: MediaContext,
  input: RenderInput,
  size: Size,
  { layered, straight }: Composing,
): AsyncGenerator<Uint8Array> {
  const { look = PLAIN } = input;
  const layout = layoutOf({ look });
  const laid: Look = {
    ...look,
    pixelFormat: deepFormat(look.pixelFormat),
    opaque: opaqueFormat(look.pixelFormat),
  };
  const out = new Uint8Array(pictureBytes(layout, size.width, size.height));
  const full = look.colour?.range === 'full';
  for (const { alone, ...range } of stretchesOf(input, size)) {
    if (alone) {
      yield* straight(context, input, { ...alone, range });
      continue;
    }
    for await (const frame of layered(context, { ...input, look: laid, range }, size)) {
      unmultiply(layout, { ...size, full }, frame, out);
      yield out;
    }
  }
}

interface Stretch extends FrameRange {
  /** The clip that passes as it is. */
  readonly alone: Pick<WantedClip, 'clip' | 'source' | 'box'> | null;
}

/** The range in stretches whose frames come about alike. */
function stretchesOf(input: RenderInput, size: Size): Stretch[] {
  const range = rangeOf(input);
  const found: Stretch[] = [];
  const add = (to: number, alone: Stretch['alone']): void => {
    const before = found.at(-1);
    const from = before?.to ?? range.from;
    if (to <= from) return;
    if (before && !before.alone && !alone) found[found.length - 1] = { ...before, to };
    else found.push({ from, to, alone });
  };
  for (const segment of segmentsOf(input.timeline)) {
    const [from, to] = [Math.max(range.from, segment.from), Math.min(range.to, segment.to)];
    if (to <= from) continue;
    add(from, null);
    add(to, input.fields ? null : aloneOn(input, { ...segment, from, to }, size));
  }
  add(range.to, null);
  return found;
}

/** The clip of a segment, where it is all that frames are, at their size and in their very format. */
function aloneOn(input: RenderInput, { clip, dissolve, from, to }: Segment, size: Size): Stretch['alone'] {
  const source = clip && !dissolve && clip.opacity === undefined ? sourceOf(input.project, clip.sourceId) : undefined;
  const probe = source && input.files[source.mediaId]?.probe;
  if (!clip || !source || !probe || !isSeenThrough(probe) || probe.alpha === 'multiplied') return null;
  const { pixelFormat, colour } = input.look ?? PLAIN;
  const { raster: box, kept, quarters, bounds } = laidAt(shapeOf(input, source), input.timeline, clip, size);
  const isWhole = [box, kept, bounds, probe].every(({ width, height }) => width === size.width && height === size.height);
  if (!isWhole || quarters !== 0 || bounds.x !== 0 || bounds.y !== 0 || workingFormat(probe.pixelFormat) !== pixelFormat)
    return null;
  const stored = settledColour(probe.colour, probe.height);
  const light = { primaries: colour?.primaries ?? null, transfer: colour?.transfer ?? null };
  // Red, green and blue have no matrix, and are of full range either way.
  const isRgb = pixelFacts(pixelFormat)?.model === 'rgb';
  const differs =
    colour &&
    ((!isRgb && (stored.matrix !== colour.matrix || stored.range !== colour.range)) ||
      differsInLight(settledLight(probe.colour, light), light));
  const below = segmentsOf(beneath(input.timeline, clip)).some((s) => s.clip && s.from < to && s.to > from);
  return differs || below ? null : { clip, source, box };
}
