import { statSync } from 'node:fs';
import { basename, delimiter, join, resolve } from 'node:path';

/** What the environment says. */
export interface Settings {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  /** Folders whose files may be used in place; absolute, each with the name that it is shown under. */
  readonly mediaFolders: readonly MediaFolder[];
  /** Folders for renders, absolute; the first is the default. */
  readonly renderFolders: readonly MediaFolder[];
  /** Address of the intake desk; null for none. */
  readonly desk: string | null;
  /** What has to be known to use this server; null where everybody on this machine may. */
  readonly token: string | null;
  /** The built interface; null serves the API alone. */
  readonly webFolder: string | null;
}

export interface MediaFolder {
  readonly name: string;
  readonly path: string;
}

export const SETTINGS = Symbol('settings');

/** PORT 0 takes any free port. Throws with a sentence when PORT is not a port or a variable names what is no folder or address. */
export function readSettings(env: NodeJS.ProcessEnv, defaultData: string, webFolder: string | null): Settings {
  const port = env.PORT === undefined || env.PORT === '' ? 4747 : Number(env.PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`PORT is "${env.PORT}": it has to be a number from 0 to 65535.`);
  const dataFolder = resolve(env.THAWLINE_DATA || defaultData);
  return {
    host: env.HOST || '127.0.0.1',
    port,
    dataFolder,
    mediaFolders: readFolders('THAWLINE_MEDIA', env.THAWLINE_MEDIA ?? ''),
    renderFolders: env.THAWLINE_RENDERS
      ? readFolders('THAWLINE_RENDERS', env.THAWLINE_RENDERS)
      : [{ name: 'renders', path: join(dataFolder, 'renders') }],
    desk: readAddress(env.THAWLINE_DESK ?? ''),
    token: readToken(env.THAWLINE_TOKEN ?? ''),
    webFolder,
  };
}

function readToken(text: string): string | null {
  if (text === '') return null;
  if (!/^[\w.~-]{16,200}$/.test(text))
    throw new Error('THAWLINE_TOKEN has to be 16 to 200 letters, digits, dashes, dots, underscores or tildes.');
  return text;
}

function readAddress(text: string): string | null {
  if (text === '') return null;
  if (!URL.canParse(text) || !/^https?:$/.test(new URL(text).protocol))
    throw new Error(`THAWLINE_DESK is "${text}": it has to be an address such as http://127.0.0.1:4750.`);
  return text.replace(/\/+$/, '');
}

/** Paths separated by colons, as in PATH. Folders of the same name get a number. */
function readFolders(variable: string, text: string): MediaFolder[] {
  const folders: MediaFolder[] = [];
  for (const part of text.split(delimiter).filter(Boolean)) {
    const path = resolve(part);
    if (!statSync(path, { throwIfNoEntry: false })?.isDirectory())
      throw new Error(`${variable} names ${part}, which is not a folder.`);
    const own = basename(path) || 'root';
    const taken = folders.filter((f) => f.name === own || f.name.startsWith(`${own} (`)).length;
    folders.push({ name: taken === 0 ? own : `${own} (${taken + 1})`, path });
  }
  return folders;
}

/** Paths within the data folder. */
export const places = {
  /** Uploads under way: they go on after a restart. */
  uploads: (settings: Settings): string => join(settings.dataFolder, 'uploads'),
  incoming: (settings: Settings): string => join(settings.dataFolder, 'incoming'),
  allMedia: (settings: Settings): string => join(settings.dataFolder, 'media'),
  media: (settings: Settings, id: string): string => join(settings.dataFolder, 'media', id),
  /** Parts of renders that are under way, a folder each. */
  works: (settings: Settings): string => join(settings.dataFolder, 'works'),
  work: (settings: Settings, id: string): string => join(settings.dataFolder, 'works', id),
  /** Parts of renders that are kept. */
  cache: (settings: Settings): string => join(settings.dataFolder, 'cache'),
};
