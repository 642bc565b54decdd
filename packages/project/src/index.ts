export { alignmentOf, recordedSeconds } from './align.js';
export type { Applied, Difference } from './apply.js';
export { apply, applyDifference, leaveUnfrozen } from './apply.js';
export type { CarryReport, ClipCarry, CutMove } from './carry.js';
export { carryCuts, carryTimeline, reportCarry } from './carry.js';
export type { Clipboard } from './clipboard.js';
export { clipsToPaste, copyClips } from './clipboard.js';
export type { Command, CommandInput, CommandType, Follow, Refusal, Uses } from './commands.js';
export { commandSchema, FOLLOWS, USES } from './commands.js';
export { type Commuted, moveStepFirst, moveStepLast } from './commute.js';
export { describe } from './describe.js';
export type { Dissolving } from './dissolves.js';
export { beyondPictures, clipBefore, dissolveShare, dissolvesOf } from './dissolves.js';
export type { Alignment, Clip, Dissolve, Framing, Lane, Mark, Project, Reading, SoundWay, Source, Timeline } from './document.js';
export {
  clipSchema,
  curveSchema,
  documentSchema,
  emptyProject,
  FRAMINGS,
  INSTEADS,
  idSchema,
  LEVEL_MAX,
  LEVEL_MIN,
  rateSchema,
  SOUND_WAYS,
  soundSchema,
  sourceSchema,
  timelineSchema,
} from './document.js';
export { DOCUMENT_FORMAT, FORMAT_STEPS, type FormatStep, migrateDocument, migratePatches } from './documentFormat.js';
export type { ListEvent, OpenedEdit, OpenOptions, SaveOptions } from './edits.js';
export { fromEdit, toEdit } from './edits.js';
export type { FormCodec, FormFacts, FormKind, Preset, RenderForm, RenderFormInput, SettledForm } from './form.js';
export {
  CODEC_WORDS,
  FORM_KINDS,
  FORMS,
  fileNameOf,
  formSchema,
  formWords,
  peakWords,
  presetSchema,
  QUALITIES,
  qualityWords,
  RATE_WAYS,
  settledForm,
} from './form.js';
export type { CheckFacts, Ledger, LedgerLine, SourceUse } from './ledger.js';
export { countUses, gapOf, isPadded, ledgerOf, usesOf } from './ledger.js';
export type { EditForm } from './losses.js';
export { EDIT_FORMS, flattened, lossesOf } from './losses.js';
export type { TimingOf } from './mapping.js';
export { clipEnd, mappingOf, noTiming, timelineLength, timingOf, timingUnder } from './mapping.js';
export { corrected } from './notes.js';
export type { Placement } from './place.js';
export { clipsFor, freeStart, plainClip } from './place.js';
export type { ClipCadence, Layer, Segment, Shown } from './plan.js';
export {
  boxOf,
  cadenceOf,
  layersAt,
  layersOf,
  segmentAt,
  segmentsOf,
  shownAt,
} from './plan.js';
export type { HoldingTimeline, ReadAtPreview, SourceChange, UseChange } from './preview.js';
export { previewReadAt } from './preview.js';
export {
  actionSpeed,
  ownRate,
  passingRate,
  readingSpeed,
  readRate,
  readSeconds,
  readsUnevenly,
  sameReading,
  semitones,
  tidyReading,
} from './reading.js';
export type { ReceiptWhat } from './receipt.js';
export { RECEIPT_WHAT, RECEIPT_WORDS } from './receipt.js';
export { type Facts, REFUSAL_SENTENCES, REFUSALS, type RefusalCode } from './refusals.js';
export type { Remark, RemarkCode } from './remark.js';
export { patternWords, REMARKS, remarksOf } from './remark.js';
export type { Rendered } from './rendered.js';
export { AT_RATE, otherRate, renderedAt } from './rendered.js';
export { curveOf, frozen, lengthSpeed, reversed, slowed } from './retime.js';
export type { Reuse, ReusedStretch } from './reuse.js';
export { reusedStretches } from './reuse.js';
export { isSilent, soundOf, soundSpan, soundSpeed, soundWay } from './sound.js';
export { furthestLength, isSoundClip, lengthAtSpeed } from './soundMaterial.js';
export { filesOf, holds, isMoving, isOff, nestedOf, sourceOf, timelineAsSource, withNested } from './sources.js';
export { speedWords } from './speedWords.js';
export type { FrameTally, TimelineFrameState } from './tally.js';
export { stateAt, tallyFrames } from './tally.js';
export type { FaultsOf, FrameCause, FrameFinding, TimelineCheck } from './timelinecheck.js';
export { checkTimeline, FRAME_CAUSES, holdMarks } from './timelinecheck.js';
export { count, plural, stretchWords, verdictLong, verdictShort } from './verdicts.js';
