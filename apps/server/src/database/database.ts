import { join } from 'node:path';
import { DataSource, type EntityManager } from 'typeorm';
import { ENTITIES } from './entities.js';
import { MIGRATIONS } from './migrations.js';
import { asStoreError, codeOf } from './storeError.js';

/** The database's name in its data folder. */
export const DATABASE_FILE = 'thawline.sqlite';

/** What is used of better-sqlite3's own connection, which TypeORM leaves to us. */
export interface RawConnection {
  readonly open: boolean;
  /** Whether SQLite itself says that a transaction is open; other layers' own records may be wrong. */
  readonly inTransaction: boolean;
  exec(sql: string): void;
  pragma(text: string, options?: { readonly simple?: boolean }): unknown;
}

/** Another program (a shell, a copying tool) may hold the database's lock for a moment; it is waited for without holding up anybody. */
const LOCK_WAIT_MS = 5000;
const LOCK_ASK_EVERY_MS = 20;

/**
 * The database of a data folder: one connection that writes, one that reads. Readers see what was committed and nothing else, also while
 * a transaction of several awaited statements is under way.
 */
export class Database {
  readonly reader: DataSource;
  private readonly writer: DataSource;
  private last: Promise<unknown> = Promise.resolve();
  private closed = false;

  constructor(folder: string) {
    const database = join(folder, DATABASE_FILE);
    this.writer = new DataSource({
      type: 'better-sqlite3',
      database,
      entities: ENTITIES,
      migrations: MIGRATIONS,
      // In WAL mode, FULL syncs the log at every commit: what was acknowledged survives a power cut.
      prepareDatabase: (raw: RawConnection) => void raw.pragma('synchronous = FULL'),
      enableWAL: true,
      timeout: 0,
    });
    this.reader = new DataSource({ type: 'better-sqlite3', database, entities: ENTITIES, readonly: true });
  }

  /** Opens both connections; migrations are the caller's to run before (`migrate`). */
  async open(): Promise<void> {
    await this.writer.initialize();
    await this.reader.initialize();
  }

  /** Migrations that this database has not had yet. */
  async migrate(): Promise<void> {
    await this.writer.runMigrations({ transaction: 'all' });
  }

  /** SQL that would still be needed to make the tables what the entities say: none, or a migration is missing. */
  async missingSql(): Promise<string[]> {
    const { upQueries } = await this.writer.driver.createSchemaBuilder().log();
    return upQueries.map((q) => q.query);
  }

  /**
   * Does one thing in one transaction: all of it is on the disk when this resolves, or none of it is there. Writes take turns, so that no
   * other request's statement slips in. Whatever fails, the connection is outside of a transaction afterwards, or it is opened anew.
   * @throws StoreError where the storage would not take it; otherwise what `work` threw
   */
  write<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    const turn = async (): Promise<T> => {
      try {
        await this.begin();
        const result = await work(this.writer.manager);
        this.raw.exec('COMMIT');
        return result;
      } catch (error) {
        await this.leaveTransaction();
        throw asStoreError(error) ?? error;
      }
    };
    const next = this.last.then(turn, turn);
    this.last = next.catch(() => undefined);
    return next;
  }

  /** A setting or a figure of the writing connection. For tests and for the check at start; never for data. */
  pragma(text: string): unknown {
    return this.raw.pragma(text, { simple: true });
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.last;
    for (const source of [this.reader, this.writer]) if (source.isInitialized) await source.destroy();
  }

  private get raw(): RawConnection {
    return (this.writer.driver as unknown as { databaseConnection: RawConnection }).databaseConnection;
  }

  private async begin(): Promise<void> {
    // The last failure may have left nothing to write with.
    if (!this.writer.isInitialized) await this.reopen();
    for (let waited = 0; ; waited += LOCK_ASK_EVERY_MS) {
      try {
        return this.raw.exec('BEGIN IMMEDIATE');
      } catch (error) {
        if (!codeOf(error)?.startsWith('SQLITE_BUSY') || waited >= LOCK_WAIT_MS) throw error;
      }
      await new Promise((resolve) => setTimeout(resolve, LOCK_ASK_EVERY_MS));
    }
  }

  /**
   * Takes back what is open. SQLite ends a transaction by itself after some errors (a full disk, an I/O error) and leaves it open after
   * others, a failed COMMIT among them; only SQLite knows which, so it is asked.
   */
  private async leaveTransaction(): Promise<void> {
    if (!this.writer.isInitialized) return;
    try {
      if (this.raw.inTransaction) this.raw.exec('ROLLBACK');
    } catch {
      // What SQLite says now counts, not what was thrown.
    }
    if (!this.raw.open || this.raw.inTransaction) await this.reopen().catch(() => undefined);
  }

  private async reopen(): Promise<void> {
    if (this.closed) throw new Error('the database was closed');
    if (this.writer.isInitialized) await this.writer.destroy();
    await this.writer.initialize();
  }
}
