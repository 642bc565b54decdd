import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { leaveUnfrozen } from '@thawline/project';
import { createApp } from './app.js';
import { readSettings } from './settings.js';

/** `node main.js [--demo]`: serves on HOST and PORT with the data of THAWLINE_DATA. */
const root = fileURLToPath(new URL('../../..', import.meta.url));
const demo = process.argv.includes('--demo');
const rigFolder = process.env.THAWLINE_RIG || join(root, '.cache', 'rig');
const say = (line: string): void => {
  process.stdout.write(`${line}\n`);
};

// Where files may not grow further (ulimit -f), the write that failed says so; without a listener the system would end the server.
process.on('SIGXFSZ', () => undefined);
leaveUnfrozen();
// What this server makes is its owner's alone.
process.umask(0o077);

try {
  const defaultData = join(root, 'data', demo ? 'demo' : 'main');
  const settings = readSettings(process.env, defaultData, join(root, 'apps', 'web', 'dist'));
  const app = await createApp(settings);
  await app.init();
  // Loaded for the demo alone: the made-up cameras are no part of the server.
  const fill = demo ? await (await import('./demo.js')).beginDemo(app, rigFolder, say) : null;
  await app.listen(settings.port, settings.host);
  const { port } = app.getHttpServer().address() as AddressInfo;
  const host = settings.host.includes(':') ? `[${settings.host}]` : settings.host;
  say(`Thawline is at http://${host}:${port}${settings.token === null ? '' : `/?token=${settings.token}`}`);
  // The server does not wait for the demo; a failure is logged and the server keeps running.
  fill?.().catch((error: unknown) => process.stderr.write(`The demo is not whole: ${String(error)}\n`));
} catch (error) {
  const taken = error instanceof Error && 'code' in error && error.code === 'EADDRINUSE';
  process.stderr.write(
    taken ? 'That port is taken. Give another: PORT=4848\n' : `${error instanceof Error ? error.message : String(error)}\n`,
  );
  process.exit(1);
}
