import { Controller, Inject, Param, ParseIntPipe, Query, Res } from '@nestjs/common';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { ReceiptsService } from './receipts.service.js';

@Controller()
export class ReceiptsController {
  constructor(@Inject(ReceiptsService) private readonly receipts: ReceiptsService) {}

  @Route('receipts')
  list(@Param('project', checkedId) project: string) {
    return this.receipts.list(project);
  }

  @Route('receiptFile')
  async page(
    @Param('project', checkedId) project: string,
    @Param('job', checkedId) job: string,
    @Param('form', new Checked(z.enum(['json', 'html']))) form: 'json' | 'html',
    @Res() response: Response,
  ) {
    const { name, type, text } = await this.receipts.page(project, job, form);
    if (form === 'json') response.attachment(name);
    response.type(type);
    response.end(text);
  }

  @Route('renderFrame')
  async frame(
    @Param('job', checkedId) job: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Param('side', new Checked(z.enum(['written', 'asked']))) side: 'written' | 'asked',
    @Res() response: Response,
  ) {
    const jpeg = await this.receipts.frame(job, Math.max(0, frame), side);
    response.type('image/jpeg');
    response.end(jpeg);
  }

  @Route('file')
  async file(@Param('job', checkedId) job: string, @Query('name') name: unknown, @Res() response: Response) {
    const found = await this.receipts.file(job, typeof name === 'string' ? name : undefined);
    response.download(found.path, found.name);
  }
}
