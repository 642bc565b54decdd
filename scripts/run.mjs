/**
 * The one way in, with Node's own modules only: node scripts/run.mjs setup | demo | start | dev | desk | test | quick | bench NAME | screenshots
 *
 * Sees to Debian's packages, installs from the lockfile and builds, each only when needed, and then does what was asked.
 */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);
const [what = 'start', ...rest] = process.argv.slice(2);
const say = (line) => process.stdout.write(`${line}\n`);

const running = new Set();

/** Ends with a sentence, and what runs beside with it. */
function stop(line) {
  for (const child of running) child.kill();
  process.stderr.write(`${line}\n`);
  process.exit(1);
}

/**
 * Runs a program to its end; when it fails, so does all. Without `aloud` what it says is held back, comes with the promise, and is
 * shown when it fails: so several can run beside each other.
 */
function must(command, args, { aloud = false, ...options } = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { stdio: aloud ? 'inherit' : ['ignore', 'pipe', 'pipe'], ...options });
    running.add(child);
    const said = [];
    child.stdout?.on('data', (chunk) => said.push(chunk));
    child.stderr?.on('data', (chunk) => said.push(chunk));
    child.on('error', (error) => stop(`"${command} ${args.join(' ')}" failed: ${error.message}.`));
    child.on('close', (code) => {
      running.delete(child);
      if (code === 0) return resolve(Buffer.concat(said));
      process.stderr.write(Buffer.concat(said));
      stop(`"${command} ${args.join(' ')}" failed.`);
    });
  });
}

const has = (program) => (process.env.PATH ?? '').split(':').some((folder) => folder && existsSync(join(folder, program)));

/** Installs what is missing of Debian's packages when root may, else says how. */
async function seeToSystem(wanted) {
  const missing = Object.entries(wanted).filter(([program]) => !has(program));
  if (missing.length === 0) return;
  const packages = [...new Set(missing.map(([, name]) => name))];
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (process.getuid?.() !== 0 || !has('apt-get')) stop(`Thawline needs ${packages.join(', ')}. As root: ${command}`);
  say(`Installing ${packages.join(', ')} from Debian's packages ...`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await must('apt-get', ['update', '-q'], { env });
  await must('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...packages], { env });
}

function stampIs(path, value) {
  return existsSync(path) && readFileSync(path, 'utf8') === value;
}

function stamp(path, value) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, value);
}

/**
 * Installs from the lockfile when it changed since the last time.
 * @returns what is still going on when the packages are there: SQLite being compiled, a minute on one core
 */
