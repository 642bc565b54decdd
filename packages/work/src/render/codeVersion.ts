import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { MediaContext } from '../jobs/context.js';

/**
 * What makes the pictures of a part, as a hash: the code that composes, moves and mixes, the kernels, and the encoder's own version. It goes
 * into each part's name, so that no part of an earlier program is taken for one of this, and nobody has to think of raising a number.
 */
export async function makersOf(context: MediaContext): Promise<string> {
  const { media } = context;
  const encoder = await media.version();
  own ??= ownCode();
  return createHash('sha256').update(own).update(encoder).digest('hex').slice(0, 16);
}

/** Files and folders below `packages` whose code determines pictures. (The edit does, too; the part's name has it already.) */
const MAKING = {
  core: ['motion', 'picture', 'fields', 'cadence', 'time'],
  kernels: ['generated', 'heap', 'index'],
  media: ['encode', 'pictures', 'colour', 'light', 'exact', 'linear', 'deepPictures', 'readFields', 'pipes', 'process'],
  project: ['resolve', 'timing', 'output/atRenderRate'],
  work: ['compose', 'motion', 'render/plan', 'render/cacheKey', 'render/colour', 'render/writeParts'],
} as const;

let own: string | null = null;

/** All of it is read once a process: some hundred small files. */
function ownCode(): string {
  // The compiled code, whether this runs from sources in tests or from a bundle.
  const packages = join(dirname(fileURLToPath(import.meta.resolve('@thawline/work'))), '..', '..');
  const hash = createHash('sha256');
  for (const [name, parts] of Object.entries(MAKING))
    for (const part of parts) for (const path of codeOf(join(packages, name, 'dist', part))) hash.update(readFileSync(path));
  return hash.digest('hex');
}

/** The code of a module or of a folder of modules; throws when it does not exist, so that a moved file is noticed. */
function codeOf(path: string): string[] {
  const isCode = (name: string): boolean => /\.(js|ts)$/.test(name) && !/\.(test|fixture)\.ts$|\.d\.ts$/.test(name);
  const inFolder = readdirSync(dirname(path)).includes(basename(path))
    ? readdirSync(path)
        .filter(isCode)
        .sort()
        .map((name) => join(path, name))
    : readdirSync(dirname(path))
        .filter((name) => isCode(name) && name.replace(/\.\w+$/, '') === basename(path))
        .map((name) => join(dirname(path), name));
  if (inFolder.length === 0) throw new Error(`${path} makes pictures and is not there: see codeVersion.ts`);
  return inFolder;
}
