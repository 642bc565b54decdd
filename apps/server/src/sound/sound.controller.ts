import { Controller, Get, Inject, Param, Query, Res } from '@nestjs/common';
import { frameRangeSchema } from '@thawline/contract';
import type { Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { TimelinesService } from './timelines.service.js';

@Controller('projects/:project/timelines/:timeline')
export class TimelinesController {
  constructor(@Inject(TimelinesService) private readonly timelines: TimelinesService) {}

  @Get('sound')
  async sound(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Query(new Checked(frameRangeSchema)) range: z.output<typeof frameRangeSchema>,
    @Res() response: Response,
  ) {
    // Who stops listening stops the decoding.
    const stop = new AbortController();
    response.on('close', () => stop.abort());
    const wave = await this.timelines.sound(project, timeline, range, stop.signal);
    response.set({ 'Content-Type': 'audio/wav', 'Cache-Control': 'no-store' });
    response.end(wave);
  }
}
