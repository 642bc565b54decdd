import { createHash, type Hash } from 'node:crypto';
import { frameContent } from '@thawline/core/cadence';
import type { Size } from '@thawline/core/picture';
import {
  atFieldRate,
  beneath,
  type Clip,
  dissolveShare,
  filesOf,
  isSphere,
  mappingOf,
  nestedOf,
  type SettledForm,
  type Source,
  segmentAt,
  sourceOf,
  withNested,
} from '@thawline/project';
import { comesClear, isSeen } from '../compose/compose.js';
import { groundOf, laidAt, type RenderInput, shapeOf, timingFrom } from '../compose/input.js';
import type { RenderColour } from './colour.js';
import type { Chunk } from './plan.js';
import { saysSphere } from './writeParts.js';

/**
 * The name of what a part shows: the same for the same pictures of the same files in the same form, wherever on a timeline they lie and
 * by whatever edit they came there. `makers` is what made them (makers.ts).
 */
export function contentOf(
  asked: RenderInput,
  {
    form,
    colour,
    chunk,
    makers,
  }: {
    readonly form: SettledForm;
    readonly colour: RenderColour;
    readonly chunk: Chunk;
    readonly makers: string;
  },
): string {
  // What each field shows tells two parts apart that would be alike frame by frame.
  const { fields } = asked;
  const timeline = fields ? atFieldRate(asked.timeline) : asked.timeline;
  const input = { ...asked, timeline };
  const [from, to] = fields ? [2 * chunk.from, 2 * chunk.to] : [chunk.from, chunk.to];
  const { look } = input;
  const { width, height, rate } = timeline;
  const hash = createHash('sha256');
  if (fields) hash.update(JSON.stringify(['fields', fields.order, fields.lowPass]));
  const ground = look ? [look.pixelFormat, groundOf({ look })] : null;
  hash.update(
    JSON.stringify([makers, form.codec, form.quality, form.grade, ground, saysSphere(input, form), colour, width, height, rate]),
  );
  shownOn(hash, input, { from, to });
  return hash.digest('hex').slice(0, 40);
}

/** What a range of frames shows, and where that is seen through, what lies beneath it. */
function shownOn(hash: Hash, input: RenderInput, { from, to }: Chunk): void {
  const { timeline } = input;
  const clear = (clip: Clip): boolean => {
    const source = sourceOf(input.project, clip.sourceId);
    if (!source || clip.opacity !== undefined) return clip.opacity !== undefined;
    return !laidAt(shapeOf(input, source), timeline, clip, timeline).covers || isSeen(input, source);
  };
  const seen = (clip: Clip, part: Chunk): void => {
    shownBy(hash, input, clip, part);
    if (!clear(clip)) return;
    hash.update(`over ${clip.opacity ?? 1}\n`);
    shownOn(hash, { ...input, timeline: beneath(timeline, clip) }, part);
  };
  for (let at = from; at < to; ) {
    const segment = segmentAt(timeline, at);
    const end = Math.min(to, segment?.to ?? to);
    const { clip = null, dissolve } = segment ?? {};
    if (dissolve) {
      for (let frame = at; frame < end; frame++) hash.update(`${dissolveShare(dissolve, frame)} `);
      seen(dissolve.out, { from: at, to: end });
      seen(dissolve.into, { from: at, to: end });
    } else if (clip) seen(clip, { from: at, to: end });
    else hash.update(`black ${end - at}\n`);
    at = end;
  }
}

function shownBy(hash: Hash, input: RenderInput, clip: Clip, { from, to }: Chunk): void {
  const { timeline } = input;
  const source = sourceOf(input.project, clip.sourceId);
  if (!source) {
    hash.update(`black ${to - from}\n`);
    return;
  }
  const size: Size = timeline;
  const mapping = mappingOf(clip, source, timeline, timingFrom(input.files));
  const { raster, kept, matrix, bounds } = laidAt(shapeOf(input, source), timeline, clip, size);
  const how = clip.fit === 'nearest' || clip.fit === 'pictures' || clip.fit === 'freeze' ? 'whole' : clip.fit;
  hash.update(
    JSON.stringify([
      identityOf(input, source),
      comesClear(input, clip, source),
      raster,
      kept,
      matrix,
      bounds,
      how,
      how === 'whole' && clip.shutter === 0 ? null : clip.mix,
    ]),
  );
  for (let frame = from; frame < to; frame++) {
    const { kind, parts } = frameContent(mapping, frame - clip.start);
    hash.update(`${kind} ${parts.map((e) => `${e.picture},${e.nextShare},${e.next ?? ''},${e.weight}`).join(' ')}\n`);
  }
}

/** What a source's pictures are, whatever they are called: the file's contents, or for a placed timeline all that is in it. */
function identityOf(input: RenderInput, source: Source): string {
  const inner = nestedOf(input.project, source.id);
  if (!inner) return fileIdentity(input, source);
  const timelines = withNested(input.project, inner).map(({ name: _name, marks: _marks, ...shown }) => shown);
  const sources = filesOf(input.project, inner).map((s) => [s.id, s.readAt, isSphere(s), fileIdentity(input, s)]);
  return createHash('sha256')
    .update(JSON.stringify([timelines, sources]))
    .digest('hex');
}

/** The same bytes whose fields are read in another way are other pictures. */
function fileIdentity(input: RenderInput, { mediaId }: Pick<Source, 'mediaId'>): string {
  const file = input.files[mediaId];
  const identity = file?.identity ?? mediaId;
  const read = file?.probe.fieldsRead;
  return read ? `${identity} ${JSON.stringify(read.runs)}` : identity;
}
