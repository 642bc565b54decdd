import { Controller, Get, HttpCode, Inject, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import { checkedId } from '../http/checked.js';
import { SourcesService } from './sources.service.js';

@Controller()
export class SourcesController {
  constructor(@Inject(SourcesService) private readonly sources: SourcesService) {}

  @Post('projects/:project/sources')
  @HttpCode(200)
  upload(@Param('project', checkedId) project: string, @Req() request: Request) {
    return this.sources.upload(project, request);
  }

  @Get('media/:media/timing')
  async timing(@Param('media', checkedId) media: string) {
    return (await this.sources.media(media)).probe.timing;
  }
}
