import { rate } from '@thawline/core/time';
import { madeSource } from '../fixture/index.js';
import {
  apply,
  type Command,
  type CommandInput,
  clipsFor,
  commandSchema,
  emptyProject,
  noTiming,
  type Project,
} from '../index.js';

export { madeSequence, madeSound, madeSource, madeStill } from '../fixture/index.js';

let made = 0;
export const newId = (): string => `id${made++}`;

/** Applies commands one after the other; throws where one is refused. */
export function run(project: Project, ...commands: CommandInput[]): Project {
  return commands.reduce((p: Project, command) => {
    const applied = apply(p, commandSchema.parse(command));
    if (!applied.ok) throw new Error(applied.code);
    return applied.project;
  }, project);
}

/** The command that places a whole source on timeline t. */
export function place(project: Project, name: string, start?: number, laneId?: string): Command {
  const timeline = project.timelines[0];
  const found = project.sources.find((s) => s.id === name);
  if (!timeline || !found) throw new Error('nothing to place');
  return {
    type: 'placeClips',
    timelineId: 't',
    clips: clipsFor({ timeline, source: found, fit: 'nearest', start, laneId, newId }, noTiming),
  };
}

/** Three sources and an empty timeline t at 25. */
export const base = run(
  emptyProject('Test'),
  {
    type: 'addSources',
    sources: [
      madeSource('pan', rate(30000, 1001), 240, true),
      madeSource('floes', rate(50), 400),
      madeSource('talk', rate(25), 400, true),
    ],
  },
  {
    type: 'addTimeline',
    timeline: { id: 't', name: 'Cut', rate: rate(25), width: 640, height: 360, startFrame: 0, dropFrame: false },
  },
);
