/**
 * Puts the compiled server into few files, apps/server/bundle: node scripts/bundle.mjs. Node reads hundreds of small ones for a second and more
 * of CPU at each start; what it reads is the same. Threads and the rig stay files of their own: they are started by their paths.
 */
import { rm } from 'node:fs/promises';
import { builtinModules } from 'node:module';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';
import { dynamicImportVarsPlugin, importGlobPlugin } from 'rolldown/experimental';

const server = fileURLToPath(new URL('../apps/server', import.meta.url));

/** What is loaded where it lies: SQLite's binding, the rig (it starts itself as a thread), and Node's own. */
const OUTSIDE = [/^better-sqlite3$/, /^@thawline\/rig$/, /^node:/, ...builtinModules];
/** Nest and TypeORM ask for these and do without. */
const ABSENT =
  /^(@nestjs\/(microservices|websockets)|class-(transformer|validator)|mysql2?|pg|pg-native|pg-query-stream|oracledb|mssql|mongodb|redis|ioredis|sqlite3|sql\.js|hdb-pool|@sap|@google-cloud|react-native-sqlite-storage|typeorm-aurora-data-api-driver|ts-node)/;

const bundle = await rolldown({
  input: { main: `${server}/dist/main.js`, readEditWorker: `${server}/dist/exchange/readEditWorker.js` },
  platform: 'node',
  external: [...OUTSIDE, ABSENT],
  // Jobs are loaded by the name of their folder: which there are is looked up when this is put together.
  plugins: [dynamicImportVarsPlugin(), importGlobPlugin()],
  onLog(level, log, next) {
    // Code of others that asks whether it may evaluate text.
    if (log.code !== 'EVAL') next(level, log);
  },
});
await rm(`${server}/bundle`, { recursive: true, force: true });
await bundle.write({
  dir: `${server}/bundle`,
  format: 'esm',
  entryFileNames: '[name].js',
  chunkFileNames: '[name]-[hash].js',
  // Names of classes are what Nest tells providers apart by, and what errors are called.
  keepNames: true,
  // Metadata has to be there before the first decorator, in whatever file that ends up.
  strictExecutionOrder: true,
});
await bundle.close();
