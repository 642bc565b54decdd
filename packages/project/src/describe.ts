import { formatRate, rateToNumber } from '@thawline/core/time';
import type { Command } from './commands.js';
import type { Project } from './document.js';
import { sameReading } from './reading.js';
import { sourceOf } from './sources.js';

const FIT_WORDS = {
  nearest: 'keep time, nearest',
  blend: 'keep time, blend',
  motion: 'keep time, motion',
  pictures: 'keep pictures',
  freeze: 'freeze',
} as const;
const SOUND_WORDS = { along: 'goes with the speed', pitch: 'keeps its pitch', own: 'its own speed', off: 'off' } as const;
const FRAMING_WORDS = { inside: 'fit inside', fill: 'fill the frame', 'as-is': 'pixel for pixel' } as const;

function counted(count: number, one: string): string {
  return count === 1 ? `1 ${one}` : `${count} ${one}s`;
}

/** What a command did, in a line for the history: "Placed jetty-pan on Main cut". `before` is the project it was applied to. */
export function describe(command: Command, before: Project): string {
  const timeline = (id: string): string => before.timelines.find((t) => t.id === id)?.name ?? 'a timeline';
  const source = (id: string): string => sourceOf(before, id)?.name ?? 'a source';
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
      return `Removed ${command.sourceIds.length === 1 ? source(command.sourceIds[0] ?? '') : counted(command.sourceIds.length, 'source')}${command.withUses ? ' and what was placed of it' : ''}`;
    case 'setClaim': {
      const what =
        command.sourceIds.length === 1 ? source(command.sourceIds[0] ?? '') : counted(command.sourceIds.length, 'source');
      return command.claimed ? `Noted a claim of ${formatRate(command.claimed)} for ${what}` : `Took the claim of ${what} away`;
    }
    case 'markPicture': {
      const where = `picture ${command.picture} of ${source(command.sourceId)}`;
      return command.note === null ? `Took the mark off ${where}` : `Marked ${where}`;
    }
    case 'markFrames': {
      const put = command.marks.filter((m) => m.name !== null).length;
      return put > 0
        ? `Put ${counted(put, 'mark')} into the edit`
        : `Took ${counted(command.marks.length, 'mark')} out of the edit`;
    }
    case 'judgePicture': {
      const where = `picture ${command.picture} of ${source(command.sourceId)}`;
      return command.as === null ? `Left ${where} to the check` : `Called ${where} ${command.as}`;
    }
    case 'readAt':
      return describeReadAt(command, before, source);
    case 'rebuildSource':
      return `Rebuilt the ${counted(command.held.length, 'held picture')} of ${source(command.sourceId)} with motion`;
    case 'replaceSource':
      return `Put ${source(command.byId)} in the place of ${source(command.sourceId)}`;
    case 'renewSource':
      return `Took ${command.source.name} as its file is now`;
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
      return `Moved ${clips(command.timelineId, command.clipIds)} by ${command.byFrames} ${Math.abs(command.byFrames) === 1 ? 'frame' : 'frames'}`;
    case 'trimClip':
      return `Trimmed ${clips(command.timelineId, [command.clipId])}`;
    case 'setFit':
      return `Fitted ${clips(command.timelineId, command.clipIds)}: ${FIT_WORDS[command.fit]}`;
    case 'retimeClip': {
      const what = clips(command.timelineId, [command.clipId]);
      if (command.pins) return `Curved the time of ${what}`;
      return command.speed
        ? `Set ${what} to ${Number((rateToNumber(command.speed) * 100).toFixed(3))} %`
        : `Took the time curve off ${what}`;
    }
    case 'setShutter':
      return `Set the shutter of ${clips(command.timelineId, command.clipIds)} to ${command.degrees}\u00b0`;
    case 'setMix':
      return `Mixed ${clips(command.timelineId, command.clipIds)} ${command.mix === 'light' ? 'in linear light' : 'as stored'}`;
    case 'chooseFrames': {
      const what = `${counted(command.frames.length, 'frame')} of ${clips(command.timelineId, [command.clipId])}`;
      return command.as === null ? `Left ${what} to the fit` : `Chose ${command.as} for ${what}`;
    }
    case 'duplicateTimeline':
      return `Made ${command.name}, a copy of ${timeline(command.timelineId)}`;
    case 'carryTimeline':
      return `Carried ${timeline(command.timelineId)} to ${formatRate(command.rate)}, as ${command.name}`;
    case 'setRange':
      return command.range
        ? `Set in and out of ${timeline(command.timelineId)}`
        : `Cleared in and out of ${timeline(command.timelineId)}`;
    case 'setDissolve':
      return command.before + command.after === 0
        ? `Cut to ${clips(command.timelineId, [command.clipId])}`
        : `Dissolve to ${clips(command.timelineId, [command.clipId])} over ${counted(command.before + command.after, 'frame')}`;
    case 'switchClips':
      return `Switch ${clips(command.timelineId, command.clipIds)} ${command.off ? 'off' : 'on'}`;
    case 'setLanes':
      return `Changed the lanes of ${timeline(command.timelineId)}`;
    case 'openEdit':
      return `Opened ${command.file}`;
    case 'setSound': {
      const what = clips(command.timelineId, command.clipIds);
      if (command.level !== undefined) return `Set the sound of ${what} to ${command.level.toFixed(1)} dB`;
      return command.way ? `Sound of ${what}: ${SOUND_WORDS[command.way]}` : `Left the sound of ${what} to its source`;
    }
    case 'setTies': {
      const what = `${source(command.aId)} and ${source(command.bId)}`;
      return command.ties.length === 0
        ? `Took the ties of ${what} away`
        : `Tied ${what} at ${counted(command.ties.length, 'moment')}`;
    }
    case 'placeAligned':
      return `Placed ${source(command.bId)}${command.more.length > 0 ? ` and ${command.more.length} more` : ''} along ${source(command.aId)} on ${command.timeline?.name ?? timeline(command.timelineId)}`;
    case 'setFraming':
      return `Framed ${clips(command.timelineId, command.clipIds)}: ${FRAMING_WORDS[command.framing]}`;
    case 'slipClips':
      return `Slipped ${clips(command.timelineId, command.clipIds)} by ${counted(command.byPictures, 'picture')}`;
    case 'splitClips':
      return `Split ${command.clipIds.length === 0 ? 'all clips' : clips(command.timelineId, command.clipIds)} at frame ${command.frame}`;
    case 'closeGaps':
      return `Closed gaps on ${timeline(command.timelineId)}`;
    case 'linkClips':
      return `${command.link ? 'Linked' : 'Unlinked'} ${clips(command.timelineId, command.clipIds)}`;
    case 'unpackClip':
      return `Unpacked ${clips(command.timelineId, [command.clipId])} on ${timeline(command.timelineId)}`;
    case 'removeClips':
      return `Took ${clips(command.timelineId, command.clipIds)} off ${timeline(command.timelineId)}`;
    default:
      command satisfies never;
      return '';
  }
}

