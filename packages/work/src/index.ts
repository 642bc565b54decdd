export type { AlignResult } from './align.js';
export { align } from './align.js';
export type { CheckOptions, CheckResult, Progress } from './check.js';
export { check } from './check.js';
export type { Compared, Comparison } from './compare.js';
export { compare } from './compare.js';
export type { FrameRange, RenderInput, SourceFile } from './compose.js';
export type { Delivered } from './deliver.js';
export { JobError, SoundError } from './errors.js';
export { sourceFacts } from './facts.js';
export {
  atomicWrite,
  atomicWriteFile,
  removeUnfinished,
  syncToDisk,
  syncTree,
  unfinishedPath,
} from './files/atomicWrite.js';
export type { HeldOut, Rebuilt } from './heldout.js';
export { heldOut } from './heldout.js';
export type { MakeMethod, MakeOptions, MakeResult } from './make.js';
export { formOf, make } from './make.js';
export { hasSound, mixedSound } from './mix.js';
export type { PanResult } from './pan.js';
export { measurePan } from './pan.js';
export type { Show } from './perform.js';
export { perform } from './perform.js';
export type { JobErrorCode, JobKind, JobResult, JobResults, JobSpec, RenderResult } from './protocol.js';
export { makeProxy, PROXY_WIDTH, proxyFiles, proxySize, THUMBS, thumbPictures } from './proxy.js';
export { askedFrame } from './render/frame.js';
export { cacheState, trimCache } from './render/parts.js';
export type { ReceiptRequest } from './render/receipt.js';
export { measureReceipt } from './render/receipt.js';
export type { NamedPicture, Receipt, ReceiptLine } from './render/receiptTypes.js';
export type { RenderRequest, Unplaced } from './render/render.js';
export { renderTimeline, type WavStream, wavOf } from './render/render.js';
export type { Trial } from './render/trial.js';
export { fingerprintOfAll, stampOf } from './render/written.js';
export { SOUND_CHANNELS, SOUND_RATE, sampleOfFrame, sourceSound } from './sound.js';
export { runInThread } from './thread.js';
export { type Loudness, loudnessOfFile, makeWave, readLoudness, readWave, waveFile } from './wave.js';
