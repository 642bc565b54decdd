import type { MigrationInterface, QueryRunner } from 'typeorm';

export class First1763900000000 implements MigrationInterface {
  name = 'First1763900000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "project" ("id" text PRIMARY KEY NOT NULL, "name" text NOT NULL, "version" integer NOT NULL, "document" text NOT NULL, "createdAt" text NOT NULL, "changedAt" text NOT NULL)`,
    );
    await runner.query(
      `CREATE TABLE "revision" ("id" integer PRIMARY KEY AUTOINCREMENT NOT NULL, "projectId" text NOT NULL, "number" integer NOT NULL, "label" text NOT NULL, "command" text NOT NULL, "forward" text NOT NULL, "backward" text NOT NULL, "undone" boolean NOT NULL, "at" text NOT NULL, CONSTRAINT "FK_1b093c5fe3785d7aec280680e09" FOREIGN KEY ("projectId") REFERENCES "project" ("id") ON DELETE CASCADE ON UPDATE NO ACTION)`,
    );
    await runner.query(`CREATE UNIQUE INDEX "revision_by_project" ON "revision" ("projectId", "number")`);
    await runner.query(
      `CREATE TABLE "media" ("id" text PRIMARY KEY NOT NULL, "name" text NOT NULL, "fileName" text NOT NULL, "bytes" integer NOT NULL, "probe" text NOT NULL, "createdAt" text NOT NULL)`,
    );
    await runner.query(
      `CREATE TABLE "job" ("id" text PRIMARY KEY NOT NULL, "order" integer NOT NULL, "projectId" text NOT NULL, "kind" text NOT NULL, "state" text NOT NULL, "label" text NOT NULL, "subject" text NOT NULL, "params" text NOT NULL, "done" integer NOT NULL, "total" integer, "phase" text NOT NULL, "result" text, "errorCode" text, "errorMessage" text, "createdAt" text NOT NULL, "startedAt" text, "endedAt" text, CONSTRAINT "FK_bab77778628a0a7c7a7142f77b9" FOREIGN KEY ("projectId") REFERENCES "project" ("id") ON DELETE CASCADE ON UPDATE NO ACTION)`,
    );
    await runner.query(`CREATE INDEX "job_by_project" ON "job" ("projectId", "createdAt")`);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const table of ['job', 'media', 'revision', 'project']) await runner.query(`DROP TABLE "${table}"`);
  }
}

/** Sources get a kind, a claim and a reading, clips a speed; media may be used in place. */
export class Readings1763930000000 implements MigrationInterface {
  name = 'Readings1763930000000';

  async up(runner: QueryRunner): Promise<void> {
    const columns = ['"path" text', '"modifiedMs" real', '"fingerprint" text', '"series" text'];
    for (const column of columns) await runner.query(`ALTER TABLE "media" ADD COLUMN ${column}`);
    await runner.query('ALTER TABLE "revision" ADD COLUMN "batch" text');
    const json = { project: ['document'], revision: ['command', 'forward', 'backward'], job: ['params'], media: ['probe'] };
    await rewrite(runner, json, withReadings);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const column of ['path', 'modifiedMs', 'fingerprint', 'series'])
      await runner.query(`ALTER TABLE "media" DROP COLUMN "${column}"`);
    await runner.query('ALTER TABLE "revision" DROP COLUMN "batch"');
  }
}

/** Converts sources, clips and probes of the first version anywhere in a document, a difference or a job. */
export function withReadings(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withReadings);
  if (typeof value !== 'object' || value === null) return value;
  const found = Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withReadings(inner)]));
  if ('mediaId' in found && 'pixelFormat' in found && !('readAt' in found))
    return { ...found, kind: 'film', numbers: null, claimed: null, readAt: null };
  if ('headTrim' in found && 'laneId' in found && !('speed' in found)) return { ...found, speed: { num: 1, den: 1 }, cut: null };
  if ('firstSeconds' in found && 'container' in found && !('kind' in found)) return { ...found, kind: 'film' };
  return found;
}

/** Timelines get a start, drop-frame, a range and marks; clips a framing; sources a timecode. */
export class Timelines1763940000000 implements MigrationInterface {
  name = 'Timelines1763940000000';

  async up(runner: QueryRunner): Promise<void> {
    await rewrite(
      runner,
      { project: ['document'], revision: ['command', 'forward', 'backward'], job: ['params'] },
      withTimelines,
    );
  }

  async down(): Promise<void> {
    // The fields of later versions do no harm in earlier ones.
  }
}

