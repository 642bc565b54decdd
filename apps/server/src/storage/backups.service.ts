import { access } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import type { BackupProject, BackupReply, RestoredReply } from '@thawline/contract';
import { type Backup, backupsFolder, listBackups, makeBackup } from '../database/backups.js';
import { listBackedUp, readBackedUp } from '../database/readBackup.js';
import { besideOptions } from '../database/restore.js';
import { Store } from '../database/store.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';
import { now } from '../projects/projects.service.js';
import { SETTINGS, type Settings } from '../settings.js';

/** Copies of the database: one on each day of use, one before an update, and what a person asks for. The newest ten stay. */
@Injectable()
export class BackupsService implements OnApplicationBootstrap {
  private readonly logger = new Logger('backups');
  /** The day (UTC) that has its backup, or is getting it. */
  private backedUp: string | null = null;

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(EventsService) private readonly events: EventsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const [newest] = (await listBackups(this.settings.dataFolder)).filter((b) => b.reason === 'daily');
    this.backedUp = newest ? dayOf(newest.at) : null;
    // The first change of a day is what makes it a day of use.
    this.events.changes().subscribe(() => void this.daily());
  }

  list(): Promise<BackupReply[]> {
    return listBackups(this.settings.dataFolder);
  }

  make(): Promise<Backup> {
    return makeBackup(this.settings.dataFolder, 'by-hand');
  }

  /** The projects that a backup holds, the newest change first. */
  async projects(name: string): Promise<BackupProject[]> {
    return listBackedUp(await this.path(name));
  }

  /** Brings projects of a backup back beside the present ones; null: all of them. Nothing that is there is written over. */
  async restore(name: string, projectId: string | null): Promise<RestoredReply> {
    const path = await this.path(name);
    const at = (await this.list()).find((b) => b.name === name)?.at ?? now();
    const projects = (await readBackedUp(path, projectId)).map((archive) => ({
      archive,
      options: besideOptions(archive.document.name, at),
    }));
    if (projects.length === 0) throw new Failure('unknown-project', {}, 'This backup has no such project that can be read.');
    await this.store.addArchives(projects);
    return { projects: projects.map(({ options: { id, name: called } }) => ({ id, name: called })) };
  }

  private async path(name: string): Promise<string> {
    const known = (await this.list()).some((b) => b.name === name);
    const path = join(backupsFolder(this.settings.dataFolder), name);
    const there =
      known &&
      (await access(path).then(
        () => true,
        () => false,
      ));
    if (!there) throw new Failure('unknown-backup');
    return path;
  }

  private async daily(): Promise<void> {
    const today = dayOf(now());
    if (this.backedUp === today) return;
    const before = this.backedUp;
    this.backedUp = today;
    try {
      await makeBackup(this.settings.dataFolder, 'daily');
    } catch (error) {
      // The next change tries again.
      this.backedUp = before;
      this.logger.error(`no backup was made: ${String(error)}`);
    }
  }
}

function dayOf(iso: string): string {
  return iso.slice(0, 10);
}
