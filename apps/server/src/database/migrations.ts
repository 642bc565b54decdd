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

export const MIGRATIONS = [First1763900000000];
