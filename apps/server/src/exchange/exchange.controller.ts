import { Body, Controller, Get, HttpCode, Inject, Param, Post, Res } from '@nestjs/common';
import { openEditBodySchema } from '@thawline/contract';
import { EDIT_FORMS, type EditForm } from '@thawline/project';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { ExchangeService } from './exchange.service.js';

const form = new Checked(z.enum(EDIT_FORMS));

@Controller('projects/:project')
export class ExchangeController {
  constructor(@Inject(ExchangeService) private readonly exchange: ExchangeService) {}

  @Post('edits')
  @HttpCode(200)
  open(
    @Param('project', checkedId) project: string,
    @Body(new Checked(openEditBodySchema)) body: z.output<typeof openEditBodySchema>,
  ) {
    return this.exchange.open(project, body.file, body.text, body.rate, { requestId: body.requestId, client: body.client });
  }

  @Post('edits/preview')
  @HttpCode(200)
  preview(
    @Param('project', checkedId) project: string,
    @Body(new Checked(openEditBodySchema)) body: z.output<typeof openEditBodySchema>,
  ) {
    return this.exchange.preview(project, body.file, body.text, body.rate);
  }

  @Get('timelines/:timeline/edit/:form/losses')
  losses(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Param('form', form) as: EditForm,
  ) {
    return this.exchange.losses(project, timeline, as);
  }

  @Get('timelines/:timeline/edit/:form')
  async save(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Param('form', form) as: EditForm,
    @Res() response: Response,
  ) {
    const { name, text } = await this.exchange.save(project, timeline, as);
    response.attachment(name);
    response.type(as === 'otio' ? 'application/json' : 'text/plain');
    response.end(text);
  }
}
