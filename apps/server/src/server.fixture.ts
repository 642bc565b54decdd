import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { type ErrorReply, errorSchema, type JobReply, type ProjectState, routes } from '@thawline/contract';
import { wavHead } from '@thawline/core/sound';
import { z } from 'zod';

const main = new URL('../bundle/main.js', import.meta.url).pathname;

interface Uploaded {
  readonly added: ProjectState['document']['sources'];
  readonly refused: { file: string; code: string; message: string }[];
}

/** The compiled server as a process of its own, spoken to over HTTP, killed and started again. */
export class TestServer {
  readonly folder = mkdtempSync(join(tmpdir(), 'thawline-server-'));
  readonly data = join(this.folder, 'data');
  url = '';
  private child: ChildProcess | null = null;

  /** The server's process. */
  get pid(): number {
    return this.child?.pid ?? 0;
  }

  async start(environment: Record<string, string> = {}): Promise<void> {
    const child = spawn(process.execPath, [main], {
      env: { ...process.env, PORT: '0', THAWLINE_DATA: this.data, ...environment },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.child = child;
    this.url = await new Promise<string>((resolve, reject) => {
      child.once('exit', () => reject(new Error('the server ended')));
      createInterface({ input: child.stdout as NodeJS.ReadableStream }).on('line', (line) => {
        const found = /http:\/\/\S+/.exec(line);
        if (found) resolve(found[0]);
      });
    });
  }

  end(signal: NodeJS.Signals): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null) return Promise.resolve();
    return new Promise((resolve) => {
      child.once('exit', () => resolve());
      child.kill(signal);
    });
  }

  async remove(): Promise<void> {
    await this.end('SIGTERM');
    rmSync(this.folder, { recursive: true, force: true });
  }

  async ask<T>(path: string, body?: unknown, method = body === undefined ? 'GET' : 'POST'): Promise<T> {
    const init =
      body === undefined ? { method } : { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json' } };
    const reply = await fetch(`${this.url}/api${path}`, init);
    const json = (await reply.json()) as T;
    if (!reply.ok)
      throw Object.assign(new Error((json as ErrorReply).code), { status: reply.status, reply: errorSchema.parse(json) });
    replySchema(method, path)?.parse(json);
    return json;
  }

  /** Status and code of a request that is turned down. */
  async refused(path: string, body?: unknown, method?: string): Promise<{ status: number; code: string }> {
    const outcome = await this.ask(path, body, method).catch((error: { status: number; reply: ErrorReply }) => ({
      status: error.status,
      code: errorSchema.parse(error.reply).code,
    }));
    return outcome as { status: number; code: string };
  }

  async upload(project: string, files: { name: string; bytes: Uint8Array }[], query = ''): Promise<Uploaded> {
    const reply: unknown = await (await this.send(project, files, query)).json();
    routes.upload.reply.parse(reply);
    return reply as Uploaded;
  }

  async refusedUpload(project: string, query: string, bytes = 3): Promise<{ status: number; code: string }> {
    const reply = await this.send(project, [{ name: 'x.png', bytes: new Uint8Array(bytes) }], query);
    return { status: reply.status, code: errorSchema.parse(await reply.json()).code };
  }

  jobs(project: string): Promise<JobReply[]> {
    return this.ask<JobReply[]>(`/projects/${project}/jobs`);
  }

  /** All jobs, newest first, once none is waiting or running. */
  async settled(project: string): Promise<JobReply[]> {
    for (let waited = 0; waited < 600; waited++) {
      const jobs = await this.jobs(project);
      if (jobs.every((j) => j.state !== 'queued' && j.state !== 'running')) return jobs;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    throw new Error('jobs do not end');
  }

  private send(project: string, files: { name: string; bytes: Uint8Array }[], query: string): Promise<Response> {
    const form = new FormData();
    for (const f of files) form.append('file', new Blob([new Uint8Array(f.bytes)]), f.name);
    return fetch(`${this.url}/api/projects/${project}/sources${query}`, { method: 'POST', body: form });
  }
}

/** What the contract says of a reply; every one that a test gets is held to it. Undefined for what is none of the contract's, or no JSON. */
function replySchema(method: string, path: string): z.ZodType | undefined {
  const bare = path.replace(/\?.*$/, '');
  const found = Object.values(routes).find(
    (route) => route.method === method.toLowerCase() && new RegExp(`^${route.path.replace(/\{\w+\}/g, '[^/]+')}$`).test(bare),
  );
  return found && found.reply instanceof z.ZodType ? found.reply : undefined;
}

/** A mono WAV of these bytes, 16 bits a sample. */
export function wavFile(bytes: Uint8Array, sampleRate = 8000): Buffer {
  return Buffer.concat([wavHead({ form: 's16', channels: 1, sampleRate, samples: bytes.length / 2 }), bytes]);
}

/** Ends every program of that name that was started with this text in its arguments; @returns how many. */
export function endPrograms(program: string, text: string): number {
  let ended = 0;
  for (const pid of readdirSync('/proc').filter((n) => /^\d+$/.test(n))) {
    try {
      const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
      if (!command.startsWith(program) || !command.includes(text)) continue;
      process.kill(Number(pid), 'SIGKILL');
      ended++;
    } catch {
      // A process that ended meanwhile is no trouble. (In Jest's sandbox its error is no instance of this Error.)
    }
  }
  return ended;
}
