import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { backupsOf, restoreBackup } from '@thawline/server/restore';
import { print } from './out.js';
import { type Values, WrongCall } from './usage.js';

/** The default data folder of `npm start`. */
const USUAL_FOLDER = fileURLToPath(new URL('../../../data/main', import.meta.url));

export async function restoreCommand(names: string[], values: Values): Promise<void> {
  if (names.length > 1) throw new WrongCall('restore wants the name of one backup, or none to list them.');
  const folder = resolve(values.data ?? process.env.THAWLINE_DATA ?? USUAL_FOLDER);
  const [name] = names;
  if (name === undefined) return list(folder, values.json ?? false);
  const restored = await restoreBackup(folder, name, values.project ?? null);
  if (values.json) return print(restored);
  if (restored.setAside) process.stdout.write(`The database could not be used. It is kept as ${restored.setAside}.\n`);
  for (const project of restored.projects) process.stdout.write(`${project.id}  ${project.name}\n`);
}

async function list(folder: string, json: boolean): Promise<void> {
  const backups = await backupsOf(folder);
  if (json) return backups.forEach(print);
  if (backups.length === 0) process.stdout.write(`There are no backups in ${folder}.\n`);
  for (const { name, projects } of backups) {
    process.stdout.write(`${name}\n`);
    for (const p of projects)
      process.stdout.write(`  ${p.id}  ${p.name}: ${p.sources} sources, ${p.timelines} timelines, ${p.steps} steps\n`);
  }
}
