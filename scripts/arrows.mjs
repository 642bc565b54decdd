/**
 * Checks the imports between packages and files. Who may import whom: core only the kernels (no DOM, no Node: its tsconfig sees to
 * that), web neither work nor media. And no file imports itself by way of others, not even for a type.
 */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const MAY = {
  'packages/kernels': [],
  'packages/core': ['kernels'],
  'packages/project': ['core'],
  'packages/desk': ['core'],
  'packages/contract': ['core', 'project', 'desk', 'work/definitions'],
  'packages/media': ['core'],
  'packages/rig': ['core', 'media'],
  'packages/work': ['core', 'media', 'project', 'desk'],
  // The server for its database alone: bringing back a backup has to work without one running.
  'apps/cli': ['core', 'media', 'work', 'project', 'server'],
  'apps/server': ['core', 'media', 'work', 'project', 'contract', 'rig', 'desk'],
  'apps/desk': ['core', 'desk', 'media', 'work'],
  'apps/web': ['core', 'project', 'contract'],
};
/** Tests may use the made-up cameras and, for real files, media. */
const TESTS_MAY = ['rig', 'media'];
/** Made-up sources are for tests alone. */
const FOR_TESTS = ['@thawline/project/fixture'];
const TEST = /\.(test|fixture)\.tsx?$|\/src\/test\//;

const wrong = [];
let read = 0;
/** Imports within a package: path of each file, and the paths that it imports. */
const imports = new Map();
/** Imports from elsewhere, by file. */
const outside = new Map();
/** What browsers load of the definitions of jobs: nothing that runs one. */
const DEFINITIONS = { entry: 'packages/work/src/jobs/index.ts', may: ['zod', 'core', 'project', 'desk'] };

function walk(folder, check) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist') continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) walk(path, check);
    else if (/\.(ts|tsx)$/.test(entry.name)) check(path);
  }
}

for (const [room, may] of Object.entries(MAY)) {
  walk(join(room, 'src'), (path) => {
    read++;
    const test = TEST.test(path);
    const text = readFileSync(path, 'utf8');
    imports.set(path, []);
    for (const [, target] of text.matchAll(/(?<!['\w/])(?:from|import)\s*\(?\s*'([^']+)'/g)) {
      const ours = /^@thawline\/([a-z]+)/.exec(target)?.[1];
      if (
        ours &&
        !may.includes(ours) &&
        !may.includes(target.replace('@thawline/', '')) &&
        `@thawline/${ours}` !== `@thawline/${room.split('/')[1]}` &&
        !(test && TESTS_MAY.includes(ours))
      ) {
        wrong.push(`${path}: ${room} may not import ${target}`);
      }
      if (!test && FOR_TESTS.includes(target)) wrong.push(`${path}: ${target} is for tests alone`);
      if (
        target.startsWith('node:') &&
        ['packages/kernels', 'packages/core', 'packages/project', 'packages/contract', 'apps/web'].includes(room) &&
        !test
      ) {
        wrong.push(`${path}: no Node here: ${target}`);
      }
      const up = target.startsWith('.') && join(path, '..', target);
      if (!up) outside.set(path, [...(outside.get(path) ?? []), target]);
      if (up) imports.get(path).push(...['ts', 'tsx'].map((ending) => up.replace(/\.js$/, `.${ending}`)).filter(existsSync));
      if (up && !up.startsWith(join(room, 'src'))) wrong.push(`${path}: leaves its package by ${target}`);
      if (room === 'packages/core' && !ours && !target.startsWith('.') && !test) {
        wrong.push(`${path}: core imports nobody but the kernels: ${target}`);
      }
    }
  });
}

/** The package that an import names, without what it takes of it. */
const packageOf = (target) => target.split('/', target.startsWith('@') ? 2 : 1).join('/');

// What is imported is written down as a dependency, and what is written down is imported.
for (const room of Object.keys(MAY)) {
  const { dependencies = {}, devDependencies = {} } = JSON.parse(readFileSync(join(room, 'package.json'), 'utf8'));
  const imported = new Set();
  for (const [path, targets] of outside) {
    if (!path.startsWith(`${room}/`) || TEST.test(path)) continue;
    for (const name of targets.filter((target) => !target.startsWith('node:')).map(packageOf)) {
      imported.add(name);
      const own = name === `@thawline/${room.split('/')[1]}`;
      if (!own && !(name in dependencies) && !(name in devDependencies))
        wrong.push(`${path}: ${name} is not among its dependencies`);
    }
  }
  for (const name of Object.keys(dependencies))
    if (!imported.has(name) && name !== '@thawline/kernels') wrong.push(`${room}/package.json: nobody imports ${name}`);
}

const reached = new Set([DEFINITIONS.entry]);
for (const file of reached) {
  for (const next of imports.get(file) ?? []) reached.add(next);
  for (const target of outside.get(file) ?? [])
    if (!DEFINITIONS.may.some((name) => target === name || new RegExp(`^@thawline/${name}(/|$)`).test(target)))
      wrong.push(`${file}: browsers load this, it may not import ${target}`);
}

for (const circle of circles(imports)) wrong.push(`imports in a circle: ${circle.join(', ')}`);

/** Groups of files that reach each other: strongly connected components of two or more (Tarjan 1972). */
function circles(graph) {
  const found = [];
  const index = new Map();
  const lowest = new Map();
  const open = [];
  function visit(file) {
    index.set(file, index.size);
    lowest.set(file, index.get(file));
    open.push(file);
    for (const next of graph.get(file) ?? []) {
      if (!index.has(next)) {
        visit(next);
        lowest.set(file, Math.min(lowest.get(file), lowest.get(next)));
      } else if (open.includes(next)) lowest.set(file, Math.min(lowest.get(file), index.get(next)));
    }
    if (lowest.get(file) !== index.get(file)) return;
    const group = open.splice(open.indexOf(file));
    if (group.length > 1) found.push(group);
  }
  for (const file of graph.keys()) if (!index.has(file)) visit(file);
  return found;
}

if (read < 50) wrong.push(`only ${read} files were read: the rooms have moved, and this script has not`);
if (wrong.length > 0) {
  process.stderr.write(`${wrong.join('\n')}\n`);
  process.exit(1);
}
process.stdout.write(`${read} files keep the arrows, and none is in a circle.\n`);
