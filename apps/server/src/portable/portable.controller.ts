import { pipeline } from 'node:stream/promises';
import { Body, Controller, Inject, Param, Query, Req, Res } from '@nestjs/common';
import { routes } from '@thawline/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { PortableService } from './portable.service.js';

type ExportQuery = z.output<typeof routes.exportProject.query>;
const exportQuery = new Checked(routes.exportProject.query);
const importBody = new Checked(routes.importProject.body);

@Controller()
export class PortableController {
  constructor(@Inject(PortableService) private readonly portable: PortableService) {}

  @Route('exportProject')
  async export(
    @Param('project', checkedId) project: string,
    @Query(exportQuery) { media }: ExportQuery,
    @Res() response: Response,
  ): Promise<void> {
    const { name, stream } = await this.portable.export(project, media === 'yes');
    response.attachment(name);
    response.type('application/zip');
    // Whoever stops listening ends it; a file that vanishes on the way ends the connection, and what came is no zip.
    await pipeline(stream, response).catch(() => response.destroy());
  }

  @Route('exportLosses')
  async losses(@Param('project', checkedId) project: string, @Query(exportQuery) { media }: ExportQuery) {
    return { losses: await this.portable.losses(project, media === 'yes') };
  }

  @Route('importProject')
  import(@Req() request: Request, @Body() body: unknown) {
    if (request.is('application/zip')) return this.portable.importStream(request);
    return this.portable.importUpload(importBody.transform(body).upload);
  }
}