/** Documents, differences and jobs of before, wherever what they hold stands in them. */
export function withTimelines(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withTimelines);
  if (typeof value !== 'object' || value === null) return value;
  const found = Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withTimelines(inner)]));
  if ('mediaId' in found && 'pixelFormat' in found) return { timecode: null, lost: null, ...found };
  if ('headTrim' in found && 'laneId' in found) return { framing: 'inside', keptAt: null, label: null, kept: null, ...found };
  if ('lanes' in found && 'clips' in found)
    return { startFrame: 0, dropFrame: false, range: null, marks: [], kept: null, ...found };
  if ((found.kind === 'picture' || found.kind === 'sound') && 'id' in found && 'name' in found) return { kept: null, ...found };
  return found;
}

export class Curves1764100000000 implements MigrationInterface {
  name = 'Curves1764100000000';

  async up(runner: QueryRunner): Promise<void> {
    await rewrite(runner, { project: ['document'], revision: ['command', 'forward', 'backward'], job: ['params'] }, withCurves);
  }

  async down(): Promise<void> {
    // The fields of later versions do no harm in earlier ones.
  }
}

/** Clips of before follow no curve, have no shutter, and no frame chosen by hand. */
export function withCurves(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withCurves);
  if (typeof value !== 'object' || value === null) return value;
  const found = Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withCurves(inner)]));
  return 'headTrim' in found && 'laneId' in found ? { curve: null, mix: 'stored', shutter: 0, instead: [], ...found } : found;
}

export class Sounds1764190000000 implements MigrationInterface {
  name = 'Sounds1764190000000';

  async up(runner: QueryRunner): Promise<void> {
    await rewrite(runner, { project: ['document'], revision: ['command', 'forward', 'backward'], job: ['params'] }, withSounds);
  }

  async down(): Promise<void> {
    // The fields of later versions do no harm in earlier ones.
  }
}

/** What holds for the whole server: presets of forms, how much of renders is kept. */
export class Settings1764200000000 implements MigrationInterface {
  name = 'Settings1764200000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE "setting" ("name" text PRIMARY KEY NOT NULL, "value" text NOT NULL)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "setting"');
  }
}

/** Projects say which format they are in and may lie in the bin; changes say which window made them, and are known again when sent twice. */
export class Kept1764460000000 implements MigrationInterface {
  name = 'Kept1764460000000';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "project" ADD COLUMN "format" integer NOT NULL DEFAULT (1)');
    await runner.query('ALTER TABLE "project" ADD COLUMN "deletedAt" text');
    await runner.query('ALTER TABLE "revision" ADD COLUMN "client" text');
    await runner.query(
      'CREATE TABLE "request" ("projectId" text NOT NULL, "id" text NOT NULL, "version" integer NOT NULL, "patches" text NOT NULL, CONSTRAINT "FK_29fd141b4e6209c6a98c98b4073" FOREIGN KEY ("projectId") REFERENCES "project" ("id") ON DELETE CASCADE ON UPDATE NO ACTION, PRIMARY KEY ("projectId", "id"))',
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "request"');
    await runner.query('ALTER TABLE "revision" DROP COLUMN "client"');
    for (const column of ['deletedAt', 'format']) await runner.query(`ALTER TABLE "project" DROP COLUMN "${column}"`);
  }
}

/** Clips of before sound as their sources' readings say, as loud as these; nothing was aligned. */
export function withSounds(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withSounds);
  if (typeof value !== 'object' || value === null) return value;
  const found = Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, withSounds(inner)]));
  if ('headTrim' in found && 'laneId' in found) return { sound: null, level: 0, slip: 0, ...found };
  return 'sources' in found && 'timelines' in found && 'name' in found ? { alignments: [], ...found } : found;
}

/** Writes every row of some JSON columns anew. */
async function rewrite(
  runner: QueryRunner,
  columns: Readonly<Record<string, readonly string[]>>,
  change: (value: unknown) => unknown,
): Promise<void> {
  for (const [table, names] of Object.entries(columns)) {
    const rows = (await runner.query(`SELECT rowid AS row, ${names.join(', ')} FROM "${table}"`)) as Record<string, string>[];
    for (const row of rows) {
      let values: string[];
      try {
        values = names.map((name) => JSON.stringify(change(JSON.parse(row[name] ?? 'null'))));
      } catch {
        // A row that cannot be read stays as it is: the others are converted, and the error is reported where the row is used.
        continue;
      }
      await runner.query(`UPDATE "${table}" SET ${names.map((n) => `${n} = ?`).join(', ')} WHERE rowid = ?`, [
        ...values,
        row.row,
      ]);
    }
  }
}

export const MIGRATIONS = [
  First1763900000000,
  Readings1763930000000,
  Timelines1763940000000,
  Curves1764100000000,
  Sounds1764190000000,
  Settings1764200000000,
  Kept1764460000000,
];
