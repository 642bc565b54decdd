import { type Dirent, promises as fs } from 'node:fs';
import { basename, extname, join, sep } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import type { FolderReply, ScanReply } from '@thawline/contract';
import { findSeries, kindOfName, passedOver } from '@thawline/core/files';
import { Failure } from '../http/failure.js';
import { SETTINGS, type Settings } from '../settings.js';

/** Most files a scan looks at; a larger folder is refused instead of scanned for minutes. */
const MOST_FILES = 50_000;
const DEEPEST = 12;

/** The folders of THAWLINE_MEDIA and their contents; nothing outside of them is accessible. */
@Injectable()
export class FoldersService {
  constructor(@Inject(SETTINGS) private readonly settings: Settings) {}

  /** A path as it is shown ("dailies/day 1/a.mp4") to where it really lies. Links that lead out of the folder are refused. */
  async real(shown: string): Promise<string> {
    const [name = '', ...rest] = shown.split('/').filter(Boolean);
    const folder = this.settings.mediaFolders.find((f) => f.name === name);
    if (!folder || rest.includes('..') || rest.includes('.')) throw new Failure('outside-folders');
    const root = await fs.realpath(folder.path);
    const real = await fs.realpath(join(root, ...rest)).catch(() => null);
    if (real === null) throw new Failure('unknown-folder', { path: shown });
    if (!within(real, root)) throw new Failure('outside-folders');
    await this.usable(real, shown);
    return real;
  }

  /**
   * The same door for a file that was found before and lies in place: links may lead elsewhere since, and folders may no longer be named.
   * @returns whether it is still within one of the media folders; null where it is not there
   */
  async stillInside(path: string): Promise<boolean | null> {
    const real = await fs.realpath(path).catch(() => null);
    if (real === null) return null;
    for (const folder of this.settings.mediaFolders) {
      const root = await fs.realpath(folder.path).catch(() => null);
      if (root !== null && within(real, root)) return true;
    }
    return false;
  }

  /** Only files and folders: opening a named pipe would block for ever, and a device may do anything. */
  private async usable(real: string, shown: string): Promise<void> {
    const entry = await fs.stat(real);
    if (!entry.isFile() && !entry.isDirectory())
      throw new Failure('unknown-folder', { path: shown }, `${shown} is neither a file nor a folder.`);
  }

  /** What lies in a folder; '' lists the media folders themselves. Hidden files and links that lead out are not shown. */
  async list(shown: string): Promise<FolderReply> {
    if (shown.split('/').every((part) => part === '')) {
      const folders = this.settings.mediaFolders.map(({ name }) => ({ name, path: name }));
      return { path: '', folders, files: [] };
    }
    const entries = await this.entries(shown);
    const folders = entries.folders.map((name) => ({ name, path: `${shown}/${name}` }));
    const files: FolderReply['files'] = [];
    for (const { name, real } of entries.files) {
      const { size, mtime } = await fs.stat(real);
      const kind = kindOfName(name) ?? 'other';
      files.push({ name, path: `${shown}/${name}`, kind, bytes: size, modified: mtime.toISOString() });
    }
    return { path: shown, folders, files };
  }

  /** Walks files and folders and says what of them can be a source. Nothing is opened yet. */
  async scan(paths: readonly string[]): Promise<ScanReply> {
    const found: Found = { items: [], passed: new Map(), refused: [], looked: 0 };
    for (const path of paths) {
      try {
        const real = await this.real(path);
        if ((await fs.stat(real)).isDirectory()) await this.walk(path, 0, found);
        else found.items.push({ path, name: basename(path), kind: kindOfName(path) ?? 'film', files: 1, missing: 0 });
      } catch (error) {
        if (!(error instanceof Failure)) throw error;
        found.refused.push({ file: path, code: error.code, message: `${path}: ${error.message}` });
      }
    }
    const passed = [...found.passed.values()].sort((a, b) => b.files - a.files);
    return { items: found.items, passed, refused: found.refused };
  }

  /** The files of the series that begins with this one, in order. */
  async seriesAt(
    first: string,
  ): Promise<{ name: string; ending: string; paths: string[]; first: number; last: number; missing: number }> {
    const folder = first.slice(0, first.lastIndexOf('/'));
    await this.real(first);
    const { files } = await this.entries(folder);
    const series = findSeries(files, (f) => f.name).series.find((s) => s.files[0]?.name === basename(first));
    if (!series) throw new Failure('unknown-folder', { path: first });
    return { ...series, paths: series.files.map((f) => f.real) };
  }

