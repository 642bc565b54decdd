import { open } from 'node:fs/promises';
import { Inject, Injectable } from '@nestjs/common';
import type { FieldView } from '@thawline/contract';
import {
  type FieldOrder,
  FRAMES_BESIDE,
  fieldAlone,
  fieldDifference,
  oneWay,
  openRebuilder,
  unsureParts,
} from '@thawline/core/fields';
import { opaqueFormat, pictureBytes, pixelFacts, pixelLayout, planarName, settledColour } from '@thawline/core/picture';
import { asStored, type Media, type Probe, probeWithFields, readIfThere } from '@thawline/media';
import { proxyFiles, proxySize } from '@thawline/work';
import { z } from 'zod';
import { Failure } from '../http/failure.js';
import { MEDIA } from '../ports.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { MediaService } from '../sources/media.service.js';
import { DecodingTurns } from './decodingTurns.js';

const offsetsSchema = z.object({ offsets: z.array(z.int()) });

/** Gives exactly the picture that is asked for: from the proxy when there is one, else decoded from the original. */
@Injectable()
export class PicturesService {
  private readonly offsets = new Map<string, readonly number[]>();

  constructor(
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(DecodingTurns) private readonly turns: DecodingTurns,
    @Inject(SETTINGS) private readonly settings: Settings,
    @Inject(MEDIA) private readonly port: Media,
  ) {}

  async picture(mediaId: string, picture: number): Promise<Uint8Array> {
    const media = await this.media.media(mediaId);
    if (picture >= media.probe.pictures) {
      throw new Failure(
        'unknown-picture',
        { picture, pictures: media.probe.pictures },
        `There are ${media.probe.pictures} pictures, counted from 0.`,
      );
    }
    if (media.probe.kind === 'sound') throw new Failure('unknown-picture', { picture }, `${media.name} is sound alone.`);
    const folder = places.media(this.settings, mediaId);
    const offsets = await this.proxyOffsets(mediaId, folder);
    const from = offsets?.[picture];
    const to = offsets?.[picture + 1];
    if (from !== undefined && to !== undefined) return readRange(proxyFiles(folder).pictures, from, to);
    const request = { ...proxySize(media.probe), quality: 4, from: picture, count: 1 };
    const { path } = await this.media.open(mediaId);
    const jpeg = await this.turns.take(() => first(this.port.openStills(path, media.probe, request)));
    if (jpeg) return jpeg;
    throw new Failure('unknown-picture', { picture }, `Picture ${picture} of ${media.name} cannot be decoded.`);
  }

  /** A stored frame taken apart into its fields, at its full size: lines are what there is to see. */
  async field(
    mediaId: string,
    { frame, view, order }: { readonly frame: number; readonly view: FieldView; readonly order: FieldOrder },
  ): Promise<Uint8Array> {
    const media = await this.media.media(mediaId);
    const stored: Probe = { ...media.probe, ...asStored(media.probe) };
    if (stored.kind !== 'film' || stored.height % 2 !== 0) throw new Failure('no-fields', { source: media.name });
    if (frame >= stored.pictures)
      throw new Failure('unknown-picture', {}, `There are ${stored.pictures} frames, counted from 0.`);
    const { path } = await this.media.open(mediaId);
    const asRead = probeWithFields(stored, oneWay('one-a-field', stored.pictures, order));
    const pixelFormat = viewedFormat(stored.pixelFormat);
    const layout = pixelLayout(pixelFormat);
    if (!layout) throw new Failure('unknown-picture', {});
    const one = async (probe: Probe, from: number): Promise<Uint8Array> => {
      const found = await this.turns.take(() => first(this.port.openPictures(path, probe, { pixelFormat, from, count: 1 })));
      if (found) return found;
      throw new Failure('unknown-picture', {}, `Frame ${frame} of ${media.name} cannot be decoded.`);
    };
    const shown = async (): Promise<Uint8Array> => {
      const { width, height } = stored;
      if (view === 'rebuilt-first') return one(asRead, 2 * frame);
      if (view === 'rebuilt-second') return one(asRead, 2 * frame + 1);
      if (view === 'unsure-first' || view === 'unsure-second') {
        const at = Math.max(0, frame - FRAMES_BESIDE);
        const count = frame + FRAMES_BESIDE + 1 - at;
        const near = await this.turns.take(() => all(this.port.openPictures(path, stored, { pixelFormat, from: at, count })));
        const frames = Array.from({ length: 2 * FRAMES_BESIDE + 1 }, (_, i) => near[frame - FRAMES_BESIDE + i - at] ?? null);
        const keeps = (view === 'unsure-first') === (order === 'top') ? 'top' : 'bottom';
        const rebuilder = openRebuilder(layout, { width, height });
        const picture = new Uint8Array(pictureBytes(layout, width, height));
        rebuilder.rebuild({ number: frame, frames, keeps, first: order }, picture);
        return unsureParts(layout, { width, height, picture, doubts: rebuilder.doubts() });
      }
      const both = await one(stored, frame);
      if (view === 'both') return both;
      if (view === 'difference') return fieldDifference(layout, { width, height, a: both, b: await one(asRead, 2 * frame) });
      return fieldAlone(layout, {
        width,
        height,
        picture: both,
        keeps: (view === 'first') === (order === 'top') ? 'top' : 'bottom',
      });
    };
    const { width, height } = stored;
    const colour = settledColour(stored.colour, height);
    return this.port.jpegOf(await shown(), { width, height, pixelFormat, colour, most: width });
  }

