import type { Project } from '../document/document.js';
import { sourceOf } from '../resolve/sources.js';

/** Names of what a command speaks of, as they were before it. */
export interface Names {
  readonly before: Project;
  readonly timeline: (id: string) => string;
  readonly source: (id: string) => string;
  /** The clip's source where it is one clip, else how many they are. */
  readonly clips: (timelineId: string, ids: readonly string[]) => string;
}

export function namesIn(before: Project): Names {
  const timeline = (id: string): string => before.timelines.find((t) => t.id === id)?.name ?? 'a timeline';
  const source = (id: string): string => sourceOf(before, id)?.name ?? 'a source';
  const clips = (timelineId: string, ids: readonly string[]): string => {
    const found = before.timelines.find((t) => t.id === timelineId)?.clips.find((c) => c.id === ids[0]);
    return ids.length === 1 && found ? source(found.sourceId) : counted(ids.length, 'clip');
  };
  return { before, timeline, source, clips };
}

/** "1 clip", "3 clips". */
export function counted(count: number, one: string): string {
  return count === 1 ? `1 ${one}` : `${count} ${one}s`;
}
