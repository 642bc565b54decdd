import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Post, Query } from '@nestjs/common';
import { type Asker, askerSchema, commandBodySchema, newProjectSchema } from '@thawline/contract';
import type { Command } from '@thawline/project';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { JobsService } from '../jobs/jobs.service.js';
import { ProjectsService } from './projects.service.js';

/** A request without a body asks for the change all the same. */
const asker = new Checked(askerSchema.default({}));
const window = new Checked(askerSchema.pick({ client: true }));
const revisionNumber = new Checked(z.coerce.number().int().min(0).max(100_000_000));

@Controller('projects')
export class ProjectsController {
  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
  ) {}

  @Get()
  list() {
    return this.projects.list();
  }

  @Post()
  @HttpCode(200)
  create(@Body(new Checked(newProjectSchema)) body: { name: string }) {
    return this.projects.create(body.name);
  }

  @Get(':project')
  read(@Param('project', checkedId) project: string, @Query(window) { client }: Asker) {
    return this.projects.read(project, client);
  }

  @Post(':project/copy')
  @HttpCode(200)
  copy(@Param('project', checkedId) project: string, @Body(new Checked(newProjectSchema)) body: { name: string }) {
    return this.projects.copy(project, body.name);
  }

  @Delete(':project')
  async delete(@Param('project', checkedId) project: string) {
    const projects = await this.projects.delete(project);
    await this.jobs.pauseAll(project);
    return projects;
  }

  @Post(':project/undelete')
  @HttpCode(200)
  async undelete(@Param('project', checkedId) project: string) {
    const projects = await this.projects.undelete(project);
    await this.jobs.resumeAll(project);
    return projects;
  }

  @Post(':project/commands')
  @HttpCode(200)
  command(
    @Param('project', checkedId) project: string,
    @Body(new Checked(commandBodySchema)) { command, ...by }: { command: Command } & Asker,
  ) {
    return this.projects.command(project, command, by);
  }

  @Post(':project/undo')
  @HttpCode(200)
  undo(@Param('project', checkedId) project: string, @Body(asker) by: Asker) {
    return this.projects.undo(project, by);
  }

  @Post(':project/redo')
  @HttpCode(200)
  redo(@Param('project', checkedId) project: string, @Body(asker) by: Asker) {
    return this.projects.redo(project, by);
  }

  @Get(':project/history')
  history(@Param('project', checkedId) project: string) {
    return this.projects.history(project);
  }

  @Post(':project/history/:number')
  @HttpCode(200)
  jump(@Param('project', checkedId) project: string, @Param('number', revisionNumber) number: number, @Body(asker) by: Asker) {
    return this.projects.jump(project, number, by);
  }
}
