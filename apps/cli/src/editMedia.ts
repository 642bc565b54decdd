import { stat } from 'node:fs/promises';
import { basename, isAbsolute, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Edit, EditMedia } from '@thawline/core/exchange';
import { ffmpeg, statIfThere } from '@thawline/media';
import type { FileSource } from '@thawline/project';
import { type SourceFile, sourceFromProbe } from '@thawline/work';
import { namingFile } from './namingFile.js';

/** Finds the files that an edit names: by their full address, else beside the edit file. */
export interface EditMediaFound {
  readonly sources: readonly FileSource[];
  /** By media id. */
  readonly files: Readonly<Record<string, SourceFile>>;
  readonly find: (media: EditMedia) => FileSource | null;
}

/** Endings that a list leaves out of a clip's name. */
const ENDINGS = ['', '.mov', '.mp4', '.mxf', '.mkv', '.webm', '.avi', '.wav'];

/**
 * @param folder of the edit file
 * @param needed whether a file that is there and cannot be read is a failure; else it counts as not there
 */
export async function findEditMedia(edits: readonly Edit[], folder: string, needed: boolean): Promise<EditMediaFound> {
  const files: Record<string, SourceFile> = {};
  const byPath = new Map<string, FileSource>();
  const byMedia = new Map<string, FileSource>();
  for (const media of edits.flatMap(mediaOf)) {
    const path = await pathOf(media, folder);
    if (!path) continue;
    const source = byPath.get(path) ?? (await sourceAt(path));
    if (!source) continue;
    byPath.set(path, source);
    byMedia.set(keyOf(media), source);
  }
  return { sources: [...new Set(byMedia.values())], files, find: (media) => byMedia.get(keyOf(media)) ?? null };

  async function sourceAt(path: string): Promise<FileSource | null> {
    const probing = ffmpeg.probe(path);
    const probe = needed ? await namingFile(path, probing) : await probing.catch(() => null);
    if (!probe) return null;
    const id = `f${byPath.size}`;
    files[id] = { path, probe, identity: `${path} ${(await stat(path)).mtimeMs}` };
    return sourceFromProbe(probe, { id, mediaId: id, name: basename(path) });
  }
}

function mediaOf(edit: Edit): EditMedia[] {
  return edit.lanes.flatMap((lane) => lane.clips.flatMap(({ media }) => ('nested' in media ? mediaOf(media.nested) : [media])));
}

function keyOf({ name, url }: EditMedia): string {
  return JSON.stringify([name, url]);
}

/** Path of a medium's file; null if it does not exist or is not on this machine. */
async function pathOf({ url, name }: EditMedia, folder: string): Promise<string | null> {
  if (url !== null && /^file:/i.test(url)) return there(fileURLToPath(url));
  if (url !== null && /^[a-z][a-z0-9+.-]*:/i.test(url)) return null;
  const told = url === null ? basename(name) : decodeURIComponent(url);
  for (const ending of ENDINGS) {
    const path = isAbsolute(told) ? told : join(folder, told);
    const found = await there(`${path}${ending}`);
    if (found) return found;
  }
  return null;
}

async function there(path: string): Promise<string | null> {
  const found = await statIfThere(path);
  return found?.isFile() ? path : null;
}
