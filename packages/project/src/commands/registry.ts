import { z } from 'zod';
import type { Project } from '../document/document.js';
import { placeAligned } from './alignment/placeAligned.js';
import { setTies } from './alignment/setTies.js';
import { closeGaps } from './clips/closeGaps.js';
import { linkClips } from './clips/linkClips.js';
import { moveClips } from './clips/moveClips.js';
import { placeClips } from './clips/placeClips.js';
import { removeClips } from './clips/removeClips.js';
import { setDissolve } from './clips/setDissolve.js';
import { slipClips } from './clips/slipClips.js';
import { splitClips } from './clips/splitClips.js';
import { switchClips } from './clips/switchClips.js';
import { trimClip } from './clips/trimClip.js';
import { unpackClip } from './clips/unpackClip.js';
import type { Changing, Producing } from './define.js';
import { namesIn } from './names.js';
import { renameProject } from './project/renameProject.js';
import { addSources } from './sources/addSources.js';
import { judgePicture } from './sources/judgePicture.js';
import { markPicture } from './sources/markPicture.js';
import { readAt } from './sources/readAt.js';
import { readFields } from './sources/readFields.js';
import { rebuildSource } from './sources/rebuildSource.js';
import { removeSources } from './sources/removeSources.js';
import { renewSource } from './sources/renewSource.js';
import { replaceSource } from './sources/replaceSource.js';
import { setClaim } from './sources/setClaim.js';
import { setProjection } from './sources/setProjection.js';
import { addTimeline } from './timelines/addTimeline.js';
import { carryTimeline } from './timelines/carryTimeline.js';
import { duplicateTimeline } from './timelines/duplicateTimeline.js';
import { markFrames } from './timelines/markFrames.js';
import { openEdit } from './timelines/openEdit.js';
import { removeTimeline } from './timelines/removeTimeline.js';
import { renameTimeline } from './timelines/renameTimeline.js';
import { setLanes } from './timelines/setLanes.js';
import { setRange } from './timelines/setRange.js';
import { setTimelineFormat } from './timelines/setTimelineFormat.js';
import { chooseFrames } from './treatment/chooseFrames.js';
import { retimeClip } from './treatment/retimeClip.js';
import { setFit } from './treatment/setFit.js';
import { setFraming } from './treatment/setFraming.js';
import { setMix } from './treatment/setMix.js';
import { setOpacity } from './treatment/setOpacity.js';
import { setPose } from './treatment/setPose.js';
import { setShutter } from './treatment/setShutter.js';
import { setSound } from './treatment/setSound.js';

/** Everything a person can do to a project, as data. One command is one step to undo, however much it touches. A new one is a file and a line here. */
export const COMMANDS = [
  renameProject,
  addSources,
  removeSources,
  setClaim,
  setProjection,
  markPicture,
  markFrames,
  judgePicture,
  readAt,
  readFields,
  rebuildSource,
  replaceSource,
  renewSource,
  addTimeline,
  renameTimeline,
  setTimelineFormat,
  duplicateTimeline,
  carryTimeline,
  setRange,
  setLanes,
  openEdit,
  removeTimeline,
  placeClips,
  moveClips,
  trimClip,
  switchClips,
  setDissolve,
  setFit,
  retimeClip,
  setShutter,
  setMix,
  chooseFrames,
  setFraming,
  setOpacity,
  setPose,
  setSound,
  setTies,
  placeAligned,
  slipClips,
  splitClips,
  closeGaps,
  linkClips,
  unpackClip,
  removeClips,
] as const;

type SchemasOf<List extends readonly { readonly schema: unknown }[]> = { [K in keyof List]: List[K]['schema'] };

/** The schemas alone, in the same order. The cast keeps each one's type, which map cannot. */
const schemas = COMMANDS.map((definition) => definition.schema) as unknown as SchemasOf<typeof COMMANDS>;
export const commandSchema = z.discriminatedUnion('type', schemas);

export type Command = z.infer<typeof commandSchema>;
/** As a request may say it: what has a usual value may be left out. */
export type CommandInput = z.input<typeof commandSchema>;
export type CommandType = Command['type'];

/** A definition for callers that handle any command; it is only ever given commands of its own type. */
type AnyDefinition = Changing<typeof commandSchema> | Producing<typeof commandSchema>;
const BY_TYPE = new Map(COMMANDS.map((d) => [d.schema.shape.type.value, d as unknown as AnyDefinition]));

/** The definition behind a command. */
export function definitionOf(command: Command): AnyDefinition {
  const found = BY_TYPE.get(command.type);
  if (!found) throw new RangeError(`no such command: ${command.type}`);
  return found;
}

/** What a command did, in a line for the history: "Placed jetty-pan on Main cut". `before` is the project it was applied to. */
export function describe(command: Command, before: Project): string {
  return definitionOf(command).label(command, namesIn(before));
}
