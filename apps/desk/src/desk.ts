import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import type { DeskSpec, Reason } from '@thawline/desk';
import { readIfThere, statIfThere } from '@thawline/media';
import { atomicWriteFile } from '@thawline/work';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import express, { type NextFunction, type Request, type Response } from 'express';
import PQueue from 'p-queue';
import { type Checker, checkInThread, examine } from './examine.js';

interface Delivery {
  readonly id: string;
  readonly upload: string;
  readonly name: string;
  readonly state: 'looking' | 'accepted' | 'refused';
  readonly reasons: readonly Reason[];
}

const ID = /^[A-Za-z0-9_-]{1,100}$/;

/**
 * The intake desk: a receiver that is simulated as far as nobody broadcasts what it takes, and otherwise real. It publishes what it wants,
 * takes uploads that may be cut off and go on, measures each delivery and says what it makes of it. The caller listens.
 */
export async function createDesk(folder: string, spec: DeskSpec, checker: Checker = checkInThread): Promise<Server> {
  const [uploads, deliveries] = [join(folder, 'uploads'), join(folder, 'deliveries')];
  for (const path of [uploads, deliveries]) await mkdir(path, { recursive: true });
  const tus = new TusServer({
    path: '/uploads',
    datastore: new FileStore({ directory: uploads }),
    relativeLocation: true,
    ...(spec.bytes === null ? {} : { maxSize: spec.bytes }),
  });

  const noteOf = (id: string): string => join(deliveries, `${id}.json`);
  const keep = (delivery: Delivery): Promise<void> => atomicWriteFile(noteOf(delivery.id), JSON.stringify(delivery));
  const look = async (delivery: Delivery): Promise<void> => {
    const reasons = await examine(join(uploads, delivery.upload), delivery.name, spec, checker);
    await keep({ ...delivery, state: reasons.length === 0 ? 'accepted' : 'refused', reasons });
  };
  /** Deliveries are examined one at a time, so that a busy desk still answers requests quickly. */
  const looking = new PQueue({ concurrency: 1 });
  const lookAt = (delivery: Delivery): void => {
    looking.add(() => look(delivery)).catch((error) => void process.stderr.write(`${String(error)}\n`));
  };

  // What it was looking at when it was ended it looks at again.
  for (const name of await readdir(deliveries)) {
    if (!name.endsWith('.json')) continue;
    const delivery = JSON.parse(await readFile(join(deliveries, name), 'utf8')) as Delivery;
    if (delivery.state === 'looking') lookAt(delivery);
  }

  const app = express();
  app.disable('x-powered-by');
  app.get('/specification', (_request, response) => void response.json(spec));
  app.all(/^\/uploads(\/|$)/, (request, response) => tus.handle(request, response));
  app.post('/deliveries', express.json({ limit: '16kb' }), async (request: Request, response: Response) => {
    const { upload, name } = (request.body ?? {}) as { upload?: unknown; name?: unknown };
    if (typeof upload !== 'string' || !ID.test(upload) || typeof name !== 'string' || name.length > 255) {
      response.status(400).json({ message: 'Say which upload it is and what it is called.' });
      return;
    }
    if (!(await isWhole(tus, uploads, upload))) {
      response.status(409).json({ message: 'That upload is not here, or not all of it.' });
      return;
    }
    const delivery: Delivery = { id: randomUUID(), upload, name, state: 'looking', reasons: [] };
    await keep(delivery);
    lookAt(delivery);
    response.status(201).json({ id: delivery.id });
  });
  app.get('/deliveries/:id', async (request: Request, response: Response) => {
    const { id = '' } = request.params as { id?: string };
    const text = ID.test(id) ? await readIfThere(noteOf(id)) : null;
    if (text === null) {
      response.status(404).json({ message: 'There is no such delivery.' });
      return;
    }
    const { state, reasons, name } = JSON.parse(String(text)) as Delivery;
    response.json({ id, name, state, reasons });
  });
  app.use((error: Error, _request: Request, response: Response, _next: NextFunction) => {
    response.status(400).json({ message: error.message });
  });
  return createServer(app);
}

async function isWhole(tus: TusServer, folder: string, upload: string): Promise<boolean> {
  const known = await tus.datastore.getUpload(upload).catch(() => null);
  const file = await statIfThere(join(folder, upload));
  return known?.size !== undefined && file?.size === known.size;
}