async function install() {
  const value = createHash('sha256').update(readFileSync('package-lock.json')).update(process.version).digest('hex');
  const path = join('node_modules', '.thawline-install');
  if (stampIs(path, value)) return { compiled: Promise.resolve() };
  say('Installing packages (a few minutes the first time) ...');
  const locked = readFileSync('package-lock.json');
  // No package but SQLite's has to run anything of its own.
  await must('npm', ['install', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error']);
  // npm adds or drops other platforms' builds as the registry lists them that day; the lockfile is a source and stays.
  writeFileSync('package-lock.json', locked);
  return { compiled: compile().then(() => stamp(path, value)) };
}

/**
 * SQLite is one file of nine megabytes: optimised less, it compiles in a fraction of the time, and our queries are short. What binds it
 * to Node is thin, and compiles in a third when it is not optimised at all.
 */
async function compile() {
  const headers = join(dirname(dirname(process.execPath)), 'include', 'node', 'node.h');
  const env = { ...process.env, npm_config_build_from_source: 'better-sqlite3', CFLAGS: '-O1', CXXFLAGS: '-O0', JOBS: 'max' };
  if (existsSync(headers) && !env.npm_config_nodedir) env.npm_config_nodedir = dirname(dirname(dirname(headers)));
  await must('npm', ['rebuild', 'better-sqlite3', '--loglevel=error'], { env });
}

/** Every source file's path, size and time: what the build depends on. */
function sourcesOf(folder, hash) {
  for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (['node_modules', 'dist', 'bundle', 'generated.ts'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) sourcesOf(path, hash);
    else {
      const { size, mtimeMs } = statSync(path);
      hash.update(`${path} ${size} ${mtimeMs}\n`);
    }
  }
  return hash;
}

async function build() {
  const hash = sourcesOf('packages', sourcesOf('apps', createHash('sha256')));
  const value = hash.update(readFileSync('tsconfig.base.json')).digest('hex');
  const path = join('.cache', 'build');
  if (stampIs(path, value) && existsSync('apps/web/dist/index.html') && existsSync('apps/server/bundle/main.js')) return;
  say('Building ...');
  await must(process.execPath, ['scripts/kernels.mjs']);
  const compile = must('node_modules/.bin/tsc', ['-b', 'apps/server', 'apps/cli', 'apps/desk']);
  await Promise.all([
    compile.then(() => must(process.execPath, ['scripts/bundle.mjs'])),
    must('node_modules/.bin/vite', ['build', 'apps/web', '--logLevel', 'warn']),
  ]);
  stamp(path, value);
}

/**
 * Debian's packages come while npm's do; SQLite is compiled while ours are built.
 * @param beside what can be done as soon as ours are built
 */
async function setup(wanted = {}, beside = () => Promise.resolve()) {
  if (Number(process.versions.node.split('.')[0]) < 20) stop(`Thawline needs Node 20 or newer; this is ${process.version}.`);
  // better-sqlite3 is compiled when it is installed: what that takes has to be there before.
  if (!existsSync(join('node_modules', '.thawline-install')))
    await seeToSystem({ python3: 'python3', make: 'make', 'g++': 'g++' });
  const [, { compiled }] = await Promise.all([seeToSystem({ ffmpeg: 'ffmpeg', ffprobe: 'ffmpeg', ...wanted }), install()]);
  await Promise.all([compiled, build().then(beside)]);
}

/** Runs a long-lived program in the foreground and ends with it; others beside it end with it, too. */
function become(args, { env = {}, beside = [] } = {}) {
  const options = { stdio: 'inherit', env: { ...process.env, ...env } };
  const others = beside.map((other) => spawn(process.execPath, other, options));
  const child = spawn(process.execPath, args, options);
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
  child.on('exit', (code) => {
    for (const other of others) other.kill();
    process.exit(code ?? 0);
  });
}

const DESK = ['apps/desk/dist/main.js'];

const started = Date.now();
const step = (name) => say(`\n== ${name} (${Math.round((Date.now() - started) / 1000)} s)`);

const jest = ['--experimental-vm-modules', '--no-warnings', 'node_modules/jest/bin/jest.js'];

function lintAndTypes() {
  return Promise.all([
    must('node_modules/.bin/biome', ['check', '.']),
    must(process.execPath, ['scripts/arrows.mjs']),
    must('node_modules/.bin/knip', ['--no-progress']),
    must('node_modules/.bin/tsc', ['-b']),
    must('node_modules/.bin/tsc', ['-p', 'apps/web', '--noEmit']),
    must('node_modules/.bin/tsc', ['-p', 'apps/web/tsconfig.tests.json', '--noEmit']),
    must('node_modules/.bin/tsc', ['-p', 'e2e', '--noEmit']),
  ]);
}

async function look() {
  step('lint, arrows and types; the made-up clips');
  await Promise.all([must(process.execPath, ['scripts/rig.mjs', '.cache/rig-half', 'half']), lintAndTypes()]);
}

/** What nearly every mistake is found by, in a minute: lint, types, and the tests that start nothing of their own. */
async function quick() {
  step('lint, arrows and types');
  await lintAndTypes();
  step('tests of what is pure, and of components');
  await must(process.execPath, [...jest, ...PURE, ...rest], { aloud: true });
  say(`\nDone in ${Math.round((Date.now() - started) / 1000)} s.`);
}

/** Compiles and serves whatever changes: the server starts anew, the page takes what is new by itself. */
async function develop() {
  await setup();
  say('The page with hot reload: http://127.0.0.1:5173');
  const options = { stdio: 'inherit' };
  const beside = [
    ['node_modules/.bin/tsc', ['-b', '--watch', '--preserveWatchOutput', 'apps/server', 'apps/cli', 'apps/desk']],
    ['node_modules/.bin/vite', ['apps/web', '--clearScreen', 'false']],
  ].map(([command, args]) => spawn(command, args, options));
  process.on('exit', () => {
    for (const child of beside) child.kill();
  });
  become(['--watch', '--watch-preserve-output', 'apps/server/dist/main.js']);
}

/** Tests that start nothing of their own: what is pure, and components. */
const PURE = ['packages/(core|project|contract|kernels|desk)/', 'packages/work/src/jobs', 'apps/web/'];

/** Runs tests; @returns how many passed and failed. */
async function units(name, args, niceness) {
  const report = join('.cache', `${name}.json`);
  await must('nice', ['-n', niceness, process.execPath, ...jest, '--json', `--outputFile=${report}`, ...args], { aloud: true });
  const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, 'utf8'));
  return { passed: numPassedTests, failed: numFailedTests };
}

