import { formatRate } from '@thawline/core/time';
import type { Command } from './commands.js';
import type { Project } from './document.js';

const FIT_WORDS = { nearest: 'keep time, nearest', blend: 'keep time, blend', pictures: 'keep pictures' } as const;

function counted(count: number, one: string): string {
  return count === 1 ? `1 ${one}` : `${count} ${one}s`;
}

/** What a command did, in a line for the history: "Placed jetty-pan on Main cut". `before` is the project it was applied to. */
export function describe(command: Command, before: Project): string {
  const timeline = (id: string): string => before.timelines.find((t) => t.id === id)?.name ?? 'a timeline';
  const source = (id: string): string => before.sources.find((s) => s.id === id)?.name ?? 'a source';
  const clips = (timelineId: string, ids: readonly string[]): string => {
    const found = before.timelines.find((t) => t.id === timelineId)?.clips.find((c) => c.id === ids[0]);
    return ids.length === 1 && found ? source(found.sourceId) : counted(ids.length, 'clip');
  };
  switch (command.type) {
    case 'renameProject':
      return `Named the project ${command.name}`;
    case 'addSources':
      return `Added ${command.sources.length === 1 ? command.sources[0]?.name : counted(command.sources.length, 'source')}`;
    case 'removeSources':
      return `Removed ${command.sourceIds.length === 1 ? source(command.sourceIds[0] ?? '') : counted(command.sourceIds.length, 'source')}`;
    case 'addTimeline':
      return `Made ${command.timeline.name} at ${formatRate(command.timeline.rate)}`;
    case 'renameTimeline':
      return `Named ${timeline(command.timelineId)} ${command.name}`;
    case 'setTimelineFormat':
      return `Set ${timeline(command.timelineId)} to ${formatRate(command.rate)}, ${command.width}x${command.height}`;
    case 'removeTimeline':
      return `Removed ${timeline(command.timelineId)}`;
    case 'placeClips': {
      const ids = new Set(command.clips.map((c) => c.sourceId));
      const what = ids.size === 1 ? source(command.clips[0]?.sourceId ?? '') : counted(ids.size, 'source');
      return `Placed ${what} on ${timeline(command.timelineId)}`;
    }
    case 'moveClips':
      return `Moved ${clips(command.timelineId, command.clipIds)} by ${command.byFrames} frames`;
    case 'trimClip':
      return `Trimmed ${clips(command.timelineId, [command.clipId])}`;
    case 'setFit':
      return `Fitted ${clips(command.timelineId, command.clipIds)}: ${FIT_WORDS[command.fit]}`;
    case 'removeClips':
      return `Took ${clips(command.timelineId, command.clipIds)} off ${timeline(command.timelineId)}`;
    default:
      command satisfies never;
      return '';
  }
}
