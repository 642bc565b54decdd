import { open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { ffmpeg } from '@thawline/media';
import { proxyFiles, proxySize } from '@thawline/work';
import { z } from 'zod';
import { Failure } from '../http/failure.js';
import { places, SETTINGS, type Settings } from '../settings.js';
import { SourcesService } from '../sources/sources.service.js';

const offsetsSchema = z.object({ offsets: z.array(z.int()) });

/** Gives exactly the picture that is asked for: from the proxy when there is one, else decoded from the original. */
@Injectable()
export class PicturesService {
  private readonly offsets = new Map<string, readonly number[]>();

  constructor(
    @Inject(SourcesService) private readonly sources: SourcesService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async picture(mediaId: string, picture: number): Promise<Uint8Array> {
    const media = await this.sources.media(mediaId);
    if (picture >= media.probe.pictures) {
      throw new Failure(
        'unknown-picture',
        { picture, pictures: media.probe.pictures },
        `There are ${media.probe.pictures} pictures, counted from 0.`,
      );
    }
    const folder = places.media(this.settings, mediaId);
    const offsets = await this.proxyOffsets(mediaId, folder);
    const from = offsets?.[picture];
    const to = offsets?.[picture + 1];
    if (from !== undefined && to !== undefined) return readRange(proxyFiles(folder).pictures, from, to);
    const request = { ...proxySize(media.probe), quality: 4, from: picture, count: 1 };
    for await (const jpeg of ffmpeg.openJpegs(join(folder, media.fileName), media.probe, request)) return jpeg;
    throw new Failure('unknown-picture', { picture }, `Picture ${picture} of ${media.name} cannot be decoded.`);
  }

  private async proxyOffsets(mediaId: string, folder: string): Promise<readonly number[] | null> {
    const known = this.offsets.get(mediaId);
    if (known) return known;
    const text = await readFile(proxyFiles(folder).offsets, 'utf8').catch(() => null);
    if (text === null) return null;
    const { offsets } = offsetsSchema.parse(JSON.parse(text));
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