  /**
   * Neighbouring pictures of a proxy in one go: how many, the length of each (32-bit, little-endian), then the JPEGs. Fewer
   * than asked at the clip's end.
   */
  async run(mediaId: string, picture: number, count: number): Promise<Uint8Array> {
    await this.media.media(mediaId);
    const folder = places.media(this.settings, mediaId);
    const offsets = await this.proxyOffsets(mediaId, folder);
    if (!offsets) throw new Failure('not-finished', {}, 'The proxy is not made yet.');
    const last = Math.min(offsets.length - 1, picture + count);
    if (last <= picture)
      throw new Failure('unknown-picture', { picture }, `There are ${offsets.length - 1} pictures, counted from 0.`);
    const head = Buffer.alloc(4 + (last - picture) * 4);
    head.writeUInt32LE(last - picture, 0);
    for (let k = picture; k < last; k++)
      head.writeUInt32LE((offsets[k + 1] as number) - (offsets[k] as number), 4 + (k - picture) * 4);
    return Buffer.concat([
      head,
      await readRange(proxyFiles(folder).pictures, offsets[picture] as number, offsets[last] as number),
    ]);
  }

  /** The thumbnail strip, made with the proxy. */
  async thumbs(mediaId: string): Promise<Uint8Array> {
    await this.media.media(mediaId);
    const strip = await readIfThere(proxyFiles(places.media(this.settings, mediaId)).thumbs);
    if (!strip) throw new Failure('not-finished', {}, 'The thumbnails are not made yet.');
    return strip;
  }

  /** Proxies were removed: what is asked for comes from the originals until they are made again. */
  forgetProxies(): void {
    this.offsets.clear();
  }

  private async proxyOffsets(mediaId: string, folder: string): Promise<readonly number[] | null> {
    const known = this.offsets.get(mediaId);
    if (known) return known;
    const text = await readIfThere(proxyFiles(folder).offsets);
    if (text === null) return null;
    const { offsets } = offsetsSchema.parse(JSON.parse(String(text)));
    this.offsets.set(mediaId, offsets);
    return offsets;
  }
}

async function readRange(path: string, from: number, to: number): Promise<Uint8Array> {
  const file = await open(path);
  try {
    const bytes = new Uint8Array(to - from);
    await file.read(bytes, 0, bytes.length, from);
    return bytes;
  } finally {
    await file.close();
  }
}

async function first<T>(items: AsyncIterable<T>): Promise<T | null> {
  for await (const item of items) return item;
  return null;
}

async function all<T>(items: AsyncIterable<T>): Promise<T[]> {
  const found: T[] = [];
  for await (const item of items) found.push(item);
  return found;
}

/** What fields are shown in: luma and chroma, as red, green and blue have no light of their own to fade or to differ in. */
function viewedFormat(pixelFormat: string): string {
  const opaque = opaqueFormat(pixelFormat);
  const facts = pixelFacts(opaque);
  return facts?.model === 'rgb' ? planarName({ model: 'yuv', bits: facts.bits, chroma: '4:4:4', alpha: false }) : opaque;
}
