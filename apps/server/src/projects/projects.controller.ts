import { Body, Controller, Inject, Param, Query } from '@nestjs/common';
import { type Asker, askerSchema, commandBodySchema, newProjectSchema } from '@thawline/contract';
import type { Command } from '@thawline/project';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { JobsService } from '../jobs/jobs.service.js';
import { ProjectsService } from './projects.service.js';

/** An empty body is read as {}. */
const asker = new Checked(askerSchema.default({}));
const window = new Checked(askerSchema.pick({ client: true }));
const revisionNumber = new Checked(z.coerce.number().int().min(0).max(100_000_000));

@Controller()
export class ProjectsController {
  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(JobsService) private readonly jobs: JobsService,
  ) {}

  @Route('listProjects')
  list() {
    return this.projects.list();
  }

  @Route('createProject')
  create(@Body(new Checked(newProjectSchema)) body: { name: string }) {
    return this.projects.create(body.name);
  }

  @Route('readProject')
  read(@Param('project', checkedId) project: string, @Query(window) { client }: Asker) {
    return this.projects.read(project, client);
  }

  @Route('copyProject')
  copy(@Param('project', checkedId) project: string, @Body(new Checked(newProjectSchema)) body: { name: string }) {
    return this.projects.copy(project, body.name);
  }

  @Route('deleteProject')
  async delete(@Param('project', checkedId) project: string) {
    const projects = await this.projects.delete(project);
    await this.jobs.pauseAll(project);
    return projects;
  }

  @Route('undeleteProject')
  async undelete(@Param('project', checkedId) project: string) {
    const projects = await this.projects.undelete(project);
    await this.jobs.resumeAll(project);
    return projects;
  }

  @Route('command')
  command(
    @Param('project', checkedId) project: string,
    @Body(new Checked(commandBodySchema)) { command, ...by }: { command: Command } & Asker,
  ) {
    return this.projects.command(project, command, by);
  }

  @Route('undo')
  undo(@Param('project', checkedId) project: string, @Body(asker) by: Asker) {
    return this.projects.undo(project, by);
  }

  @Route('redo')
  redo(@Param('project', checkedId) project: string, @Body(asker) by: Asker) {
    return this.projects.redo(project, by);
  }

  @Route('history')
  history(@Param('project', checkedId) project: string) {
    return this.projects.history(project);
  }

  @Route('jump')
  jump(@Param('project', checkedId) project: string, @Param('number', revisionNumber) number: number, @Body(asker) by: Asker) {
    return this.projects.jump(project, number, by);
  }
}
