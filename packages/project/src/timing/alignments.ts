import type { Alignment, Project, Source } from '../document/document.js';

/** The ties of two sources, in this order; undefined where there are none. */
export function alignmentOf(project: Project, aId: string, bId: string): Alignment | undefined {
  return project.alignments.find((x) => x.aId === aId && x.bId === bId);
}

/** How long a recording runs, picture or sound, in seconds of its own. */
export function recordedSeconds(source: Source): number {
  const sound = source.sound ? source.sound.seconds + source.sound.startSeconds : 0;
  return Math.max(source.seconds ?? 0, sound);
}
