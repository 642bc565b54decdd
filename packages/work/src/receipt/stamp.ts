import { createHash } from 'node:crypto';
import { open, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Identifies a render's files as they are on the disk: all of them together, a folder of pictures by the files in it. */

/** Paths of all files: of a folder those within it, in their order. */
async function eachFile(files: readonly string[]): Promise<string[]> {
  const all: string[] = [];
  for (const path of files) {
    if ((await stat(path)).isDirectory()) for (const name of (await readdir(path)).sort()) all.push(join(path, name));
    else all.push(path);
  }
  return all;
}

export async function bytesOf(files: readonly string[]): Promise<number> {
  let bytes = 0;
  for (const path of await eachFile(files)) bytes += (await stat(path)).size;
  return bytes;
}

/** Size and time of each file, in a line. Rejects with ENOENT where one is gone. */
export async function stampOf(files: readonly string[]): Promise<string> {
  const stats = await Promise.all((await eachFile(files)).map((path) => stat(path)));
  return createHash('sha256')
    .update(stats.map((s) => `${s.size} ${s.mtimeMs}`).join('\n'))
    .digest('hex')
    .slice(0, 40);
}

const BLOCK = 1 << 20;

/** SHA-256 over every byte of every file. Rejects with ENOENT where one is gone. */
export async function fingerprintOfAll(files: readonly string[]): Promise<string> {
  const hash = createHash('sha256');
  const buffer = Buffer.alloc(BLOCK);
  for (const path of await eachFile(files)) {
    const file = await open(path);
    try {
      for (;;) {
        const { bytesRead } = await file.read(buffer, 0, BLOCK);
        if (bytesRead === 0) break;
        hash.update(buffer.subarray(0, bytesRead));
      }
    } finally {
      await file.close();
    }
  }
  return hash.digest('hex').slice(0, 40);
}
