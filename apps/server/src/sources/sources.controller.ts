import { Body, Controller, Inject, Param, Query, Req, Res } from '@nestjs/common';
import {
  type Asker,
  addQuerySchema,
  askerSchema,
  findBodySchema,
  inPlaceBodySchema,
  readFieldsBodySchema,
  routes,
  scanBodySchema,
  uploadsBodySchema,
} from '@thawline/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { FoldersService } from './folders.service.js';
import { MediaService } from './media.service.js';
import { SourcesService } from './sources.service.js';
import { TablesService } from './tables.service.js';

/** An empty body is read as {}. */
const asker = new Checked(askerSchema.default({}));

@Controller()
export class SourcesController {
  constructor(
    @Inject(SourcesService) private readonly sources: SourcesService,
    @Inject(MediaService) private readonly media: MediaService,
    @Inject(FoldersService) private readonly folders: FoldersService,
    @Inject(TablesService) private readonly tables: TablesService,
  ) {}

  @Route('upload')
  upload(
    @Param('project', checkedId) project: string,
    @Query(new Checked(addQuerySchema)) query: z.output<typeof addQuerySchema>,
    @Req() request: Request,
  ) {
    return this.sources.upload(project, request, query);
  }

  @Route('addInPlace')
  addInPlace(
    @Param('project', checkedId) project: string,
    @Body(new Checked(inPlaceBodySchema)) body: z.output<typeof inPlaceBodySchema>,
  ) {
    return this.sources.addInPlace(project, body.items, body);
  }

  @Route('addUploads')
  addUploads(
    @Param('project', checkedId) project: string,
    @Body(new Checked(uploadsBodySchema)) body: z.output<typeof uploadsBodySchema>,
  ) {
    return this.sources.addUploads(project, body.uploads, body);
  }

  @Route('addRender')
  addRender(@Param('project', checkedId) project: string, @Param('job', checkedId) job: string, @Body(asker) by: Asker) {
    return this.sources.addRender(project, job, by);
  }

  @Route('renew')
  renew(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string, @Body(asker) by: Asker) {
    return this.sources.renew(project, source, by);
  }

  @Route('readFields')
  readFields(
    @Param('project', checkedId) project: string,
    @Body(new Checked(readFieldsBodySchema)) body: z.output<typeof readFieldsBodySchema>,
  ) {
    return this.sources.readFields(project, body.readings, body);
  }

  @Route('look')
  look(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string, @Body(asker) by: Asker) {
    return this.sources.look(project, source, by);
  }

  @Route('ledger')
  ledger(@Param('project', checkedId) project: string, @Param('source', checkedId) source: string) {
    return this.tables.ledger(project, source);
  }

  @Route('timelineCheck')
  timelineCheck(@Param('project', checkedId) project: string, @Param('timeline', checkedId) timeline: string) {
    return this.tables.timelineCheck(project, timeline);
  }

  @Route('reuse')
  reuse(@Param('project', checkedId) project: string) {
    return this.tables.reuse(project);
  }

  @Route('table')
  async table(@Param('project', checkedId) project: string, @Res() response: Response) {
    const csv = await this.tables.csv(project);
    response.set({ 'Content-Type': 'text/csv; charset=utf-8', 'Content-Disposition': 'attachment; filename="sources.csv"' });
    response.end(csv);
  }

  @Route('files')
  files(@Param('project', checkedId) project: string) {
    return this.sources.files(project);
  }

  @Route('folder')
  folder(@Query(new Checked(routes.folder.query)) query: z.output<typeof routes.folder.query>) {
    return this.folders.list(query.path);
  }

  @Route('scan')
  scan(@Body(new Checked(scanBodySchema)) body: z.output<typeof scanBodySchema>) {
    return this.folders.scan(body.paths);
  }

  @Route('find')
  find(@Param('media', checkedId) media: string, @Body(new Checked(findBodySchema)) body: z.output<typeof findBodySchema>) {
    return this.media.find(media, body.path);
  }

  @Route('timing')
  async timing(@Param('media', checkedId) media: string) {
    return (await this.media.media(media)).probe.timing;
  }
}
