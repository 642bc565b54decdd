import { Body, Controller, Get, HttpCode, Inject, Param, Post } from '@nestjs/common';
import { commandBodySchema, newProjectSchema } from '@thawline/contract';
import type { Command } from '@thawline/project';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { ProjectsService } from './projects.service.js';

const revisionNumber = new Checked(z.coerce.number().int().min(0).max(100_000_000));

@Controller('projects')
export class ProjectsController {
  constructor(@Inject(ProjectsService) private readonly projects: ProjectsService) {}

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
  read(@Param('project', checkedId) project: string) {
    return this.projects.read(project);
  }

  @Post(':project/commands')
  @HttpCode(200)
  command(@Param('project', checkedId) project: string, @Body(new Checked(commandBodySchema)) body: { command: Command }) {
    return this.projects.command(project, body.command);
  }

  @Post(':project/undo')
  @HttpCode(200)
  undo(@Param('project', checkedId) project: string) {
    return this.projects.undo(project);
  }

  @Post(':project/redo')
  @HttpCode(200)
  redo(@Param('project', checkedId) project: string) {
    return this.projects.redo(project);
  }

  @Get(':project/history')
  history(@Param('project', checkedId) project: string) {
    return this.projects.history(project);
  }

  @Post(':project/history/:number')
  @HttpCode(200)
  jump(@Param('project', checkedId) project: string, @Param('number', revisionNumber) number: number) {
    return this.projects.jump(project, number);
  }
}
