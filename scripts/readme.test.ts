import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** What the README and docs claim is compared with what there is. */
const root = join(import.meta.dirname, '..');
const readme = readFileSync(join(root, 'README.md'), 'utf8');
const scripts = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')).scripts as Record<string, string>;
const docs = readdirSync(join(root, 'docs')).filter((n) => n.endsWith('.md'));

test('every npm command that is named exists', () => {
  const named = [readme, ...docs.map((d) => readFileSync(join(root, 'docs', d), 'utf8'))].flatMap((text) => [
    ...[...text.matchAll(/npm run ([a-z]+)/g)].map((m) => m[1] as string),
  ]);
  expect(named.length).toBeGreaterThan(2);
  expect(named.filter((name) => !(name in scripts))).toEqual([]);
  expect(Object.keys(scripts)).toEqual(expect.arrayContaining(['test', 'start', 'demo']));
});

test('the shell commands are those of the shell itself', () => {
  const { stdout } = spawnSync(process.execPath, [join(root, 'apps/cli/bin/thawline.mjs'), '--help'], { encoding: 'utf8' });
  const named = [...new Set([...readme.matchAll(/npx thawline (\w+)/g)].map((m) => m[1] as string))];
  expect(named).toEqual([...stdout.matchAll(/^ {2}thawline (\w+) /gm)].map((m) => m[1]));
  expect(named.length).toBeGreaterThan(5);
});

test('every picture that is linked is kept, and every one kept is linked', () => {
  const linked = [...readme.matchAll(/docs\/screenshots\/([\w-]+\.png)/g)].map((m) => m[1] as string).sort();
  expect(readdirSync(join(root, 'docs', 'screenshots')).sort()).toEqual(linked);
});

test('every file that the docs name is there', () => {
  const { stdout } = spawnSync('git', ['ls-files', '--cached', '--others', '--exclude-standard'], {
    cwd: root,
    encoding: 'utf8',
  });
  // The docs leave out `src` where it is plain, and name a file next to one that is named in full by its own name alone.
  const files = stdout.split('\n').map((path) => `/${path.replace('/src/', '/')}`);
  for (const doc of docs) {
    const text = readFileSync(join(root, 'docs', doc), 'utf8');
    const named = [...text.matchAll(/[\w./-]*\w\.(?:tsx?|mjs)\b/g)].map(([path]) => path.replace('/src/', '/'));
    expect(named.filter((path) => !files.some((file) => file.endsWith(`/${path}`))).map((path) => `${doc}: ${path}`)).toEqual([]);
  }
});

test('the references say what the code says', () => {
  const { stderr, status } = spawnSync(process.execPath, [join(root, 'scripts/reference.mjs'), '--check'], { encoding: 'utf8' });
  expect([stderr, status]).toEqual(['', 0]);
});

test('what benches and scripts import of ours is there: no compiler reads them', () => {
  const wanted = ['bench', 'scripts'].flatMap((folder) =>
    readdirSync(join(root, folder))
      .filter((name) => name.endsWith('.mjs'))
      .flatMap((name) =>
        [...readFileSync(join(root, folder, name), 'utf8').matchAll(/import \{([^}]+)\} from '(\.[^']+)'/g)].map(
          ([, names = '', from = '']) => ({
            file: `${folder}/${name}`,
            from: join(root, folder, from),
            names: names
              .split(',')
              .map((n) => n.trim().split(' as ')[0] ?? '')
              .filter(Boolean),
          }),
        ),
      ),
  );
  expect(wanted.length).toBeGreaterThan(30);
  // Benches are scripts: importing one would run it. What they import of each other is looked for in the text.
  const compiled = wanted.filter(({ from }) => from.includes('/dist/'));
  const missing = wanted
    .filter((w) => !compiled.includes(w))
    .flatMap(({ file, from, names }) => {
      const text = readFileSync(from, 'utf8');
      return names
        .filter((n) => !new RegExp(`export (async )?(function\\*?|const|class) ${n}\\b`).test(text))
        .map((n) => `${file}: ${n}`);
    });
  const program = `
    const found = [];
    for (const { file, from, names } of ${JSON.stringify(compiled)}) {
      const module = await import(from);
      for (const name of names) if (!(name in module)) found.push(file + ': ' + name);
    }
    console.log(JSON.stringify(found));`;
  const { stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', program], { encoding: 'utf8' });
  expect(stderr).toBe('');
  expect([...missing, ...(JSON.parse(stdout) as string[])]).toEqual([]);
});
