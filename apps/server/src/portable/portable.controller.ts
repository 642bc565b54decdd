import { pipeline } from 'node:stream/promises';
import { Body, Controller, Get, HttpCode, Inject, Param, Post, Query, Req, Res } from '@nestjs/common';
import { routes } from '@thawline/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { PortableService } from './portable.service.js';

type ExportQuery = z.output<typeof routes.exportProject.query>;
const exportQuery = new Checked(routes.exportProject.query);
const importBody = new Checked(routes.importProject.body);

@Controller('projects')
export class PortableController {
  constructor(@Inject(PortableService) private readonly portable: PortableService) {}

  @Get(':project/file')
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

  @Get(':project/file/losses')
  async losses(@Param('project', checkedId) project: string, @Query(exportQuery) { media }: ExportQuery) {
    return { losses: await this.portable.losses(project, media === 'yes') };
  }

  @Post('import')
  @HttpCode(200)
  import(@Req() request: Request, @Body() body: unknown) {
    if (request.is('application/zip')) return this.portable.importStream(request);
    return this.portable.importUpload(importBody.transform(body).upload);
  }
}
