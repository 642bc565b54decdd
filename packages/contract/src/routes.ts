import { formSchema, idSchema, presetSchema } from '@thawline/project';
import { alignedSchema, heldOutSchema, JOBS, loudnessSchema, panSchema, startJobSchema } from '@thawline/work/definitions';
import { z } from 'zod';
import {
  checkSchema,
  checkSummarySchema,
  comparisonSchema,
  comparisonSummarySchema,
  reusedSchema,
  timelineCheckSchema,
  timingSchema,
} from './schemas/checks.js';
import {
  addQuerySchema,
  fieldPictureQuerySchema,
  fileStateSchema,
  findBodySchema,
  folderSchema,
  inPlaceBodySchema,
  ledgerSchema,
  readFieldsBodySchema,
  scanBodySchema,
  scanReplySchema,
  uploadReplySchema,
  uploadsBodySchema,
} from './schemas/files.js';
import { jobSchema } from './schemas/jobs.js';
import { secondsRangeSchema, waveFormSchema } from './schemas/measures.js';
import {
  askerSchema,
  changeSchema,
  commandBodySchema,
  editPreviewSchema,
  frameRangeSchema,
  lossesSchema,
  newProjectSchema,
  openEditBodySchema,
  openEditReplySchema,
  projectStateSchema,
  projectSummarySchema,
  revisionSchema,
} from './schemas/projects.js';
import { cacheSchema, outputsSchema, receiptSchema, trialSchema } from './schemas/renders.js';
import {
  backupProjectSchema,
  backupSchema,
  freeKindSchema,
  importedSchema,
  restoredSchema,
  storageSchema,
} from './schemas/storage.js';

export interface Route {
  readonly method: 'get' | 'post' | 'delete';
  /** Under /api; parameters in braces. */
  readonly path: string;
  readonly summary: string;
  /** Parameters behind the question mark. */
  readonly query?: z.ZodObject;
  /** JSON body, multipart upload or none. */
  readonly body?: z.ZodType | 'files';
  /** JSON reply, or another media type. */
  readonly reply: z.ZodType | { readonly type: string };
}

const nothing = z.object({});

