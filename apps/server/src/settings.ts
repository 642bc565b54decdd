import { statSync } from 'node:fs';
import { basename, delimiter, join, resolve } from 'node:path';

/** What the environment says. */
export interface Settings {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  /** Folders whose files may be used where they lie; absolute, each by the name it is shown under. */
  readonly mediaFolders: readonly MediaFolder[];
  /** The built interface; null serves the API alone. */
  readonly webFolder: string | null;
}

export interface MediaFolder {
  readonly name: string;
  readonly path: string;
}

export const SETTINGS = Symbol('settings');

/** PORT 0 takes any free port. Throws with a sentence when PORT is not a port or THAWLINE_MEDIA names what is no folder. */
export function readSettings(env: NodeJS.ProcessEnv, defaultData: string, webFolder: string | null): Settings {
  const port = env.PORT === undefined || env.PORT === '' ? 4747 : Number(env.PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`PORT is "${env.PORT}": it has to be a number from 0 to 65535.`);
  const dataFolder = resolve(env.THAWLINE_DATA || defaultData);
  return { host: env.HOST || '127.0.0.1', port, dataFolder, mediaFolders: readFolders(env.THAWLINE_MEDIA ?? ''), webFolder };
}

/** Paths with colons between them, as in PATH. Two folders of one name are told apart by a number. */
function readFolders(text: string): MediaFolder[] {
  const folders: MediaFolder[] = [];
  for (const part of text.split(delimiter).filter(Boolean)) {
    const path = resolve(part);
    if (!statSync(path, { throwIfNoEntry: false })?.isDirectory())
      throw new Error(`THAWLINE_MEDIA names ${part}, which is not a folder.`);
    const own = basename(path) || 'root';
    const taken = folders.filter((f) => f.name === own || f.name.startsWith(`${own} (`)).length;
    folders.push({ name: taken === 0 ? own : `${own} (${taken + 1})`, path });
  }
  return folders;
}

/** Where things lie in the data folder. */
export const places = {
  incoming: (settings: Settings): string => join(settings.dataFolder, 'incoming'),
  media: (settings: Settings, id: string): string => join(settings.dataFolder, 'media', id),
  renders: (settings: Settings): string => join(settings.dataFolder, 'renders'),
};
