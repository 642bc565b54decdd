/**
 * Writes what the code says of itself into docs/http.md, docs/errors.md and THIRD-PARTY.md: node scripts/reference.mjs. With --check it writes nothing, and fails
 * where they say something else.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { STATUS } from '../apps/server/dist/http/failure.js';
import { ERROR_CODES, ERROR_SENTENCES, routes } from '../packages/contract/dist/index.js';

const at = (path) => fileURLToPath(new URL(`../${path}`, import.meta.url));

/** Facts of an example: a number where a sentence counts with it, else the fact's own name. */
const NUMBERS = { seconds: 12, pictures: 200, frames: 12, frame: 40, most: 1_000_000, width: 99, height: 99 };
const facts = new Proxy(
  {},
  { get: (_, name) => NUMBERS[name] ?? (name === 'timelines' ? ['{timelines}'] : `{${String(name)}}`) },
);

const http = `# The HTTP interface

Everything that a person can do in the interface goes this way. Paths are under \`/api\`; \`/api/openapi.json\` has the shapes. Made from
\`packages/contract/src/routes.ts\` by \`node scripts/reference.mjs\`.

| | path | what it does |
| --- | --- | --- |
${Object.entries(routes)
  .map(([, { method, path, summary }]) => `| ${method.toUpperCase()} | \`${path}\` | ${summary.replaceAll('|', '\\|')} |`)
  .join('\n')}
`;

const errors = `# Reasons for which something is turned down

Each has a code for programs, a status, and a sentence for people, which browser, server and shell say alike. Callers that know more say a longer
sentence. Made by \`node scripts/reference.mjs\`; what stands in braces is filled in.

| code | status | sentence |
| --- | --- | --- |
${[...ERROR_CODES]
  .sort()
  .map((code) => `| \`${code}\` | ${STATUS[code]} | ${ERROR_SENTENCES[code](facts).replaceAll('|', '\\|')} |`)
  .join('\n')}
`;

/** Packages that are installed to run it, with the packages that they need: what the lockfile has and is not for development alone. */
const lock = JSON.parse(readFileSync(at('package-lock.json'), 'utf8'));
const used = new Map();
for (const [path, { dev, optional, license, link }] of Object.entries(lock.packages)) {
  const name = path.split('node_modules/').at(-1);
  if (!path.includes('node_modules/') || dev || optional || link) continue;
  used.set(name, license ?? 'see its own files');
}
const notices = `# Packages of others

Thawline runs on these, each under its own licence, whose text lies beside it in \`node_modules\`. FFmpeg is used as a program of its own, from
Debian's packages. The fonts inside the interface are Instrument Sans and Spline Sans Mono (SIL Open Font License 1.1). Made from
\`package-lock.json\` by \`node scripts/reference.mjs\`.

| package | licence |
| --- | --- |
${[...used]
  .sort(([a], [b]) => (a < b ? -1 : 1))
  .map(([name, license]) => `| ${name} | ${license} |`)
  .join('\n')}
`;

const stale = [];
for (const [name, text] of Object.entries({ 'docs/http.md': http, 'docs/errors.md': errors, 'THIRD-PARTY.md': notices })) {
  if (!process.argv.includes('--check')) writeFileSync(at(name), text);
  else if (readFileSync(at(name), 'utf8') !== text) stale.push(name);
}
if (stale.length > 0) {
  process.stderr.write(`${stale.join(', ')} say something else than the code: node scripts/reference.mjs\n`);
  process.exitCode = 1;
}
