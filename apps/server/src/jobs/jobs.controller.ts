import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Post, Res } from '@nestjs/common';
import { startJobSchema } from '@thawline/contract';
import type { Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { JobsService } from './jobs.service.js';
import { ResultsService } from './results.service.js';

@Controller()
export class JobsController {
  constructor(
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(ResultsService) private readonly results: ResultsService,
  ) {}

  @Get('projects/:project/jobs')
  list(@Param('project', checkedId) project: string) {
    return this.jobs.list(project);
  }

  @Post('projects/:project/jobs')
  @HttpCode(200)
  async start(
    @Param('project', checkedId) project: string,
    @Body(new Checked(startJobSchema)) body: z.infer<typeof startJobSchema>,
  ) {
    if (body.kind === 'check') return this.jobs.startChecks(project, body.sourceIds, body);
    if (body.kind === 'align') return [await this.jobs.startAlign(project, body.a, body.b)];
    if (body.kind === 'heldout' || body.kind === 'pan' || body.kind === 'sound')
      return [await this.jobs.startMeasure(project, body.kind, body.sourceId)];
    if (body.kind === 'compare') return [await this.jobs.startCompare(project, body.a, body.b)];
    return [await this.jobs.startRender(project, body.timelineId, body.range)];
  }

  @Delete('jobs/:job')
  stop(@Param('job', checkedId) job: string) {
    return this.jobs.stop(job);
  }

  @Get('projects/:project/checks')
  checks(@Param('project', checkedId) project: string) {
    return this.results.checks(project);
  }

  @Get('media/:media/check')
  check(@Param('media', checkedId) media: string) {
    return this.results.check(media);
  }

  @Get('media/:media/check/part')
  async partCheck(@Param('media', checkedId) media: string, @Res() response: Response) {
    // Said by hand: Nest sends nothing at all for null.
    response.json(await this.results.partCheck(media));
  }

  @Get('media/:media/pan')
  async pan(@Param('media', checkedId) media: string, @Res() response: Response) {
    response.json(await this.results.pan(media));
  }

  @Get('projects/:project/aligned/:a/:b')
  async aligned(
    @Param('project', checkedId) project: string,
    @Param('a', checkedId) a: string,
    @Param('b', checkedId) b: string,
    @Res() response: Response,
  ) {
    response.json(await this.results.aligned(project, a, b));
  }

  @Get('media/:media/heldout')
  async heldOut(@Param('media', checkedId) media: string, @Res() response: Response) {
    response.json(await this.results.heldOut(media));
  }

  @Get('projects/:project/comparisons')
  comparisons(@Param('project', checkedId) project: string) {
    return this.results.comparisons(project);
  }

  @Get('jobs/:job/comparison')
  comparison(@Param('job', checkedId) job: string) {
    return this.results.comparison(job);
  }

  @Get('projects/:project/receipts')
  receipts(@Param('project', checkedId) project: string) {
    return this.results.receipts(project);
  }

  @Get('jobs/:job/file')
  async file(@Param('job', checkedId) job: string, @Res() response: Response) {
    const { path, name } = await this.results.file(job);
    response.download(path, name);
  }
}
