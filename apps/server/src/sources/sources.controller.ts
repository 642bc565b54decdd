import { Body, Controller, Get, HttpCode, Inject, Param, Post, Query, Req, Res } from '@nestjs/common';
import {
  type Asker,
  addQuerySchema,
  askerSchema,
  findBodySchema,
  inPlaceBodySchema,
  routes,
  scanBodySchema,
  uploadsBodySchema,
} from '@thawline/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { FoldersService } from './folders.service.js';
import { MediaService } from './media.service.js';
import { SourcesService } from './sources.service.js';
import { TablesService } from './tables.service.js';

/** A request without a body asks for the change all the same. */
const asker = new Checked(askerSchema.default({}));

@Controller()
export class SourcesController {
  constructor(
    @Inject(SourcesService) private readonly sources: SourcesService,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(FoldersService) private readonly folders: FoldersService,
    @Inject(TablesService) private readonly tables: TablesService,
  ) {}

  @Post('projects/:project/sources')
  @HttpCode(200)
  upload(
    @Param('project', checkedId) project: string,
    @Query(new Checked(addQuerySchema)) query: z.output<typeof addQuerySchema>,
    @Req() request: Request,
  ) {
    return this.sources.upload(project, request, query);
  }

  @Post('projects/:project/sources/in-place')
  @HttpCode(200)
  addInPlace(
    @Param('project', checkedId) project: string,
    @Body(new Checked(inPlaceBodySchema)) body: z.output<typeof inPlaceBodySchema>,
  ) {
    return this.sources.addInPlace(project, body.items, body);
  }

  @Post('projects/:project/sources/uploads')
  @HttpCode(200)
  addUploads(
    @Param('project', checkedId) project: string,
    @Body(new Checked(uploadsBodySchema)) body: z.output<typeof uploadsBodySchema>,
  ) {
    return this.sources.addUploads(project, body.uploads, body);
  }

  @Post('projects/:project/sources/renders/:job')
  @HttpCode(200)
  addRender(@Param('project', checkedId) project: string, @Param('job', checkedId) job: string, @Body(asker) by: Asker) {
    return this.sources.addRender(project, job, by);
  }

  @Post('projects/:project/sources/:source/renew')
  @HttpCode(200)
  renew(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string, @Body(asker) by: Asker) {
    return this.sources.renew(project, source, by);
  }

  @Post('projects/:project/sources/:source/look')
  @HttpCode(200)
  look(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string, @Body(asker) by: Asker) {
    return this.sources.look(project, source, by);
  }

  @Get('projects/:project/sources/:source/ledger')
  ledger(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string) {
    return this.tables.ledger(project, source);
  }

  @Get('projects/:project/timelines/:timeline/check')
  timelineCheck(@Param('project', checkedId) project: string, @Param('timeline', checkedId) timeline: string) {
    return this.tables.timelineCheck(project, timeline);
  }

  @Get('projects/:project/reuse')
  reuse(@Param('project', checkedId) project: string) {
    return this.tables.reuse(project);
  }

  @Get('projects/:project/sources.csv')
  async table(@Param('project', checkedId) project: string, @Res() response: Response) {
    const csv = await this.tables.csv(project);
    response.set({ 'Content-Type': 'text/csv; charset=utf-8', 'Content-Disposition': 'attachment; filename="sources.csv"' });
    response.end(csv);
  }

  @Get('projects/:project/files')
  files(@Param('project', checkedId) project: string) {
    return this.sources.files(project);
  }

  @Get('folders')
  folder(@Query(new Checked(routes.folder.query)) query: z.output<typeof routes.folder.query>) {
    return this.folders.list(query.path);
  }

  @Post('folders/scan')
  @HttpCode(200)
  scan(@Body(new Checked(scanBodySchema)) body: z.output<typeof scanBodySchema>) {
    return this.folders.scan(body.paths);
  }

  @Post('media/:media/find')
  @HttpCode(200)
  find(@Param('media', checkedId) media: string, @Body(new Checked(findBodySchema)) body: z.output<typeof findBodySchema>) {
    return this.media.find(media, body.path);
  }

  @Get('media/:media/timing')
  async timing(@Param('media', checkedId) media: string) {
    return (await this.media.media(media)).probe.timing;
  }
}