async function test() {
  // What is pure takes what the others leave of the cores, and stands back for them: stories wait now and then, and none of the tests
  // that start programs runs out of time because of it.
  const pure = units('pure', ['-w', '2', '--testPathPatterns', ...PURE, ...rest], '10');
  step('stories in the browser, and beside them tests of what is pure');
  process.stdout.write(await must('node_modules/.bin/playwright', ['test', '-c', 'e2e/playwright.config.ts']));
  const { stats } = JSON.parse(readFileSync('.cache/stories.json', 'utf8'));
  step('tests that start programs');
  const programs = units('programs', ['--testPathIgnorePatterns', '/node_modules/', '/dist/', ...PURE, ...rest], '0');
  const found = await Promise.all([pure, programs]);
  say(`\nDone in ${Math.round((Date.now() - started) / 1000)} s.`);
  const sum = (of) => found.reduce((n, one) => n + one[of], 0);
  say(`${sum('passed') + stats.expected} passed, ${sum('failed') + stats.unexpected} failed`);
}

if (what === 'setup') await setup();
else if (what === 'start' || what === 'demo') {
  await setup();
  // The demo has a desk to hand renders to; elsewhere there is one where somebody starts it and says where.
  const desk = what === 'demo' && !process.env.THAWLINE_DESK;
  const env = desk ? { THAWLINE_DESK: `http://127.0.0.1:${process.env.DESK_PORT || 4750}` } : {};
  become(['apps/server/bundle/main.js', ...(what === 'demo' ? ['--demo'] : [])], { env, beside: desk ? [DESK] : [] });
} else if (what === 'desk') {
  await setup();
  become(DESK);
} else if (what === 'dev') {
  await develop();
} else if (what === 'quick') {
  await setup();
  await quick();
} else if (what === 'test') {
  await setup({ 'chromium-headless-shell': 'chromium-headless-shell' }, look);
  await test();
} else if (what === 'bench') {
  await setup();
  const script = join('bench', `${rest[0]}.mjs`);
  if (!rest[0] || !existsSync(script))
    stop(
      `Say which bench: ${readdirSync('bench')
        // Modules that benches share say nothing by themselves.
        .filter((f) => readFileSync(join('bench', f), 'utf8').includes('npm run bench'))
        .map((f) => f.replace('.mjs', ''))
        .join(', ')}`,
    );
  become([script, ...rest.slice(1)]);
} else if (what === 'screenshots') {
  await setup({ 'chromium-headless-shell': 'chromium-headless-shell' });
  become(['scripts/screenshots.mjs']);
} else stop('Say one of: setup, demo, start, desk, test, bench NAME, screenshots');
