/**
 * Puts the compiled server and shell into few files, a bundle folder in each: node scripts/bundle.mjs. Node reads hundreds of small ones for a second and more
 * of CPU at each start; what it reads is the same. Threads and the rig stay files of their own: they are started by their paths.
 */

import { rm } from 'node:fs/promises';
import { builtinModules } from 'node:module';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';
import { dynamicImportVarsPlugin, importGlobPlugin } from 'rolldown/experimental';

const apps = fileURLToPath(new URL('../apps', import.meta.url));
const ENTRIES = {
  server: { main: 'dist/main.js', readEditWorker: 'dist/exchange/readEditWorker.js' },
  cli: { main: 'dist/main.js' },
};

/** What is loaded where it lies: SQLite's binding, the rig (it starts itself as a thread), and Node's own. */
const OUTSIDE = [/^better-sqlite3$/, /^@thawline\/rig$/, /^node:/, ...builtinModules];
/** Code of others that asks whether it may evaluate text; what is loaded by name and by itself. */
const QUIET = ['EVAL', 'INEFFECTIVE_DYNAMIC_IMPORT'];
/** Nest and TypeORM ask for these and do without. */
const ABSENT =
  /^(@nestjs\/(microservices|websockets)|class-(transformer|validator)|mysql2?|pg|pg-native|pg-query-stream|oracledb|mssql|mongodb|redis|ioredis|sqlite3|sql\.js|hdb-pool|@sap|@google-cloud|react-native-sqlite-storage|typeorm-aurora-data-api-driver|ts-node)/;

for (const [app, entries] of Object.entries(ENTRIES)) {
  const folder = `${apps}/${app}`;
  const bundle = await rolldown({
    input: Object.fromEntries(Object.entries(entries).map(([name, path]) => [name, `${folder}/${path}`])),
    platform: 'node',
    external: [...OUTSIDE, ABSENT],
    // Jobs are loaded by the name of their folder: which there are is looked up when this is put together.
    plugins: [dynamicImportVarsPlugin(), importGlobPlugin()],
    onLog(level, log, next) {
      // See QUIET.
      if (!QUIET.includes(log.code)) next(level, log);
    },
  });
  await rm(`${folder}/bundle`, { recursive: true, force: true });
  await bundle.write({
    dir: `${folder}/bundle`,
    format: 'esm',
    entryFileNames: '[name].js',
    chunkFileNames: '[name]-[hash].js',
    // Names of classes are what Nest tells providers apart by, and what errors are called.
    keepNames: true,
    // Metadata has to be there before the first decorator, in whatever file that ends up.
    strictExecutionOrder: true,
  });
  await bundle.close();
}
