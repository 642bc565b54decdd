import { readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type DeskSpec, deskSpecSchema, specWords } from '@thawline/desk';
import { createDesk } from './desk.js';

/** `node main.js`: listens on 127.0.0.1 and DESK_PORT (0: any), keeps what it gets in DESK_DATA, wants what DESK_SPEC says. */
const root = fileURLToPath(new URL('../../..', import.meta.url));

const USUAL: DeskSpec = {
  name: 'Intake desk (simulated)',
  rates: [
    { num: 25, den: 1 },
    { num: 50, den: 1 },
  ],
  sizes: [],
  endings: ['mp4', 'mov', 'mkv'],
  loudness: null,
  peak: -1,
  heldPictures: false,
  fields: 'any',
  timecode: 'any',
  bytes: null,
};

function specification(): DeskSpec {
  const path = process.env.DESK_SPEC;
  if (!path) return USUAL;
  const parsed = deskSpecSchema.safeParse(JSON.parse(readFileSync(path, 'utf8')));
  if (!parsed.success) throw new Error(`DESK_SPEC ${path}: ${parsed.error.issues[0]?.message ?? 'not a specification'}`);
  return parsed.data;
}

try {
  const port = Number(process.env.DESK_PORT || 4750);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`DESK_PORT is "${process.env.DESK_PORT}": it has to be a number from 0 to 65535.`);
  const spec = specification();
  const desk = await createDesk(process.env.DESK_DATA || join(root, 'data', 'desk'), spec);
  desk.on('error', (error: NodeJS.ErrnoException) => {
    const taken = error.code === 'EADDRINUSE';
    process.stderr.write(taken ? 'That port is taken. Give another: DESK_PORT=4751\n' : `${error.message}\n`);
    process.exit(1);
  });
  desk.listen(port, '127.0.0.1', () => {
    const { port: own } = desk.address() as AddressInfo;
    process.stdout.write(`The intake desk is at http://127.0.0.1:${own} and takes ${specWords(spec)}\n`);
  });
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0));
} catch (error) {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
}
