export type { Applied, Difference } from './commands/apply.js';
export { apply, applyDifference, leaveUnfrozen } from './commands/apply.js';
export { type Commuted, moveStepFirst, moveStepLast } from './commands/commute.js';
export type { Command, CommandInput, CommandType } from './commands/registry.js';
export { commandSchema, describe } from './commands/registry.js';
export type { Uses } from './commands/sources/readAt.js';
export { USES } from './commands/sources/readAt.js';
export type { Follow } from './commands/treatment/retimeClip.js';
export { FOLLOWS } from './commands/treatment/retimeClip.js';
export type {
  Alignment,
  Clip,
  Dissolve,
  FieldsReading,
  FileSource,
  Film,
  Framing,
  Lane,
  Mark,
  MovingClip,
  NewReading,
  Project,
  Reading,
  Sequence,
  SoundAlone,
  SoundWay,
  Source,
  Still,
  Timeline,
  WholeReading,
} from './document/document.js';
export {
  COLOUR_CHOICES,
  type ColourChoice,
  clipSchema,
  curveSchema,
  documentSchema,
  emptyProject,
  FRAME_LEAST,
  FRAME_MOST,
  FRAMINGS,
  fieldRunsSchema,
  filmRunSchema,
  INSTEADS,
  idSchema,
  LEVEL_MAX,
  LEVEL_MIN,
  looksSchema,
  POSE_REACH,
  PROJECTIONS,
  type Projection,
  rateSchema,
  SCALE_LEAST,
  SCALE_MOST,
  SOUND_WAYS,
  soundSchema,
  sourceSchema,
  timelineSchema,
} from './document/document.js';
export { DOCUMENT_FORMAT, FORMAT_STEPS, type FormatStep, migrateDocument, migratePatches } from './document/format.js';
export type { ListEvent, OpenedEdit, OpenOptions, SaveOptions } from './exchange/edits.js';
export { fromEdit, toEdit } from './exchange/edits.js';
export type { EditForm } from './exchange/losses.js';
export { EDIT_FORMS, flattened, lossesOf } from './exchange/losses.js';
export type { FieldChoice, FieldsAsked, FieldsOutcome, OrderChoice } from './findings/fieldChoices.js';
export {
  FIELD_CHOICES,
  FIELD_WAY_WORDS,
  fieldOrderOf,
  fieldWayWords,
  hasFilm,
  ORDER_CHOICES,
  outcomeOf,
  runsFor,
} from './findings/fieldChoices.js';
export { corrected } from './findings/judged.js';
export type { CheckFacts, Ledger, LedgerLine, SourceUse } from './findings/ledger.js';
export { countUses, gapOf, isPadded, ledgerOf, usesOf } from './findings/ledger.js';
export { fieldKindWords, fieldStretchWords, partWords, placeWords, stretchWords } from './findings/partWords.js';
export type { Remark, RemarkCode } from './findings/remarks.js';
export { patternWords, REMARKS, remarksOf } from './findings/remarks.js';
export type { Reuse, ReusedStretch } from './findings/reuse.js';
export { reusedStretches } from './findings/reuse.js';
export type { FaultsOf, FrameCause, FrameFinding, TimelineCheck } from './findings/timelineCheck.js';
export { checkTimeline, FRAME_CAUSES, holdMarks } from './findings/timelineCheck.js';
export { newPictures, toldRate } from './findings/toldRate.js';
export { count, faultKindWords, plural, verdictLong, verdictShort } from './findings/verdictWords.js';
export { foreseen, setApart, whyWords } from './findings/whyWords.js';
export type { Rendered } from './output/atRenderRate.js';
export { AT_RATE, otherRate, renderedAt } from './output/atRenderRate.js';
export { channelNotes, channelsFor, holdsChannels, widestSound } from './output/channels.js';
export type {
  Chroma,
  FormCodec,
  FormFacts,
  FormFields,
  FormKind,
  FormSamples,
  Preset,
  RenderForm,
  RenderFormInput,
  SettledForm,
} from './output/form.js';
export {
  bearsAlpha,
  CHROMAS,
  CODECS,
  chromasOf,
  depthsOf,
  FORM_KINDS,
  FORMS,
  formFields,
  formSchema,
  gradesOf,
  isSeries,
  keepsAlpha,
  NUMBERED_FIRST_MOST,
  numberingOf,
  pixelFormatOf,
  presetSchema,
  qualityRange,
  RATE_WAYS,
  type SeriesKind,
  SOUND_CODECS,
  SOUND_WORDS,
  type SoundCodec,
  saysSiting,
  settledForm,
} from './output/form.js';
export { chromaWords, codingWords, fileNameOf, formWords, peakWords, qualityWords } from './output/formWords.js';
export { likeSources } from './output/likeSources.js';
export { colourReason, conversionNote, lightWords, pictureNotes } from './output/pictureWords.js';
export type { ReceiptWhat } from './output/receiptWords.js';
export { RECEIPT_WHAT, RECEIPT_WORDS } from './output/receiptWords.js';
export { sizesBeside, unheldBy, writtenFrames } from './output/unheld.js';
export type { Refusal } from './refusals/refusals.js';
export { type Facts, REFUSAL_SENTENCES, REFUSALS, type RefusalCode } from './refusals/refusals.js';
export { isClear, seesThrough } from './resolve/clear.js';
export type { ColourFinding, TimelineColour } from './resolve/colour.js';
export { COLOUR_SPACES, colourOf, timelineColour } from './resolve/colour.js';
export type { Dissolving } from './resolve/dissolves.js';
export { beyondPictures, clipBefore, dissolveShare, dissolvesOf } from './resolve/dissolves.js';
export type { Framed } from './resolve/laid.js';
export { aspectOf, framedBy, pictureSize } from './resolve/laid.js';
export type { Layer, LayerGroup, PictureLayer } from './resolve/layers.js';
export { layersAt, layersOf, picturesOfLayers } from './resolve/layers.js';
export type { ClipCadence, Segment, ShownPicture } from './resolve/plan.js';
export { cadenceAsSeen, cadenceOf, segmentAt, segmentsOf, shownAt } from './resolve/plan.js';
export {
  beneath,
  filesOf,
  holds,
  isMoving,
  isOff,
  nestedOf,
  sourceOf,
  timelineAsSource,
  withNested,
} from './resolve/sources.js';
export { isSphere, showsSphere } from './resolve/sphere.js';
export type { FrameTally, TimelineFrameState } from './resolve/tally.js';
export { stateAt, tallyFrames } from './resolve/tally.js';
export type { CarryReport, ClipCarry, CutMove } from './timelines/carry.js';
export { carriedTimeline, carryCuts, reportCarry } from './timelines/carry.js';
export type { Clipboard } from './timelines/clipboard.js';
export { clipsToPaste, copyClips } from './timelines/clipboard.js';
export { curveOf, frozen, lengthSpeed, reversed, slowed } from './timelines/curves.js';
export type { Placement } from './timelines/place.js';
export { clipsFor, freeStart, plainClip } from './timelines/place.js';
export type { HoldingTimeline, ReadAtPreview, SourceChange, UseChange } from './timelines/previewReadAt.js';
export { previewReadAt } from './timelines/previewReadAt.js';
export { alignmentOf, recordedSeconds } from './timing/alignments.js';
export { asSeen, atFieldRate, filmRate, momentsAFrame } from './timing/fieldRate.js';
export { planOf, readFacts, sameMoment, storedFacts } from './timing/fieldReading.js';
export type { TimingOf } from './timing/mapping.js';
export { clipEnd, mappingOf, noTiming, timelineLength, timingOf, timingUnder } from './timing/mapping.js';
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
} from './timing/reading.js';
export { furthestLength, isSoundClip, lengthAtSpeed } from './timing/soundLength.js';
export { isSilent, soundOf, soundSpan, soundSpeed, soundWay } from './timing/soundSpeed.js';
export { speedWords } from './timing/speedWords.js';
