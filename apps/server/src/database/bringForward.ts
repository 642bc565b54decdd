import { DOCUMENT_FORMAT, migrateDocument, migratePatches } from '@thawline/project';
import type BetterSqlite3 from 'better-sqlite3';
import { type EntityManager, LessThan } from 'typeorm';
import type { Database } from './database.js';
import { ProjectRow, RevisionRow } from './entities.js';

/** The oldest format of any project in the database; this program's own without projects. */
export function oldestFormat(raw: BetterSqlite3.Database, tables: readonly string[]): number {
  if (!tables.includes('project')) return DOCUMENT_FORMAT;
  const columns = raw.prepare("SELECT name FROM pragma_table_info('project')").pluck().all() as string[];
  // Before documents had formats, TypeORM's migrations changed them.
  if (!columns.includes('format')) return 1;
  return (raw.prepare('SELECT min(format) FROM project').pluck().get() as number | null) ?? DOCUMENT_FORMAT;
}

/** Brings projects of earlier formats to this program's, each with its history in one transaction. A row that cannot be read stays. */
export async function bringDocumentsForward(database: Database): Promise<void> {
  const rows = await database.reader.getRepository(ProjectRow).find({
    where: { format: LessThan(DOCUMENT_FORMAT) },
    select: { id: true },
  });
  for (const { id } of rows) await database.write((manager) => bringForward(manager, id));
}

async function bringForward(manager: EntityManager, id: string): Promise<void> {
  const row = await manager.getRepository(ProjectRow).findOneByOrFail({ id });
  const document = parsed(row.document);
  if (document === undefined) return;
  const revisions = manager.getRepository(RevisionRow);
  for (const revision of await revisions.findBy({ projectId: id })) {
    const [forward, backward] = [parsed(revision.forward), parsed(revision.backward)];
    if (!Array.isArray(forward) || !Array.isArray(backward)) continue;
    const change = {
      forward: JSON.stringify(migratePatches(forward, row.format)),
      backward: JSON.stringify(migratePatches(backward, row.format)),
    };
    await revisions.update({ id: revision.id }, change);
  }
  const change = { document: JSON.stringify(migrateDocument(document, row.format)), format: DOCUMENT_FORMAT };
  await manager.getRepository(ProjectRow).update({ id }, change);
}

/** What a row holds; undefined where it cannot be read. */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
