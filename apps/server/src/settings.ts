import { join } from 'node:path';

/** What the environment says. */
export interface Settings {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  /** The built interface; null serves the API alone. */
  readonly webFolder: string | null;
}

export const SETTINGS = Symbol('settings');

/** PORT 0 takes any free port. Throws with a sentence when PORT is not a port. */
export function readSettings(env: NodeJS.ProcessEnv, defaultData: string, webFolder: string | null): Settings {
  const port = env.PORT === undefined || env.PORT === '' ? 4747 : Number(env.PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`PORT is "${env.PORT}": it has to be a number from 0 to 65535.`);
  return { host: env.HOST || '127.0.0.1', port, dataFolder: env.THAWLINE_DATA || defaultData, webFolder };
}

/** Where things lie in the data folder. */
export const places = {
  incoming: (settings: Settings): string => join(settings.dataFolder, 'incoming'),
  media: (settings: Settings, id: string): string => join(settings.dataFolder, 'media', id),
  renders: (settings: Settings): string => join(settings.dataFolder, 'renders'),
};
