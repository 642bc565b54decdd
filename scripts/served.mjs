/** A compiled server as a process of its own, for benches and screenshots. */
import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';

/**
 * Starts it on a free port; resolves when it listens.
 * @param {Record<string, string>} environment more than it has otherwise: its data folder at least
 * @param {string[]} args
 */
export async function served(environment, args = []) {
  const server = spawn(process.execPath, ['apps/server/bundle/main.js', ...args], {
    env: { ...process.env, PORT: '0', ...environment },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const lines = [];
  const url = await new Promise((resolve, reject) => {
    server.once('exit', () => reject(new Error('the server ended')));
    createInterface({ input: server.stdout }).on('line', (line) => {
      lines.push(line);
      const found = /http:\/\/\S+/.exec(line);
      if (found) resolve(found[0]);
    });
  });
  /** Asks it: with a body by POST. Throws what it answers when it turns the request down. */
  const ask = async (path, body) => {
    const init = body && { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } };
    const reply = await fetch(`${url}/api${path}`, init);
    if (!reply.ok) throw new Error(await reply.text());
    return reply.json();
  };
  /** Waits until no job waits or runs. */
  const settled = async (project, every = 500) => {
    while ((await ask(`/projects/${project}/jobs`)).some((j) => j.state === 'queued' || j.state === 'running'))
      await new Promise((resolve) => setTimeout(resolve, every));
  };
  /** Waits until it has said a line. */
  const until = async (line) => {
    while (!lines.includes(line)) await new Promise((resolve) => setTimeout(resolve, 200));
  };
  const ended = new Promise((resolve) => server.once('exit', resolve));
  return { url, ask, settled, until, ended, end: () => server.kill('SIGTERM'), kill: (signal) => server.kill(signal) };
}
