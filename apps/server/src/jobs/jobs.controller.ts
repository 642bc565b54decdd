import { Body, Controller, Inject, Param, Res } from '@nestjs/common';
import { routes, type StartJob, startJobSchema } from '@thawline/contract';
import type { Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
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

  @Route('jobs')
  list(@Param('project', checkedId) project: string) {
    return this.jobs.list(project);
  }

  @Route('startJobs')
  start(@Param('project', checkedId) project: string, @Body(new Checked(startJobSchema)) body: StartJob) {
    return this.starts.start(project, body);
  }

  @Route('pauseJob')
  pause(@Param('job', checkedId) job: string) {
    return this.jobs.pause(job);
  }

  @Route('resumeJob')
  resume(@Param('job', checkedId) job: string) {
    return this.jobs.resume(job);
  }

  @Route('againJob')
  again(@Param('job', checkedId) job: string) {
    return this.jobs.again(job);
  }

  @Route('moveJob')
  move(
    @Param('job', checkedId) job: string,
    @Body(new Checked(routes.moveJob.body)) { before }: z.infer<(typeof routes)['moveJob']['body']>,
  ) {
    return this.jobs.move(job, before);
  }

  @Route('jobPicture')
  async picture(@Param('job', checkedId) job: string, @Res() response: Response) {
    const jpeg = await this.jobs.picture(job);
    response.set('Cache-Control', 'no-store');
    if (!jpeg) response.status(204).end();
    else response.type('image/jpeg').end(jpeg);
  }

  @Route('jobResult')
  result(@Param('job', checkedId) job: string) {
    return this.results.result(job);
  }

  @Route('trial')
  trial(@Param('job', checkedId) job: string) {
    return this.results.trial(job);
  }

  @Route('stopJob')
  stop(@Param('job', checkedId) job: string) {
    return this.jobs.stop(job);
  }

  @Route('checks')
  checks(@Param('project', checkedId) project: string) {
    return this.results.checks(project);
  }

  @Route('check')
  check(@Param('media', checkedId) media: string) {
    return this.results.check(media);
  }

  @Route('partCheck')
  async partCheck(@Param('media', checkedId) media: string, @Res() response: Response) {
    // Said by hand: Nest sends nothing at all for null.
    response.json(await this.results.partCheck(media));
  }

  @Route('pan')
  async pan(@Param('media', checkedId) media: string, @Res() response: Response) {
    response.json(await this.results.pan(media));
  }

  @Route('aligned')
  async aligned(
    @Param('project', checkedId) project: string,
    @Param('a', checkedId) a: string,
    @Param('b', checkedId) b: string,
    @Res() response: Response,
  ) {
    response.json(await this.results.aligned(project, a, b));
  }

  @Route('heldOut')
  async heldOut(@Param('media', checkedId) media: string, @Res() response: Response) {
    response.json(await this.results.heldOut(media));
  }

  @Route('comparisons')
  comparisons(@Param('project', checkedId) project: string) {
    return this.results.comparisons(project);
  }

  @Route('comparison')
  comparison(@Param('job', checkedId) job: string) {
    return this.results.comparison(job);
  }
}
