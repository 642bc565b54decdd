import { Body, Controller, Inject, Param, Res } from '@nestjs/common';
import { openEditBodySchema } from '@thawline/contract';
import { EDIT_FORMS, type EditForm } from '@thawline/project';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { ExchangeService } from './exchange.service.js';

const form = new Checked(z.enum(EDIT_FORMS));

@Controller()
export class ExchangeController {
  constructor(@Inject(ExchangeService) private readonly exchange: ExchangeService) {}

  @Route('openEdit')
  open(
    @Param('project', checkedId) project: string,
    @Body(new Checked(openEditBodySchema)) body: z.output<typeof openEditBodySchema>,
  ) {
    return this.exchange.open(project, {
      file: body.file,
      text: body.text,
      edlRate: body.rate,
      by: { requestId: body.requestId, client: body.client },
    });
  }

  @Route('previewEdit')
  preview(
    @Param('project', checkedId) project: string,
    @Body(new Checked(openEditBodySchema)) body: z.output<typeof openEditBodySchema>,
  ) {
    return this.exchange.preview(project, body.file, body.text, body.rate);
  }

  @Route('editLosses')
  losses(
    @Param('project', checkedId) project: string,
    @Param('timeline', checkedId) timeline: string,
    @Param('form', form) as: EditForm,
  ) {
    return this.exchange.losses(project, timeline, as);
  }

  @Route('saveEdit')
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
