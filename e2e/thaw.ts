import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const rigFolder = join(root, '.cache', 'rig');

/** Where the demo's clips lie. */
export const rig = (...parts: string[]): string => join(rigFolder, ...parts);

/** The demo's clips, made once. */
export function clips(...names: string[]): string[] {
  const made = spawnSync(process.execPath, [join(root, 'scripts', 'rig.mjs'), rigFolder], { encoding: 'utf8' });
  if (made.status !== 0) throw new Error(made.stderr);
  return names.map((n) => join(rigFolder, `${n}.mp4`));
}

/** The shell, as a person has it; throws what it says when it fails. */
export function shell(...args: string[]): string {
  const run = spawnSync(process.execPath, [join(root, 'apps/cli/bin/thawline.mjs'), ...args], { encoding: 'utf8' });
  if (run.status !== 0) throw new Error(run.stderr);
  return run.stdout;
}

/** A server of its own on an empty data folder, that can be ended and started again. */
export class Server {
  readonly folder = mkdtempSync(join(tmpdir(), 'thawline-story-'));
  url = '';
  private child: ChildProcess | null = null;
  private port = '0';
  private environment: Record<string, string> = {};

  /** @param environment more than the server is started with otherwise; kept for the next start */
  async start(environment: Record<string, string> = this.environment): Promise<void> {
    this.environment = environment;
    const env = { ...process.env, PORT: this.port, THAWLINE_DATA: join(this.folder, 'data'), ...environment };
    const child = spawn(process.execPath, [join(root, 'apps/server/bundle/main.js')], {
      env,
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.child = child;
    this.url = await new Promise<string>((resolve, reject) => {
      child.once('exit', () => reject(new Error('the server ended')));
      createInterface({ input: child.stdout }).on('line', (line) => {
        const found = /http:\/\/\S+/.exec(line);
        if (found) resolve(found[0]);
      });
    });
    // The same address after a restart, so that links and reload keep their place.
    this.port = new URL(this.url).port;
  }

  async end(signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null) return;
    await new Promise((resolve) => {
      child.once('exit', resolve);
      child.kill(signal);
    });
  }

  async remove(): Promise<void> {
    await this.end();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