const ORIGINS = {
  typed: '',
  stored: 'their stored rates',
  sound: "their sound's rates",
  true: 'their true rates',
  timeline: "a timeline's rate",
} as const;

/** "Read 26 sources at 24", "Read phone-thaw evenly at 30", "Read 3 sources at their stored rates". Counts those that change. */
function describeReadAt(command: Extract<Command, { type: 'readAt' }>, before: Project, source: (id: string) => string): string {
  const now = new Map(before.sources.map((s) => [s.id, s.readAt]));
  const changing = command.readings.filter((r) => !sameReading(r.reading, now.get(r.sourceId) ?? null));
  const told = changing.length > 0 ? changing : command.readings;
  const what = told.length === 1 ? source(told[0]?.sourceId ?? '') : counted(told.length, 'source');
  const first = told[0]?.reading;
  if (!first) return `Read ${what} as measured`;
  const alike = told.every((r) => r.reading && formatRate(r.reading.rate) === formatRate(first.rate));
  if (told.every((r) => r.reading?.pictures === 'new')) return `Keep the new pictures of ${what} only`;
  if (told.every((r) => r.reading?.pictures === 'rebuilt')) return `Rebuilt the held pictures of ${what} with motion`;
  if (alike) return `Read ${what} ${first.pictures === 'even' ? 'evenly ' : ''}at ${formatRate(first.rate)}`;
  return `Read ${what} at ${ORIGINS[first.from] || 'different rates'}`;
}
