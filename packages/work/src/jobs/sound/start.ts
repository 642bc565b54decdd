import type { RequestOf } from '../define.js';
import { specification } from '../proxy/start.js';
import { JobRefused } from '../refusals.js';
import { type NewJob, type StartContext, sourceHere } from '../starting.js';
import type { sound } from './definition.js';

export async function start({ sourceId }: RequestOf<typeof sound>, { document }: StartContext): Promise<readonly NewJob[]> {
  const source = sourceHere(document, sourceId);
  if (!source.sound) throw new JobRefused('no-sound', { source: source.name });
  return [{ kind: 'sound', label: source.name, subject: source.mediaId, params: {} }];
}

export { specification };
