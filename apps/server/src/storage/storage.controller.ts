import { Body, Controller, Inject, Param } from '@nestjs/common';
import { routes } from '@thawline/contract';
import { z } from 'zod';
import { Checked } from '../http/checked.js';
import { Route } from '../http/route.js';
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

  @Route('storage')
  usage() {
    return this.storage.usage();
  }

  @Route('freeStorage')
  free(@Body(new Checked(routes.freeStorage.body)) { kind }: z.infer<typeof routes.freeStorage.body>) {
    return this.storage.free(kind);
  }

  @Route('backups')
  list() {
    return this.backups.list();
  }

  @Route('makeBackup')
  make() {
    return this.backups.make();
  }

  @Route('backupProjects')
  projects(@Param('backup', backupName) backup: string) {
    return this.backups.projects(backup);
  }

  @Route('restoreBackup')
  restore(
    @Param('backup', backupName) backup: string,
    @Body(new Checked(routes.restoreBackup.body)) { projectId }: z.infer<typeof routes.restoreBackup.body>,
  ) {
    return this.backups.restore(backup, projectId);
  }
}
