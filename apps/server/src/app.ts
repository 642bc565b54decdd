import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { extname, join } from 'node:path';
import { type DynamicModule, Module, type OnApplicationShutdown } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { ffmpeg } from '@thawline/media';
import { runInThread } from '@thawline/work';
import { type NextFunction, type Request, type Response, static as serveStatic } from 'express';
import { Database } from './database/database.js';
import { FOLDER_LOCK, type FolderLock, takeFolder } from './database/folderLock.js';
import { openDatabase } from './database/opening.js';
import { Store } from './database/store.js';
import { EventsController } from './events/events.controller.js';
import { EventsService } from './events/events.service.js';
import { ExchangeController } from './exchange/exchange.controller.js';
import { ExchangeService } from './exchange/exchange.service.js';
import { AboutController } from './http/about.controller.js';
import { Failure, FailureFilter } from './http/failure.js';
import { idleLimit, knownBodiesOnly, refuse, sameSiteOnly, securityHeaders, tokenNeeded } from './http/guard.js';
import { CacheService } from './jobs/cache.service.js';
import { JobsController } from './jobs/jobs.controller.js';
import { JobsService } from './jobs/jobs.service.js';
import { OutputsController } from './jobs/outputs.controller.js';
import { PresetsService } from './jobs/presets.service.js';
import { ResultsService } from './jobs/results.service.js';
import { SpecsService } from './jobs/specs.service.js';
import { StartsService } from './jobs/starts.service.js';
import { DecodingTurns } from './pictures/decodingTurns.js';
import { PicturesController } from './pictures/pictures.controller.js';
import { PicturesService } from './pictures/pictures.service.js';
import { PortableController } from './portable/portable.controller.js';
import { PortableService } from './portable/portable.service.js';
import { MEDIA, RUNNER, type Runner } from './ports.js';
import { ProjectsController } from './projects/projects.controller.js';
import { ProjectsService } from './projects/projects.service.js';
import { ReceiptsController } from './receipts/receipts.controller.js';
import { ReceiptsService } from './receipts/receipts.service.js';
import { ReportsController } from './reports/reports.controller.js';
import { ReportsService } from './reports/reports.service.js';
import { SETTINGS, type Settings } from './settings.js';
import { SoundController } from './sound/sound.controller.js';
import { SoundService } from './sound/sound.service.js';
import { FoldersService } from './sources/folders.service.js';
import { MediaService } from './sources/media.service.js';
import { SourcesController } from './sources/sources.controller.js';
import { SourcesService } from './sources/sources.service.js';
import { TablesService } from './sources/tables.service.js';
import { BackupsService } from './storage/backups.service.js';
import { StorageController } from './storage/storage.controller.js';
import { StorageService } from './storage/storage.service.js';
import { UPLOADS_PATH, UploadsService } from './uploads/uploads.service.js';

/** What is open of the data folder; closed last of all, so that others may take it. */
class DataFolder implements OnApplicationShutdown {
  private constructor(
    readonly database: Database,
    readonly lock: FolderLock,
  ) {}

  static async open(folder: string): Promise<DataFolder> {
    const lock = await takeFolder(folder);
    try {
      return new DataFolder(await openDatabase(folder, { check: !lock.lastEndClean }), lock);
    } catch (error) {
      // The database was not fully checked: the next start checks it again.
      await lock.release({ clean: lock.lastEndClean });
      throw error;
    }
  }

  async onApplicationShutdown(): Promise<void> {
    await this.database.close();
    await this.lock.release({ clean: true });
  }
}

@Module({})
class AppModule {
  static with(settings: Settings, data: DataFolder, runner: Runner): DynamicModule {
    return {
      module: AppModule,
      controllers: [
        SoundController,
        ExchangeController,
        AboutController,
        ProjectsController,
        SourcesController,
        PicturesController,
        JobsController,
        OutputsController,
        ReceiptsController,
        EventsController,
        ReportsController,
        StorageController,
        PortableController,
      ],
      providers: [
        { provide: SETTINGS, useValue: settings },
        { provide: DataFolder, useValue: data },
        { provide: Database, useValue: data.database },
        { provide: FOLDER_LOCK, useValue: data.lock },
        { provide: RUNNER, useValue: runner },
        { provide: MEDIA, useValue: ffmpeg },
        Store,
        EventsService,
        ProjectsService,
        SpecsService,
        CacheService,
        PresetsService,
        JobsService,
        StartsService,
        ReceiptsService,
        ResultsService,
        FoldersService,
        MediaService,
        SourcesService,
        TablesService,
        PicturesService,
        DecodingTurns,
        ExchangeService,
        SoundService,
        ReportsService,
        StorageService,
        BackupsService,
        PortableService,
        UploadsService,
      ],
    };
  }
}

/** Jobs run in threads of the compiled worker. */
const WORKER = new URL(import.meta.resolve('@thawline/work/jobs/worker'));
const inThreads: Runner = (job, listener) => runInThread(WORKER, job, listener);

/** Builds the server on its data folder; the caller listens and closes. */
export async function createApp(settings: Settings): Promise<NestExpressApplication> {
  const data = await DataFolder.open(settings.dataFolder);
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(settings, data, inThreads), {
    logger: ['error', 'warn'],
    forceCloseConnections: true,
    // Only JSON is read as a body, by the parser below.
    bodyParser: false,
  });
  app.use(securityHeaders());
  app.use(sameSiteOnly(settings.host));
  if (settings.token !== null) app.use(tokenNeeded(settings.token));
  app.use(knownBodiesOnly);
  app.use(idleLimit());
  const uploads = app.get(UploadsService);
  app.use(UPLOADS_PATH, (request: Request, response: Response) => {
    // The protocol's server reads the whole address.
    request.url = request.originalUrl;
    return uploads.handle(request, response);
  });
  app.setGlobalPrefix('api');
  app.useGlobalFilters(new FailureFilter());
  app.useBodyParser('json', { limit: '32mb' });
  // A request may take as long as it goes on coming: see idleLimit.
  app.getHttpServer().requestTimeout = 0;
  if (settings.webFolder && existsSync(settings.webFolder)) serveWeb(app, settings.webFolder);
  app.enableShutdownHooks();
  return app;
}

/** The built interface; every address of its own that is not a file gets its page. */
function serveWeb(app: NestExpressApplication, folder: string): void {
  app.use(serveStatic(folder, { index: false, maxAge: '1h' }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || request.path.startsWith('/api/') || request.path === '/api') return next();
    // A missing script or picture is a 404: the page in its place would be taken for it.
    if (request.path.startsWith('/assets/') || extname(request.path) !== '')
      return refuse(response, new Failure('unknown-route', {}, 'There is nothing at this address.'));
    response.set('Cache-Control', 'no-store');
    response.sendFile(join(folder, 'index.html'));
  });
}
