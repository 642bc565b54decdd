import { open, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { namesIfThere, statIfThere } from '@thawline/media';
import { DOCUMENT_FORMAT } from '@thawline/project';
import BetterSqlite3 from 'better-sqlite3';
import { backupsFolder, makeBackup } from './backups.js';
import { bringDocumentsForward, oldestFormat } from './bringForward.js';
import { DATABASE_FILE, Database } from './database.js';
import { MIGRATIONS } from './migrations.js';
import { codeOf } from './storeError.js';

/** The data folder's database cannot be used as it is; `message` says what to do. */
export class OpeningError extends Error {
  constructor(
    message: string,
    /** lost: a backup can take its place. unusable: the file may be well, but the disk or its permissions keep it from being used. */
    override readonly cause: 'lost' | 'unusable' = 'lost',
  ) {
    super(message);
  }
}

export interface OpenOptions {
  /** Look through the whole database first: the server before did not close it. */
  readonly check?: boolean;
}

const REMEDY = 'Bring back a backup with "npx thawline restore": the file stays beside it.';
/** The first bytes of every SQLite database (https://www.sqlite.org/fileformat.html, 1.3). */
const MAGIC = 'SQLite format 3\0';
const HEADER_BYTES = 100;

/**
 * Opens a data folder's database and brings it up to date; a backup is made before anything is changed. A database that is hurt, foreign,
 * newer than this program or missing although its backups are there is refused with a sentence, and left as it is.
 */
export async function openDatabase(folder: string, { check = false }: OpenOptions = {}): Promise<Database> {
  const path = join(folder, DATABASE_FILE);
  const there = await lookAt(folder, path);
  if (there) {
    const { pending } = inspect(path, check);
    if (pending) await makeBackup(folder, 'before-update');
  }
  const database = new Database(folder);
  try {
    await database.open();
    await database.migrate();
    await bringDocumentsForward(database);
    // Says at once, and not at the first change, when nothing can be written here.
    await database.write(async () => undefined);
    return database;
  } catch (error) {
    await database.close();
    const code = codeOf(error);
    if (code?.startsWith('SQLITE')) throw new OpeningError(`${path} cannot be used (${code}). ${remedyFor(code)}`, causeOf(code));
    throw error;
  }
}

function remedyFor(code: string): string {
  if (code.startsWith('SQLITE_READONLY') || code.startsWith('SQLITE_CANTOPEN')) return 'Make the file and its folder writable.';
  if (code.startsWith('SQLITE_FULL') || code.startsWith('SQLITE_IOERR')) return 'Free some room on its disk, then start again.';
  return REMEDY;
}

function causeOf(code: string): OpeningError['cause'] {
  return /^SQLITE_(CORRUPT|NOTADB)/.test(code) ? 'lost' : 'unusable';
}

/** Whether there is a database. What only looks like none, or like an empty one, is refused: it would be an empty start. */
async function lookAt(folder: string, path: string): Promise<boolean> {
  const file = await stat(path).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null;
    throw new OpeningError(`${path} cannot be opened (${error.code}). Make the file and its folder readable.`, 'unusable');
  });
  if (!file) {
    const holds = await whatElse(folder);
    if (holds === null) return false;
    throw new OpeningError(`${path} is missing, though there are ${holds}. ${REMEDY}`);
  }
  if (!file.isFile()) throw new OpeningError(`${path} is not a file. Move it away, or give another folder: THAWLINE_DATA=...`);
  // A first start that was ended before it made anything leaves an empty file.
  if (file.size === 0 && (await whatElse(folder)) === null) return false;
  if (file.size === 0) throw new OpeningError(`${path} is empty: it has lost all it held. ${REMEDY}`);
  const header = await readHeader(path);
  if (header.subarray(0, MAGIC.length).toString('latin1') !== MAGIC)
    throw new OpeningError(`${path} is not a database. ${REMEDY}`);
  const log = await statIfThere(`${path}-wal`);
  // The header counts the pages; a log of changes that were not yet copied into the file makes its size say nothing.
  const pageSize = header.readUInt16BE(16) === 1 ? 65_536 : header.readUInt16BE(16);
  const wanted = header.readUInt32BE(28) * pageSize;
  if (!log?.size && file.size < wanted)
    throw new OpeningError(`${path} was cut off: ${file.size} of its ${wanted} bytes are there. ${REMEDY}`);
  return true;
}

/** What in a data folder says that there was a database; null where nothing does. */
async function whatElse(folder: string): Promise<string | null> {
  const holds = async (path: string): Promise<boolean> => (await namesIfThere(path)).length > 0;
  if (await holds(backupsFolder(folder))) return 'backups of it';
  if (await holds(join(folder, 'media'))) return 'files that it knew';
  return (await holds(join(folder, 'renders'))) ? 'renders of its projects' : null;
}

async function readHeader(path: string): Promise<Buffer> {
  const file = await open(path, 'r');
  try {
    const { buffer } = await file.read(Buffer.alloc(HEADER_BYTES), 0, HEADER_BYTES, 0);
    return buffer;
  } finally {
    await file.close();
  }
}

/** What the database is, and whether this program will change it. Only reads. */
function inspect(path: string, check: boolean): { readonly pending: boolean } {
  let raw: BetterSqlite3.Database | null = null;
  try {
    raw = new BetterSqlite3(path);
    const tables = raw.prepare("SELECT name FROM sqlite_master WHERE type = 'table'").pluck().all() as string[];
    if (tables.length > 0 && !(tables.includes('migrations') && tables.includes('project')))
      throw new OpeningError(`${path} is a database of another program. Move it away, or give another folder: THAWLINE_DATA=...`);
    const done = tables.includes('migrations') ? (raw.prepare('SELECT name FROM migrations').pluck().all() as string[]) : [];
    const known = MIGRATIONS.map((m) => m.name);
    const newer = done.find((name) => !known.includes(name));
    if (newer)
      throw new OpeningError(
        `${path} was written by a newer Thawline (${newer}). Start that one, or bring back a backup of before with "npx thawline restore".`,
      );
    if (check) {
      const [first] = raw.pragma('integrity_check(1)') as { integrity_check: string }[];
      if (first?.integrity_check !== 'ok') throw new OpeningError(`${path} is damaged (${first?.integrity_check}). ${REMEDY}`);
    }
    const oldest = oldestFormat(raw, tables);
    return { pending: tables.length > 0 && (done.length < known.length || oldest < DOCUMENT_FORMAT) };
  } catch (error) {
    if (error instanceof OpeningError) throw error;
    const code = codeOf(error) ?? String(error);
    if (/^SQLITE_(CORRUPT|NOTADB)/.test(code)) throw new OpeningError(`${path} is damaged (${code}). ${REMEDY}`);
    throw new OpeningError(`${path} cannot be opened (${code}). ${remedyFor(code)}`, causeOf(code));
  } finally {
    raw?.close();
  }
}
