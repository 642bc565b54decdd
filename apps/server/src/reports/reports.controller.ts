import { Controller, Inject, Param, Res } from '@nestjs/common';
import type { Response } from 'express';
import { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { REPORT_FORMS, type ReportForm, ReportsService } from './reports.service.js';

@Controller()
export class ReportsController {
  constructor(@Inject(ReportsService) private readonly reports: ReportsService) {}

  @Route('report')
  async report(
    @Param('project', checkedId) project: string,
    @Param('source', checkedId) source: string,
    @Param('form', new Checked(z.enum(REPORT_FORMS))) form: ReportForm,
    @Res() response: Response,
  ) {
    const { name, type, text } = await this.reports.report(project, source, form);
    // A page is looked at, everything else is kept.
    if (form !== 'html') response.attachment(name);
    response.type(type);
    response.end(text);
  }
}
