import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { type AddressInfo, connect, createServer, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const rigFolder = join(root, '.cache', 'rig-half');

/** Where the demo's clips are, at half their size: quicker to paint, decode and code. */
export const rig = (...parts: string[]): string => join(rigFolder, ...parts);

/** The demo's clips, made once. */
export function clips(...names: string[]): string[] {
  const made = spawnSync(process.execPath, [join(root, 'scripts', 'rig.mjs'), rigFolder, 'half'], { encoding: 'utf8' });
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

  /** Asks the server as any client does: posts where there is a body. Throws what it says when it refuses. */
  readonly ask = async <T>(path: string, body?: unknown): Promise<T> => {
    const headers = { 'content-type': 'application/json' };
    const init = body === undefined ? {} : { method: 'POST', body: JSON.stringify(body), headers };
    const reply = await fetch(`${this.url}/api${path}`, init);
    if (!reply.ok) throw new Error(await reply.text());
    return (await reply.json()) as T;
  };

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

/** A wire between page and server whose event streams can be cut while all else goes through. */
export class Wire {
  private readonly events = new Set<Socket>();
  private cutting = false;
  private readonly proxy;
  url = '';

  constructor(private readonly server: Server) {
    this.proxy = createServer((page) => {
      const { hostname, port } = new URL(this.server.url);
      const onward = connect(Number(port), hostname);
      page.on('data', (bytes) => {
        if (/^GET \S+\/events/.test(bytes.toString('latin1', 0, 200))) {
          if (this.cutting) page.destroy();
          else this.events.add(page);
        }
      });
      page.pipe(onward).pipe(page);
      for (const [one, other] of [
        [page, onward],
        [onward, page],
      ] as const) {
        one.on('error', () => other.destroy());
        one.on('close', () => other.destroy());
      }
      page.on('close', () => this.events.delete(page));
    });
  }

  async start(): Promise<void> {
    await new Promise<void>((resolve) => this.proxy.listen(0, '127.0.0.1', resolve));
    this.url = `http://127.0.0.1:${(this.proxy.address() as AddressInfo).port}`;
  }

  /** Ends the event streams; new ones are refused until they are `mend`ed. @returns how many there were */
  cut(): number {
    this.cutting = true;
    const { size } = this.events;
    for (const socket of this.events) socket.destroy();
    return size;
  }

  mend(): void {
    this.cutting = false;
  }

  end(): void {
    this.cut();
    this.proxy.close();
  }
}
