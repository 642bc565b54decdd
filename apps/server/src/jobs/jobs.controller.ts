import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Post, Res } from '@nestjs/common';
import { routes, type StartJob, startJobSchema } from '@thawline/contract';
import type { Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { JobsService } from './jobs.service.js';
import { ResultsService } from './results.service.js';
import { StartsService } from './starts.service.js';

@Controller()
export class JobsController {
  constructor(
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(StartsService) private readonly starts: StartsService,
    @Inject(ResultsService) private readonly results: ResultsService,
  ) {}

  @Get('projects/:project/jobs')
  list(@Param('project', checkedId) project: string) {
    return this.jobs.list(project);
  }

  @Post('projects/:project/jobs')
  @HttpCode(200)
  start(@Param('project', checkedId) project: string, @Body(new Checked(startJobSchema)) body: StartJob) {
    return this.starts.start(project, body);
  }

  @Post('jobs/:job/pause')
  @HttpCode(200)
  pause(@Param('job', checkedId) job: string) {
    return this.jobs.pause(job);
  }

  @Post('jobs/:job/resume')
  @HttpCode(200)
  resume(@Param('job', checkedId) job: string) {
    return this.jobs.resume(job);
  }

  @Post('jobs/:job/again')
  @HttpCode(200)
  again(@Param('job', checkedId) job: string) {
    return this.jobs.again(job);
  }

  @Post('jobs/:job/move')
  @HttpCode(200)
  move(
    @Param('job', checkedId) job: string,
    @Body(new Checked(routes.moveJob.body)) { before }: z.infer<(typeof routes)['moveJob']['body']>,
  ) {
    return this.jobs.move(job, before);
  }

  @Get('jobs/:job/picture')
  async picture(@Param('job', checkedId) job: string, @Res() response: Response) {
    const jpeg = await this.jobs.picture(job);
    response.set('Cache-Control', 'no-store');
    if (!jpeg) response.status(204).end();
    else response.type('image/jpeg').end(jpeg);
  }

  @Get('jobs/:job/result')
  result(@Param('job', checkedId) job: string) {
    return this.results.result(job);
  }

  @Get('jobs/:job/trial')
  trial(@Param('job', checkedId) job: string) {
    return this.results.trial(job);
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
}
