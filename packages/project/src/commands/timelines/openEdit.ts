import type { Patch } from 'immer';
import { z } from 'zod';
import { type FileSource, type Project, sourceSchema, type Timeline, timelineSchema } from '../../document/document.js';
import { checkRoom, Refused } from '../../refusals/guards.js';
import { defineCommand } from '../define.js';
import { checkFormat } from './newTimeline.js';

const schema = z.object({
  type: z.literal('openEdit'),
  file: z.string().max(255),
  timelines: z.array(timelineSchema).max(100),
  sources: z.array(sourceSchema).max(10_000),
});

/** What an edit file brought: timelines, and sources that are not found yet. */
export const openEdit = defineCommand({
  schema,
  produce: producePatches,
  label: (command) => `Opened ${command.file}`,
});

/** What an edit file brings, with the patches that immer would have found. */
function producePatches(project: Project, command: z.output<typeof schema>): [Project, Patch[], Patch[]] {
  const { next, added, widened } = addOpened(project, command);
  const wider = widened.map(({ index, source }): Patch => ({ op: 'replace', path: ['sources', index], value: source }));
  const narrower = widened.map(({ index, before }): Patch => ({ op: 'replace', path: ['sources', index], value: before }));
  const forward = [...wider, ...added.map(({ path, value }): Patch => ({ op: 'add', path, value }))];
  const shorter = (['sources', 'timelines'] as const)
    .filter((list) => next[list].length > project[list].length)
    .map((list): Patch => ({ op: 'replace', path: [list, 'length'], value: project[list].length }));
  return [next, forward, [...shorter, ...narrower]];
}

/**
 * Sources and timelines of an edit file beside those that are there, as plain values: thousands of clips that nobody has seen before need
 * no record of their changes. A source that stands in for a file which is still to be found may be named again: it becomes as long as the
 * new uses want it, and gains sound where they have some.
 * @returns the project with them, and what came and changed
 */
function addOpened(
  project: Project,
  command: z.output<typeof schema>,
): { readonly next: Project; readonly added: readonly Added[]; readonly widened: readonly Widened[] } {
  const ids = new Set([...project.sources, ...project.timelines].map((s) => s.id));
  const widened = widenedBy(project, command.sources);
  const fresh = command.sources.filter((s) => !widened.some((w) => w.source.id === s.id));
  for (const { id } of [...fresh, ...command.timelines]) {
    if (ids.has(id)) throw new Refused('id-taken', { id });
    ids.add(id);
  }
  for (const timeline of command.timelines) {
    checkFormat(timeline);
    const lanes = new Set(timeline.lanes.map((l) => l.id));
    for (const clip of timeline.clips) {
      if (!ids.has(clip.sourceId)) throw new Refused('unknown-source', { id: clip.sourceId });
      if (!lanes.has(clip.laneId)) throw new Refused('unknown-lane', { lane: clip.laneId });
    }
    checkRoom(timeline, timeline.clips);
  }
  const { sources, timelines } = project;
  return {
    next: {
      ...project,
      sources: [...sources.map((s) => widened.find((w) => w.source.id === s.id)?.source ?? s), ...fresh],
      timelines: [...timelines, ...command.timelines],
    },
    widened,
    added: [
      ...fresh.map((value, i): Added => ({ path: ['sources', sources.length + i], value })),
      ...command.timelines.map((value, i): Added => ({ path: ['timelines', timelines.length + i], value })),
    ],
  };
}

interface Widened {
  readonly index: number;
  readonly before: FileSource;
  readonly source: FileSource;
}

function widenedBy(project: Project, named: readonly FileSource[]): Widened[] {
  return named.flatMap((source) => {
    const index = project.sources.findIndex((s) => s.id === source.id);
    const before = project.sources[index];
    // What is not found yet stands for a film.
    if (before?.kind !== 'film' || source.kind !== 'film' || !before.lost || !source.lost) return [];
    const longer = source.pictures > before.pictures ? { pictures: source.pictures, seconds: source.seconds } : {};
    return [
      {
        index,
        before,
        source: {
          ...before,
          ...longer,
          sound: before.sound && source.sound ? longest(before.sound, source.sound) : (before.sound ?? source.sound),
        },
      },
    ];
  });
}

function longest<S extends { readonly seconds: number }>(a: S, b: S): S {
  return a.seconds >= b.seconds ? a : b;
}

interface Added {
  readonly path: ['sources' | 'timelines', number];
  readonly value: FileSource | Timeline;
}
