import { Body, Controller, Get, HttpCode, Inject, Param, Post } from '@nestjs/common';
import { routes } from '@thawline/contract';
import { z } from 'zod';
import { Checked } from '../http/checked.js';
import { BackupsService } from './backups.service.js';
import { StorageService } from './storage.service.js';

const backupName = new Checked(z.string().max(100));

/** What takes the room, and copies of the database. */
@Controller()
export class StorageController {
  constructor(
    @Inject(StorageService) private readonly storage: StorageService,
    @Inject(BackupsService) private readonly backups: BackupsService,
  ) {}

  @Get('storage')
  usage() {
    return this.storage.usage();
  }

  @Post('storage/free')
  @HttpCode(200)
  free(@Body(new Checked(routes.freeStorage.body)) { kind }: z.infer<typeof routes.freeStorage.body>) {
    return this.storage.free(kind);
  }

  @Get('backups')
  list() {
    return this.backups.list();
  }

  @Post('backups')
  @HttpCode(200)
  make() {
    return this.backups.make();
  }

  @Get('backups/:backup')
  projects(@Param('backup', backupName) backup: string) {
    return this.backups.projects(backup);
  }

  @Post('backups/:backup/restore')
  @HttpCode(200)
  restore(
    @Param('backup', backupName) backup: string,
    @Body(new Checked(routes.restoreBackup.body)) { projectId }: z.infer<typeof routes.restoreBackup.body>,
  ) {
    return this.backups.restore(backup, projectId);
  }
}
