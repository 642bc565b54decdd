export type { AlignResult } from './analyse/align.js';
export { align } from './analyse/align.js';
export type { CheckOptions, CheckResult } from './analyse/check.js';
export { check, measureFields } from './analyse/check.js';
export type { Compared, Comparison } from './analyse/compare.js';
export { compare } from './analyse/compare.js';
export type { HeldOut, Rebuilt } from './analyse/heldOut.js';
export { heldOut } from './analyse/heldOut.js';
export type { PanResult } from './analyse/pan.js';
export { measurePan } from './analyse/pan.js';
export { hasSound, mixedSound } from './audio/mix.js';
export { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound } from './audio/stretch.js';
export { type Loudness, loudnessOfFile, makeWave, readLoudness, readWave, waveFile } from './audio/waveform.js';
export type { FrameRange, RenderInput, SourceFile } from './compose/input.js';
export { askedFrame } from './compose/oneFrame.js';
export type { Delivered } from './deliver/deliver.js';
export type { Trial } from './estimate/estimate.js';
export {
  atomicWrite,
  atomicWriteFile,
  removeUnfinished,
  syncToDisk,
  syncTree,
  unfinishedPath,
} from './files/atomicWrite.js';
export { sourceFromProbe } from './files/sourceFromProbe.js';
export { alignSubject } from './jobs/align/definition.js';
export { partSubject } from './jobs/check/start.js';
export type { JobContext, MediaContext, Progress, ShowPicture } from './jobs/context.js';
export { JOBS, type JobResult, type JobSpecification } from './jobs/definitions.js';
export { JobError, type JobErrorCode, SoundError } from './jobs/errors.js';
export { JobRefused } from './jobs/refusals.js';
export { editAtRenderRate, endingOf, fileStem, type RenderParams, renderInput, wantedEdit } from './jobs/render/edit.js';
export { runJob } from './jobs/runJob.js';
export { type NewJob, PART, type SpecificationContext, type StartContext, type WrittenRender } from './jobs/starting.js';
export { specificationOf, startJob } from './jobs/startJob.js';
export { type JobListener, runInThread } from './jobs/thread.js';
export type { FieldsWritten, MakeMethod, MakeOptions, MakeResult } from './make/make.js';
export { formOf, make, makeLosses, makeRefusal } from './make/make.js';
export { makeProxy, PROXY_WIDTH, proxyFiles, proxySize, THUMBS, thumbPictures } from './proxy/proxy.js';
export type { ReceiptRequest } from './receipt/measure.js';
export { measureReceipt } from './receipt/measure.js';
export { fingerprintOfAll, stampOf } from './receipt/stamp.js';
export type { NamedPicture, Receipt, ReceiptLine } from './receipt/types.js';
export { cacheState, trimCache } from './render/partCache.js';
export type { RenderRequest, Unplaced } from './render/renderTimeline.js';
export { renderTimeline, type WavStream, wavOf } from './render/renderTimeline.js';
