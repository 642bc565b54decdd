import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { statIfThere } from '@thawline/media';
import { atomicWrite } from '@thawline/work';
import { print } from './out.js';
import { type Values, WrongCall } from './usage.js';
import { only } from './values.js';

/** Commands that ask a server that runs. */

const USUAL_SERVER = 'http://127.0.0.1:4747';

interface Listed {
  readonly id: string;
  readonly name: string;
  readonly sources: number;
  readonly timelines: number;
  readonly deletedAt: string | null;
}

/** Asks the server; rejects with its own sentence, or with one that says how to start it. */
async function ask(values: Values, path: string, init: RequestInit & { duplex?: 'half' } = {}): Promise<Response> {
  const server = (values.server ?? USUAL_SERVER).replace(/\/+$/, '');
  if (!/^https?:\/\//.test(server)) throw new WrongCall(`"${server}" is not an address. Try ${USUAL_SERVER}.`);
  const token = process.env.THAWLINE_TOKEN;
  const headers = { ...(init.headers as Record<string, string>), ...(token ? { authorization: `Bearer ${token}` } : {}) };
  const reply = await fetch(`${server}/api${path}`, { ...init, headers }).catch(() => {
    throw new Error(`No server answers at ${server}. Start one (npm start), or say where it is: --server http://...`);
  });
  if (reply.ok) return reply;
  const said = (await reply.json().catch(() => null)) as { message?: string } | null;
  throw new Error(said?.message ?? `The server answered with status ${reply.status}.`);
}

export async function projectsCommand(names: string[], values: Values): Promise<void> {
  if (names.length > 0) throw new WrongCall('projects wants nothing behind it.');
  const projects = ((await (await ask(values, '/projects')).json()) as Listed[]).filter((p) => p.deletedAt === null);
  if (values.json) return projects.forEach(print);
  for (const { id, name, sources, timelines } of projects)
    process.stdout.write(`${id}  ${name}: ${sources} sources, ${timelines} timelines\n`);
}

export async function exportCommand(names: string[], values: Values): Promise<void> {
  const [project, file] = names;
  if (names.length !== 2 || !project || !file) throw new WrongCall("export wants a project's id and the file to write.");
  if (await statIfThere(file)) throw new Error(`${file} is there already. Give another name; nothing is written over.`);
  const query = `media=${values.media ? 'yes' : 'no'}`;
  const path = `/projects/${encodeURIComponent(project)}/file`;
  const { losses } = (await (await ask(values, `${path}/losses?${query}`)).json()) as { losses: string[] };
  for (const loss of losses) process.stderr.write(`${loss}\n`);
  const reply = await ask(values, `${path}?${query}`);
  await atomicWrite(file, (temporary) =>
    pipeline(Readable.fromWeb(reply.body as never), createWriteStream(temporary, { mode: 0o600 })),
  );
  const { size } = await stat(file);
  if (values.json) print({ file, bytes: size, losses });
  else process.stdout.write(`${file}: ${size} bytes\n`);
}

export async function importCommand(names: string[], values: Values): Promise<void> {
  const file = only(names, 1);
  const found = await statIfThere(file);
  if (!found?.isFile()) throw new Error(`${file} is not there, or is not a file.`);
  const body = Readable.toWeb(createReadStream(file)) as never;
  const reply = await ask(values, '/projects/import', {
    method: 'POST',
    body,
    duplex: 'half',
    headers: { 'content-type': 'application/zip' },
  });
  const project = (await reply.json()) as { id: string; name: string; notes: string[] };
  for (const note of project.notes) process.stderr.write(`${note}\n`);
  if (values.json) print(project);
  else process.stdout.write(`${project.id}  ${project.name}\n`);
}