  /** All films and pictures of this size in the media folders, by their real paths. */
  async ofSize(bytes: number): Promise<string[]> {
    const found: string[] = [];
    const look = async (shown: string, depth: number): Promise<void> => {
      const { files, folders } = await this.entries(shown);
      for (const { name, real } of files) if (kindOfName(name) && (await fs.stat(real)).size === bytes) found.push(real);
      if (depth < DEEPEST) for (const name of folders) await look(`${shown}/${name}`, depth + 1);
    };
    for (const { name } of this.settings.mediaFolders) await look(name, 0);
    return found;
  }

  /** The shown path of a film or picture of this name in the media folders; null when there is none. */
  async named(wanted: string): Promise<string | null> {
    const look = async (shown: string, depth: number): Promise<string | null> => {
      const { files, folders } = await this.entries(shown);
      const found = files.find(({ name }) => kindOfName(name) && sameName(name, wanted));
      if (found) return `${shown}/${found.name}`;
      for (const name of depth < DEEPEST ? folders : []) {
        const deeper = await look(`${shown}/${name}`, depth + 1);
        if (deeper) return deeper;
      }
      return null;
    };
    for (const { name } of this.settings.mediaFolders) {
      const found = await look(name, 0);
      if (found) return found;
    }
    return null;
  }

  private async walk(shown: string, depth: number, found: Found): Promise<void> {
    const { folders, files, ledOut } = await this.entries(shown);
    found.looked += files.length;
    if (found.looked > MOST_FILES)
      throw new Failure('bad-request', {}, `${shown} holds more than ${MOST_FILES} files. Choose a folder further down.`);
    for (const name of ledOut) pass(found, 'a link that leads out of the media folders', `${shown}/${name}`);
    const material = files.filter(({ name }) => {
      const reason = passedOver(name);
      if (reason) pass(found, reason, `${shown}/${name}`);
      return reason === null;
    });
    const { series, rest } = findSeries(material, (f) => f.name);
    for (const s of series) {
      const path = `${shown}/${s.files[0]?.name}`;
      found.items.push({ path, name: s.name, kind: 'series', files: s.files.length, missing: s.missing });
    }
    for (const { name } of rest)
      found.items.push({ path: `${shown}/${name}`, name, kind: kindOfName(name) ?? 'film', files: 1, missing: 0 });
    for (const name of folders) {
      if (depth >= DEEPEST) pass(found, `folders more than ${DEEPEST} deep`, `${shown}/${name}`);
      else await this.walk(`${shown}/${name}`, depth + 1, found);
    }
  }

  private async entries(shown: string): Promise<Entries> {
    const real = await this.real(shown);
    const entries = await fs.readdir(real, { withFileTypes: true }).catch((error: NodeJS.ErrnoException): Dirent[] => {
      throw new Failure('unknown-folder', { path: shown }, `${shown} cannot be opened: ${error.code ?? 'no reason given'}.`);
    });
    const kept: Entries = { folders: [], files: [], ledOut: [] };
    for (const entry of entries.sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))) {
      const name = entry.name;
      if (entry.isDirectory() && !name.startsWith('.')) kept.folders.push(name);
      else if (entry.isFile() && !name.startsWith('.')) kept.files.push({ name, real: join(real, name) });
      else if (entry.isSymbolicLink() && !name.startsWith('.')) await this.followed(`${shown}/${name}`, name, kept);
    }
    return kept;
  }

  private async followed(shown: string, name: string, kept: Entries): Promise<void> {
    try {
      const target = await this.real(shown);
      // Links to folders are not followed: two that point at each other would never end.
      if ((await fs.stat(target)).isFile()) kept.files.push({ name, real: target });
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      kept.ledOut.push(name);
    }
  }
}

function within(path: string, root: string): boolean {
  return path === root || path.startsWith(root.endsWith(sep) ? root : root + sep);
}

/** Compares names regardless of case; a name without an ending matches any ending. */
function sameName(name: string, wanted: string): boolean {
  const [a, b] = [name.toLowerCase(), wanted.toLowerCase()];
  return a === b || (extname(b) === '' && basename(a, extname(a)) === b);
}

interface Entries {
  readonly folders: string[];
  readonly files: { readonly name: string; readonly real: string }[];
  /** Links that lead out of the folder, or nowhere. */
  readonly ledOut: string[];
}

interface Found {
  readonly items: ScanReply['items'];
  readonly passed: Map<string, ScanReply['passed'][number]>;
  readonly refused: ScanReply['refused'];
  looked: number;
}

function pass(found: Found, reason: string, example: string): void {
  const before = found.passed.get(reason);
  found.passed.set(reason, { reason, files: (before?.files ?? 0) + 1, example: before?.example ?? example });
}