/** Every request there is. The interface's client, the server and /api/openapi.json are all held to this table. */
export const routes = {
  health: { method: 'get', path: '/health', summary: 'Whether the server answers', reply: z.object({ ok: z.literal(true) }) },
  listProjects: { method: 'get', path: '/projects', summary: 'All projects', reply: z.array(projectSummarySchema) },
  createProject: {
    method: 'post',
    path: '/projects',
    summary: 'Make a project',
    body: newProjectSchema,
    reply: projectStateSchema,
  },
  readProject: {
    method: 'get',
    path: '/projects/{project}',
    summary: 'A project as it stands',
    query: askerSchema.pick({ client: true }),
    reply: projectStateSchema,
  },
  copyProject: {
    method: 'post',
    path: '/projects/{project}/copy',
    summary: 'A copy of a project with its history and what was found of its sources; the files are shared',
    body: newProjectSchema,
    reply: projectStateSchema,
  },
  exportProject: {
    method: 'get',
    path: '/projects/{project}/file',
    summary: 'A project as one file (zip with JSON inside): document, history, what was found; with media=yes the files, too',
    query: z.object({ media: z.enum(['yes', 'no']).default('no') }),
    reply: { type: 'application/zip' },
  },
  exportLosses: {
    method: 'get',
    path: '/projects/{project}/file/losses',
    summary: 'What a project file cannot bring along: files that are not here',
    query: z.object({ media: z.enum(['yes', 'no']).default('no') }),
    reply: lossesSchema,
  },
  importProject: {
    method: 'post',
    path: '/projects/import',
    summary: 'A project file as a new project: of a finished upload, or sent as the body (application/zip)',
    body: z.object({ upload: idSchema }),
    reply: importedSchema,
  },
  deleteProject: {
    method: 'delete',
    path: '/projects/{project}',
    summary: 'Put a project into the bin: it can be taken out until the bin is emptied',
    reply: z.array(projectSummarySchema),
  },
  undeleteProject: {
    method: 'post',
    path: '/projects/{project}/undelete',
    summary: 'Take a project out of the bin',
    body: nothing,
    reply: z.array(projectSummarySchema),
  },
  command: {
    method: 'post',
    path: '/projects/{project}/commands',
    summary: 'Do one thing to a project: one step to undo',
    body: commandBodySchema,
    reply: changeSchema,
  },
  undo: {
    method: 'post',
    path: '/projects/{project}/undo',
    summary:
      "Take back the newest step; of a window that says its name, its own newest one, where others' later steps touch nothing of it",
    body: askerSchema,
    reply: changeSchema,
  },
  redo: { method: 'post', path: '/projects/{project}/redo', summary: 'Do it again', body: askerSchema, reply: changeSchema },
  history: {
    method: 'get',
    path: '/projects/{project}/history',
    summary: 'What was done, newest first',
    reply: z.array(revisionSchema),
  },
  jump: {
    method: 'post',
    path: '/projects/{project}/history/{number}',
    summary: 'Go to the state after that step; 0 is the beginning',
    body: askerSchema,
    reply: changeSchema,
  },
  upload: {
    method: 'post',
    path: '/projects/{project}/sources',
    summary: 'Add files as sources (multipart/form-data, any number of parts with a file name)',
    query: addQuerySchema,
    body: 'files',
    reply: uploadReplySchema,
  },
  uploads: {
    method: 'post',
    path: '/uploads',
    summary:
      'Begin an upload by the tus protocol 1.0 (Upload-Length, Upload-Metadata with filename); it goes on at the address in Location by PATCH, says how far it is by HEAD, and ends by DELETE',
    reply: { type: 'text/plain' },
  },
  addUploads: {
    method: 'post',
    path: '/projects/{project}/sources/uploads',
    summary: 'Add finished uploads as sources',
    body: uploadsBodySchema,
    reply: uploadReplySchema,
  },
  addInPlace: {
    method: 'post',
    path: '/projects/{project}/sources/in-place',
    summary: 'Use files of the media folders where they lie, without copying',
    body: inPlaceBodySchema,
    reply: uploadReplySchema,
  },
  addRender: {
    method: 'post',
    path: '/projects/{project}/sources/renders/{job}',
    summary: 'Take a finished render as a source, to check it or compare it: one step to undo',
    body: askerSchema,
    reply: uploadReplySchema,
  },
  renew: {
    method: 'post',
    path: '/projects/{project}/sources/{source}/renew',
    summary: 'Take a changed file as it is now: one step to undo',
    body: askerSchema,
    reply: changeSchema,
  },
  readFields: {
    method: 'post',
    path: '/projects/{project}/sources/fields',
    summary: 'Read the fields of sources as whole pictures, one picture a field, one a frame, or as film: one step to undo',
    body: readFieldsBodySchema,
    reply: changeSchema,
  },
  look: {
    method: 'post',
    path: '/projects/{project}/sources/{source}/look',
    summary: 'Find what an edit file named: among the sources by name, else in the media folders. One step to undo',
    body: askerSchema,
    reply: changeSchema,
  },
  ledger: {
    method: 'get',
    path: '/projects/{project}/sources/{source}/ledger',
    summary: "All of a source's rates and where each came from",
    reply: ledgerSchema,
  },
  timelineCheck: {
    method: 'get',
    path: '/projects/{project}/timelines/{timeline}/check',
    summary: "A timeline's own frames: what its rate repeats or leaves out, apart from what its sources do",
    reply: timelineCheckSchema,
  },
  reuse: {
    method: 'get',
    path: '/projects/{project}/reuse',
    summary: 'Stretches of sources that are shown more than once',
    reply: z.array(reusedSchema),
  },
  table: {
    method: 'get',
    path: '/projects/{project}/sources.csv',
    summary: 'The table of sources',
    reply: { type: 'text/csv' },
  },
  files: {
    method: 'get',
    path: '/projects/{project}/files',
    summary: 'How the files behind the sources stand: here, changed or missing',
    reply: z.array(fileStateSchema),
  },
  folder: {
    method: 'get',
    path: '/folders',
    summary: 'What lies in the media folders (THAWLINE_MEDIA) and nowhere else',
    query: z.object({ path: z.string().max(4096).default('') }),
    reply: folderSchema,
  },
  scan: {
    method: 'post',
    path: '/folders/scan',
    summary: 'What of these files and folders can be a source, and what is passed over',
    body: scanBodySchema,
    reply: scanReplySchema,
  },
  find: {
    method: 'post',
    path: '/media/{media}/find',
    summary: 'Find a moved file again: at a path, or by looking through the media folders (null)',
    body: findBodySchema,
    reply: fileStateSchema,
  },
  timing: { method: 'get', path: '/media/{media}/timing', summary: "Every picture's own time", reply: timingSchema },
  picture: {
    method: 'get',
    path: '/media/{media}/pictures/{picture}',
    summary: 'Exactly that picture, as JPEG, or as WebP where it has alpha',
    reply: { type: 'image/jpeg' },
  },
  fieldPicture: {
    method: 'get',
    path: '/media/{media}/frames/{frame}/fields/{view}',
    summary:
      'A stored frame taken apart, as JPEG: one field, both, one rebuilt to a picture, what rebuilding the first changes, or where either is unsure',
    query: fieldPictureQuerySchema,
    reply: { type: 'image/jpeg' },
  },
  pictureRun: {
    method: 'get',
    path: '/media/{media}/pictures/{picture}/run/{count}',
    summary: 'Neighbouring pictures of a proxy: how many, their lengths (32-bit, little-endian), the JPEGs',
    reply: { type: 'application/octet-stream' },
  },
  thumbs: {
    method: 'get',
    path: '/media/{media}/thumbs',
    summary: 'At most 16 evenly spread pictures side by side, as one JPEG, once the proxy is made',
    reply: { type: 'image/jpeg' },
  },
  checks: { method: 'get', path: '/projects/{project}/checks', summary: 'What checks found', reply: z.array(checkSummarySchema) },
  check: {
    method: 'get',
    path: '/media/{media}/check',
    summary: 'The newest check of a file, with its trace',
    reply: checkSchema,
  },
  partCheck: {
    method: 'get',
    path: '/media/{media}/check/part',
    summary: 'The newest check of a part of a file or of its pictures; null when there is none',
    reply: checkSchema.nullable(),
  },
  pan: {
    method: 'get',
    path: '/media/{media}/pan',
    summary: 'How the whole picture moves, of the newest measuring of a file; null when there is none',
    reply: panSchema.nullable(),
  },
  wave: {
    method: 'get',
    path: '/media/{media}/wave/{level}/{chunk}',
    summary:
      'A waveform: 4096 bins of 1, 8, 64 or 512 ms (level 0 to 3), least and largest sample of each (16-bit, little-endian); 204 until it is made',
    reply: { type: 'application/octet-stream' },
  },
  loudness: {
    method: 'get',
    path: '/media/{media}/loudness',
    summary: 'Loudness (EBU R 128) and true peak of a stretch of a sound; null until its waveform is made',
    query: secondsRangeSchema,
    reply: loudnessSchema.nullable(),
  },
  aligned: {
    method: 'get',
    path: '/projects/{project}/aligned/{a}/{b}',
    summary: 'What aligning two sources by their sound found; null when that was not done',
    reply: alignedSchema.nullable(),
  },
  heldOut: {
    method: 'get',
    path: '/media/{media}/heldout',
    summary: 'The newest held-out test of a file; null when there is none',
    reply: heldOutSchema.nullable(),
  },
  report: {
    method: 'get',
    path: '/projects/{project}/sources/{source}/report/{form}',
    summary:
      'A check as a report: json, csv (findings), html (a page to print), or its findings as markers of an edit file: otio, edl',
    reply: { type: 'text/html' },
  },
  comparisons: {
    method: 'get',
    path: '/projects/{project}/comparisons',
    summary: 'Sources that were compared, newest first',
    reply: z.array(comparisonSummarySchema),
  },
  comparison: { method: 'get', path: '/jobs/{job}/comparison', summary: 'A comparison with its path', reply: comparisonSchema },
  jobs: { method: 'get', path: '/projects/{project}/jobs', summary: 'Heavy jobs, newest first', reply: z.array(jobSchema) },
  startJobs: {
    method: 'post',
    path: '/projects/{project}/jobs',
    summary: 'Check sources, compare or align two, or render a timeline',
    body: startJobSchema,
    reply: z.array(jobSchema),
  },
  pauseJob: {
    method: 'post',
    path: '/jobs/{job}/pause',
    summary: 'Keep a job from beginning or from going on; a render keeps what it wrote',
    body: nothing,
    reply: jobSchema,
  },
  resumeJob: {
    method: 'post',
    path: '/jobs/{job}/resume',
    summary: 'Put it back into the queue',
    body: nothing,
    reply: jobSchema,
  },
  againJob: {
    method: 'post',
    path: '/jobs/{job}/again',
    summary: 'Start a job that failed or was stopped once more, as it was asked for',
    body: nothing,
    reply: jobSchema,
  },
  moveJob: {
    method: 'post',
    path: '/jobs/{job}/move',
    summary: 'Let a waiting job come before another one; null: last',
    body: z.object({ before: idSchema.nullable() }),
    reply: z.array(jobSchema),
  },
  jobPicture: {
    method: 'get',
    path: '/jobs/{job}/picture',
    summary: 'What a running render makes, now and then; 204 while there is nothing to see',
    reply: { type: 'image/jpeg' },
  },
  jobResult: {
    method: 'get',
    path: '/jobs/{job}/result',
    summary: "What a finished job of any kind found, in that kind's own shape",
    reply: z.union(Object.values(JOBS).map((job) => job.result)),
  },
  trial: { method: 'get', path: '/jobs/{job}/trial', summary: 'What a trial found', reply: trialSchema },
  stopJob: { method: 'delete', path: '/jobs/{job}', summary: 'Stop a job; nothing of it is left behind', reply: jobSchema },
  receipts: {
    method: 'get',
    path: '/projects/{project}/receipts',
    summary: 'Receipts of renders, newest first',
    reply: z.array(receiptSchema),
  },
  receiptFile: {
    method: 'get',
    path: '/projects/{project}/receipts/{job}/{form}',
    summary: 'A receipt to keep: json, or html (a page to print)',
    reply: { type: 'text/html' },
  },
  renderFrame: {
    method: 'get',
    path: '/jobs/{job}/frames/{frame}/{side}',
    summary: 'A frame of a render as JPEG: written, as the file on the disk has it, or asked, as the edit wants it',
    reply: { type: 'image/jpeg' },
  },
  file: {
    method: 'get',
    path: '/jobs/{job}/file',
    summary: 'The rendered file; of several (name behind the question mark) any of them',
    query: z.object({ name: z.string().max(255).optional() }),
    reply: { type: 'application/octet-stream' },
  },
  outputs: { method: 'get', path: '/outputs', summary: 'Folders that renders go to, and the intake desk', reply: outputsSchema },
  presets: { method: 'get', path: '/presets', summary: 'Forms that people keep', reply: z.array(presetSchema) },
  savePreset: {
    method: 'post',
    path: '/presets',
    summary: 'Keep a form under a name; one of that name is replaced',
    body: z.object({ name: presetSchema.shape.name, form: formSchema }),
    reply: z.array(presetSchema),
  },
  removePreset: { method: 'delete', path: '/presets/{preset}', summary: 'Forget a form', reply: z.array(presetSchema) },
  cache: { method: 'get', path: '/cache', summary: 'What is kept of renders', reply: cacheSchema },
  limitCache: {
    method: 'post',
    path: '/cache',
    summary: 'Keep so many bytes at most; what was not used for longest goes first',
    body: z.object({ most: z.number().min(0).max(1e15) }),
    reply: cacheSchema,
  },
  emptyCache: { method: 'delete', path: '/cache', summary: 'Keep nothing of what was rendered', reply: cacheSchema },
  storage: { method: 'get', path: '/storage', summary: 'What takes the room on the disk', reply: storageSchema },
  freeStorage: {
    method: 'post',
    path: '/storage/free',
    summary: 'Free what can be made again (parts, proxies) or nobody needs (unneeded, bin)',
    body: z.object({ kind: freeKindSchema }),
    reply: storageSchema,
  },
  backups: { method: 'get', path: '/backups', summary: 'Copies of the database, newest first', reply: z.array(backupSchema) },
  makeBackup: { method: 'post', path: '/backups', summary: 'Make a backup now', body: nothing, reply: backupSchema },
  backupProjects: {
    method: 'get',
    path: '/backups/{backup}',
    summary: 'The projects that a backup holds',
    reply: z.array(backupProjectSchema),
  },
  restoreBackup: {
    method: 'post',
    path: '/backups/{backup}/restore',
    summary: 'Bring a project of a backup (null: all of them) back beside the present ones',
    body: z.object({ projectId: z.string().max(64).nullable().default(null) }),
    reply: restoredSchema,
  },
  openEdit: {
    method: 'post',
    path: '/projects/{project}/edits',
    summary: 'Open an edit file (OpenTimelineIO, CMX 3600) as timelines: one step to undo',
    body: openEditBodySchema,
    reply: openEditReplySchema,
  },
  previewEdit: {
    method: 'post',
    path: '/projects/{project}/edits/preview',
    summary: 'What an edit file would come to: each event of a list with the picture of its source, nothing is opened',
    body: openEditBodySchema,
    reply: editPreviewSchema,
  },
  editLosses: {
    method: 'get',
    path: '/projects/{project}/timelines/{timeline}/edit/{form}/losses',
    summary: 'What a form (otio, edl) cannot say of a timeline',
    reply: lossesSchema,
  },
  saveEdit: {
    method: 'get',
    path: '/projects/{project}/timelines/{timeline}/edit/{form}',
    summary: 'The timeline as an edit file (otio, edl)',
    reply: { type: 'application/json' },
  },
  timelineSound: {
    method: 'get',
    path: '/projects/{project}/timelines/{timeline}/sound',
    summary: 'What a range of frames sounds like, as WAV, made as it is read',
    query: frameRangeSchema,
    reply: { type: 'audio/wav' },
  },
  timelineWave: {
    method: 'get',
    path: '/projects/{project}/timelines/{timeline}/sound.wav',
    summary: 'The sound of a timeline, or of its in to out: 48 kHz, 24 bit or float, its timecode in the bext chunk',
    query: waveFormSchema,
    reply: { type: 'audio/wav' },
  },
  events: {
    method: 'get',
    path: '/projects/{project}/events',
    summary: 'Changes and job progress as they happen',
    query: askerSchema.pick({ client: true }),
    reply: { type: 'text/event-stream' },
  },
  openapi: { method: 'get', path: '/openapi.json', summary: 'This description', reply: z.record(z.string(), z.unknown()) },
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof routes;

/** The route's address with its parameters filled in: address('undo', {project: 'p1'}) is /api/projects/p1/undo. */
export function address(name: RouteName, parameters: Readonly<Record<string, string | number>> = {}): string {
  const path = routes[name].path.replace(/\{(\w+)\}/g, (_, key: string) => encodeURIComponent(String(parameters[key] ?? '')));
  return `/api${path}`;
}
