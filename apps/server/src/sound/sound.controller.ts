import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Controller, Inject, Param, Query, Res } from '@nestjs/common';
import { frameRangeSchema, secondsRangeSchema, waveFormSchema } from '@thawline/contract';
import { WAVE_LEVELS } from '@thawline/core/sound';
import type { WavStream } from '@thawline/work';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { SoundService } from './sound.service.js';

const waveLevel = new Checked(
  z.coerce
    .number()
    .int()
    .min(0)
    .max(WAVE_LEVELS.length - 1),
);
const waveChunk = new Checked(z.coerce.number().int().min(0).max(1_000_000));

@Controller()
export class SoundController {
  constructor(@Inject(SoundService) private readonly sounds: SoundService) {}

  @Route('wave')
  async wave(
    @Param('media', checkedId) media: string,
    @Param('level', waveLevel) level: number,
    @Param('chunk', waveChunk) chunk: number,
    @Res() response: Response,
  ) {
    const bins = await this.sounds.wave(media, level, chunk);
    // Not made yet is nothing wrong: it is asked for again when it is.
    if (!bins) {
      response.status(204).end();
      return;
    }
    response.set({ 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.end(bins);
  }

  @Route('loudness')
  async loudness(
    @Param('media', checkedId) media: string,
    @Query(new Checked(secondsRangeSchema)) range: z.output<typeof secondsRangeSchema>,
    @Res() response: Response,
  ) {
    // Said by hand: Nest sends nothing at all for null.
    response.json(await this.sounds.loudness(media, range));
  }

  @Route('timelineSound')
  async sound(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Query(new Checked(frameRangeSchema)) range: z.output<typeof frameRangeSchema>,
    @Res() response: Response,
  ) {
    await send(response, await this.sounds.stretch(project, timeline, range, gone(response)));
  }

  @Route('timelineWave')
  async save(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Query(new Checked(waveFormSchema)) { form }: z.output<typeof waveFormSchema>,
    @Res() response: Response,
  ) {
    const { name, ...wave } = await this.sounds.whole(project, timeline, form, gone(response));
    response.attachment(name);
    await send(response, wave);
  }
}

/** As fast as it is read and no faster. */
async function send(response: Response, { bytes, parts }: WavStream): Promise<void> {
  response.set({ 'Content-Type': 'audio/wav', 'Content-Length': String(bytes), 'Cache-Control': 'no-store' });
  // On an error the reply is aborted, so that the client sees it is incomplete. A client that disconnects is no error.
  await pipeline(Readable.from(parts), response).catch((error: unknown) => {
    const { code } = error as NodeJS.ErrnoException;
    if (code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
  });
}

/** Who stops listening stops the decoding. */
function gone(response: Response): AbortSignal {
  const stop = new AbortController();
  response.on('close', () => stop.abort());
  return stop.signal;
}
