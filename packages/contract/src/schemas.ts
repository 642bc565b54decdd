import { parseRate } from '@thawline/core/time';
import { deskSpecSchema } from '@thawline/desk';
import {
  commandSchema,
  documentSchema,
  FRAME_CAUSES,
  formSchema,
  idSchema,
  RECEIPT_WHAT,
  rateSchema,
  sourceSchema,
} from '@thawline/project';
import { z } from 'zod';

/** Shapes of what travels between browser and server. */

export const projectSummarySchema = z.object({
  id: idSchema,
  name: z.string(),
  sources: z.int(),
  timelines: z.int(),
  changedAt: z.string(),
});

/** A project as it stands. `version` grows by one with every change, undo and redo included. */
export const projectStateSchema = z.object({
  id: idSchema,
  version: z.int(),
  document: documentSchema,
  undoLabel: z.string().nullable(),
  redoLabel: z.string().nullable(),
});
export type ProjectState = z.infer<typeof projectStateSchema>;

const patchSchema = z.object({
  op: z.enum(['add', 'remove', 'replace']),
  path: z.array(z.union([z.string(), z.number()])),
  value: z.unknown().optional(),
});

/** A change as it was applied: patches take version - 1 to version. */
export const changeSchema = z.object({
  projectId: idSchema,
  version: z.int(),
  patches: z.array(patchSchema),
  undoLabel: z.string().nullable(),
  redoLabel: z.string().nullable(),
});
export type ChangeReply = z.infer<typeof changeSchema>;

export const revisionSchema = z.object({ number: z.int(), label: z.string(), at: z.string(), undone: z.boolean() });

export const refusedFileSchema = z.object({ file: z.string(), code: z.string(), message: z.string() });
export const uploadReplySchema = z.object({ added: z.array(sourceSchema), refused: z.array(refusedFileSchema) });

/** Of an upload: numbered pictures sent together are one source at `sequence` pictures a second; changes with one `batch` are one step to undo. */
export const addQuerySchema = z.object({
  sequence: z
    .string()
    .transform((text, context) => {
      const rate = parseRate(text);
      if (rate) return rate;
      context.addIssue({ code: 'custom', message: 'not a rate' });
      return z.NEVER;
    })
    .optional(),
  batch: idSchema.optional(),
});

/** Paths in the media folders: the folder's own name first, then what lies in it, with slashes; '' is the list of folders. */
const folderPath = z.string().max(4096);

export const folderSchema = z.object({
  path: z.string(),
  folders: z.array(z.object({ name: z.string(), path: z.string() })),
  files: z.array(
    z.object({
      name: z.string(),
      path: z.string(),
      kind: z.enum(['film', 'picture', 'sound', 'other']),
      bytes: z.int(),
      modified: z.string(),
    }),
  ),
});
export type FolderReply = z.infer<typeof folderSchema>;

/** Something in a media folder that can be one source: a film, a single picture, or a numbered series named by its first file. */
export const itemSchema = z.object({ path: folderPath, kind: z.enum(['film', 'picture', 'sound', 'series']) });
export const scanBodySchema = z.object({ paths: z.array(folderPath).min(1).max(10_000) });
export const scanReplySchema = z.object({
  items: z.array(itemSchema.extend({ name: z.string(), files: z.int(), missing: z.int() })),
  /** What was passed over without being opened, by reason, most first. */
  passed: z.array(z.object({ reason: z.string(), files: z.int(), example: z.string() })),
  refused: z.array(refusedFileSchema),
});
export type ScanReply = z.infer<typeof scanReplySchema>;

export const inPlaceBodySchema = z.object({
  items: z.array(itemSchema).min(1).max(1000),
  /** Pictures a second for numbered series. */
  sequence: rateSchema.nullable().default(null),
  batch: idSchema.optional(),
});

/** How the files behind a project's sources stand. */
export const fileStateSchema = z.object({
  mediaId: idSchema,
  /** here: as it was added. changed: another size, time and content. missing: not to be found where it was. */
  state: z.enum(['here', 'changed', 'missing']),
  /** Whether the proxy and its thumbnails are made. */
  proxy: z.boolean(),
  /** Where it lies when it is used in place; null for a copy of ours. */
  path: z.string().nullable(),
  sentence: z.string().nullable(),
});
export type FileState = z.infer<typeof fileStateSchema>;

export const findBodySchema = z.object({ path: folderPath.nullable() });

export const ledgerSchema = z.object({
  name: z.string(),
  mediaId: idSchema,
  pictures: z.int(),
  lines: z.array(
    z.object({
      what: z.string(),
      rate: z.number().nullable(),
      exact: z.string().nullable(),
      from: z.string(),
      ppm: z.number().nullable(),
      odd: z.boolean(),
    }),
  ),
  gap: z.object({ seconds: z.number(), impliedRate: rateSchema.nullable() }).nullable(),
  claim: z.object({ kept: z.boolean(), slow: z.number(), fits: z.number() }).nullable(),
  uses: z.array(z.object({ timelineId: idSchema, timeline: z.string(), rate: rateSchema, clips: z.int() })),
  seconds: z.number().nullable(),
  speed: z.number(),
  semitones: z.number(),
  remarks: z.array(z.object({ code: z.string(), text: z.string() })),
});

/** paused: a person keeps it from beginning, or from going on; whoever resumes it puts it back into the queue. */
export const JOB_STATES = ['queued', 'running', 'paused', 'done', 'failed', 'cancelled'] as const;

export const JOB_KINDS = [
  ...(['proxy', 'sound', 'check', 'compare', 'align', 'heldout', 'pan'] as const),
  ...(['render', 'receipt', 'trial', 'deliver'] as const),
] as const;

export const jobSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  kind: z.enum(JOB_KINDS),
  state: z.enum(JOB_STATES),
  /** What it works on, for people: a source's or a timeline's name. */
  label: z.string(),
  /** Media id of a check, proxy, held-out test or pan (of a part's check with "-part" behind it), of a comparison the second one's; timeline id of a render or its trial; the render's job id of a receipt or a hand-over. */
  subject: z.string(),
  done: z.int(),
  total: z.int().nullable(),
  phase: z.string(),
  /** Estimated from the pace so far; null until there is one. */
  secondsLeft: z.number().nullable(),
  /** Frame of the newest picture of what is being made; null where there is none to look at. */
  picture: z.int().nullable(),
  error: z.object({ code: z.string(), message: z.string() }).nullable(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
});
export type JobReply = z.infer<typeof jobSchema>;

/** A part of a picture, in shares of its width and height. */
export const regionSchema = z
  .object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })
  .refine((r) => r.x >= 0 && r.y >= 0 && r.width > 0 && r.height > 0 && r.x + r.width <= 1.0001 && r.y + r.height <= 1.0001);
export type Region = z.infer<typeof regionSchema>;

/** What of a timeline is rendered, and as what. */
const wanted = {
  timelineId: idSchema,
  /** In to out only. */
  range: z.boolean().default(false),
  /** The frames of this clip only. */
  clipId: idSchema.nullable().default(null),
  form: formSchema.prefault({}),
};

export const startJobSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('check'),
    sourceIds: z.array(idSchema).min(1).max(10_000),
    /** Only these pictures of each, `to` not included. */
    range: z
      .object({ from: z.int().min(0), to: z.int().min(1) })
      .refine((r) => r.to > r.from)
      .nullable()
      .default(null),
    /** Only this part of each picture, in shares of its width and height. */
    region: regionSchema.nullable().default(null),
  }),
  /** Which pictures of a are shown by b. */
  z.object({ kind: z.literal('compare'), a: idSchema, b: idSchema }),
  /** Where b lies to a, and how fast its clock runs, by the sound of both. */
  z.object({ kind: z.literal('align'), a: idSchema, b: idSchema }),
  /** Waveform and loudness. */
  z.object({ kind: z.literal('sound'), sourceId: idSchema }),
  /** How the whole picture moves from picture to picture. */
  z.object({ kind: z.literal('pan'), sourceId: idSchema }),
  /** Hides every second picture and makes it again from its neighbours. */
  z.object({ kind: z.literal('heldout'), sourceId: idSchema }),
  z.object({
    kind: z.literal('render'),
    ...wanted,
    /** The file's name without its ending; one is made of the timeline's where there is none. */
    name: z.string().max(200).nullable().default(null),
    /** One of the folders for renders, by its name; the first where there is none. */
    folder: z.string().max(200).nullable().default(null),
    /** Frames of the render whose part is written anew, whatever there is of it. */
    anew: z.array(z.int().min(0)).max(10_000).default([]),
  }),
  /** Writes a little of it and throws that away: what all of it would cost. */
  z.object({ kind: z.literal('trial'), ...wanted, folder: z.string().max(200).nullable().default(null) }),
  /** Measures a rendered file again as it lies on the disk now. */
  z.object({ kind: z.literal('receipt'), jobId: idSchema }),
  /** The same render once more, as the edit was then; with frames whose parts are written anew. */
  z.object({ kind: z.literal('rerender'), jobId: idSchema, anew: z.array(z.int().min(0)).max(10_000).default([]) }),
  /** Hands a rendered file over to the intake desk. */
  z.object({ kind: z.literal('deliver'), jobId: idSchema }),
]);

export const stretchSchema = z.object({
  from: z.int(),
  to: z.int(),
  pattern: z.string(),
  trueRate: z.number().nullable(),
  certainty: z.number(),
});

export const verdictSchema = z.object({
  kind: z.enum(['new', 'padded', 'one-in-n', 'pulldown', 'blended', 'still', 'mixed']),
  pictures: z.int(),
  storedRate: z.number(),
  trueRate: z.number(),
  held: z.array(z.int()),
  jumps: z.array(z.int()),
  blends: z.array(z.int()),
  /** The later picture's share in each of `blends`. */
  shares: z.array(z.number()).default([]),
  made: z.array(z.object({ from: z.int(), to: z.int(), sourceRate: z.number(), certainty: z.number() })).default([]),
  fields: z
    .object({
      kind: z.enum(['none', 'pulldown', 'interlaced']),
      first: z.enum(['upper', 'lower']).nullable(),
    })
    .default({ kind: 'none', first: null }),
  stretches: z.array(stretchSchema),
  certainty: z.number(),
  holdCeiling: z.number().nullable(),
});

/** A finished check. The list of a project's checks leaves the trace out. */
export const checkSchema = z.object({
  mediaId: idSchema,
  jobId: idSchema,
  verdict: verdictSchema,
  trace: z.array(z.number()),
  decoded: z.int(),
  /** What of the file was checked: its pictures, `to` not included, and of each picture a part in its pixels (null: all). */
  range: z.object({ from: z.int(), to: z.int() }),
  region: z.object({ x: z.int(), y: z.int(), width: z.int(), height: z.int() }).nullable(),
  /** A part that goes on changing while pictures hold. */
  counter: regionSchema.nullable(),
});
export type CheckReply = z.infer<typeof checkSchema>;

export const checkSummarySchema = checkSchema.omit({ trace: true });
export type CheckSummary = z.infer<typeof checkSummarySchema>;

const counted = z.array(z.int());

/** Each frame of a timeline by what it shows, and who is to blame where that is nothing new. */
export const timelineCheckSchema = z.object({
  range: z.object({ from: z.int(), to: z.int() }),
  fresh: z.int(),
  frames: z.record(z.enum(FRAME_CAUSES), z.int()),
  blended: z.int(),
  frozen: z.int(),
  black: z.int(),
  trueRate: z.number(),
  findings: z.array(
    z.object({
      from: z.int(),
      to: z.int(),
      cause: z.enum(FRAME_CAUSES),
      clipId: idSchema,
      sourceId: idSchema,
      picture: z.int(),
      before: z.int(),
    }),
  ),
  uncheckedIds: z.array(idSchema),
});

export const reusedSchema = z.object({
  sourceId: idSchema,
  from: z.int(),
  to: z.int(),
  uses: z.array(z.object({ timelineId: idSchema, clipId: idSchema, frame: z.int() })),
});

/** How the whole picture moves from the one before, in shares of its width and height; right and down are positive. */
export const panSchema = z.object({ shifts: z.array(z.object({ x: z.number(), y: z.number() })) });
export type PanReply = z.infer<typeof panSchema>;

/** How near made pictures came to those that were hidden: luma, PSNR in dB (100: the very same). */
export const heldOutSchema = z.object({
  psnr: z.number(),
  ssim: z.number(),
  perPicture: z.array(
    z.object({ picture: z.int(), psnr: z.number(), ssim: z.number(), certainty: z.number(), moved: z.boolean() }),
  ),
});
export type HeldOutReply = z.infer<typeof heldOutSchema>;

const strikeSchema = z.object({ seconds: z.number(), strength: z.number() });

/** What aligning two files by their sound found; moments count from each file's first picture. */
export const alignedSchema = z.object({
  /** In microseconds. */
  ties: z.array(z.object({ a: z.int(), b: z.int(), strength: z.number(), strike: z.boolean() })),
  /** Under 0.5 the sounds do not match. */
  certainty: z.number(),
  strikesA: z.array(strikeSchema),
  strikesB: z.array(strikeSchema),
});
export type AlignedReply = z.infer<typeof alignedSchema>;

/** EBU R 128 in LUFS, and the largest sample in dB of full scale; null for silence. */
export const loudnessSchema = z.object({ loudness: z.number().nullable(), peak: z.number().nullable() });
export type LoudnessReply = z.infer<typeof loudnessSchema>;

/** A stretch in seconds of a source, from its first picture. */
export const secondsRangeSchema = z.object({ from: z.coerce.number(), to: z.coerce.number() });

/** How a timeline's sound is saved. */
export const waveFormSchema = z.object({ form: z.enum(['s24', 'f32']).default('s24') });

/** What the desk made of a file. */
export const deliverySchema = z.object({
  jobId: idSchema,
  at: z.string(),
  accepted: z.boolean(),
  reasons: z.array(z.string()),
});

/** How two sources match; a and b are sources' ids as they were asked for. */
export const comparisonSchema = z.object({
  jobId: idSchema,
  a: idSchema,
  b: idSchema,
  /** Their names at that time. */
  names: z.object({ a: z.string(), b: z.string() }),
  madeAt: z.string(),
  offsetSeconds: z.number(),
  speed: z.number(),
  rateA: rateSchema,
  rateB: rateSchema,
  picturesA: z.int(),
  picturesB: z.int(),
  certainty: z.number(),
  missing: z.object({ headA: z.int(), tailA: z.int(), headB: z.int(), tailB: z.int() }),
  droppedFromA: counted,
  repeatedInB: counted,
  blendsInB: z.array(z.object({ b: z.int(), a: z.int(), share: z.number() })),
  /** [picture of a, picture of b]. */
  path: z.array(z.tuple([z.int(), z.int()])),
});
export type ComparisonReply = z.infer<typeof comparisonSchema>;
export const comparisonSummarySchema = comparisonSchema.omit({ path: true });
export type ComparisonSummary = z.infer<typeof comparisonSummarySchema>;

export const timingSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('constant'), rate: rateSchema, pictures: z.int() }),
  z.object({ kind: z.literal('variable'), ticks: z.array(z.int()), end: z.int(), timeBase: rateSchema }),
  z.object({ kind: z.literal('still') }),
]);

const namedPicture = z.object({ source: z.string(), picture: z.int() });

/** What a rendered file was measured to be. Never changed: measuring it again gives another one. */
export const receiptSchema = z.object({
  /** Of the job that measured. */
  jobId: idSchema,
  /** Of the job that rendered. */
  renderId: idSchema,
  /** Its name, the folder it lies in, and all that was written. */
  file: z.string(),
  folder: z.string(),
  files: z.array(z.string()),
  form: formSchema,
  formWords: z.string(),
  /** At the render's rate, as is what its frames are called by. */
  rate: rateSchema,
  startFrame: z.int(),
  dropFrame: z.boolean(),
  range: z.object({ from: z.int(), to: z.int() }),
  timeline: z.string(),
  timelineId: idSchema,
  madeAt: z.string(),
  bytes: z.int(),
  differs: z.int(),
  lines: z.array(
    z.object({
      what: z.enum(RECEIPT_WHAT),
      asked: z.string(),
      measured: z.string(),
      same: z.boolean(),
    }),
  ),
  wrong: z.array(
    z.object({
      /** Of the file; `frames` of them are alike. */
      frame: z.int(),
      frames: z.int(),
      shows: z.int().nullable(),
      asked: namedPicture.nullable(),
      shown: namedPicture.nullable(),
    }),
  ),
  alike: z.int(),
  frames: z.int(),
  reused: z.int().nullable(),
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
  fingerprint: z.string(),
  /** Whether the file on the disk is the one that was measured. */
  disk: z.enum(['same', 'changed', 'missing']),
  deliveries: z.array(deliverySchema),
});
export type ReceiptReply = z.infer<typeof receiptSchema>;

/** What a render would cost, estimated from a little of it. */
export const trialSchema = z.object({
  jobId: idSchema,
  frames: z.int(),
  /** Frames whose pictures are there already. */
  reused: z.int(),
  bytes: z.number(),
  seconds: z.number(),
  /** How near coded pictures come to the composed ones, luma in dB; null where nothing is lost. */
  psnr: z.number().nullable(),
  /** Bytes that are free where it is written. */
  free: z.number(),
  loudness: z.number().nullable(),
  peak: z.number().nullable(),
});
export type TrialReply = z.infer<typeof trialSchema>;

/** What is kept of renders, so that what is unchanged is not written again. */
export const cacheSchema = z.object({ bytes: z.number(), files: z.int(), most: z.number() });
export type CacheReply = z.infer<typeof cacheSchema>;

/** Where renders go, and the desk they may be handed to. */
export const outputsSchema = z.object({
  folders: z.array(z.object({ name: z.string(), path: z.string(), free: z.number().nullable() })),
  desk: z.object({ address: z.string(), spec: deskSpecSchema.nullable(), words: z.string() }).nullable(),
});
export type OutputsReply = z.infer<typeof outputsSchema>;

/** What the server says unasked, as server-sent events with JSON data. */
export const eventSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('change'), change: changeSchema }),
  z.object({ type: z.literal('job'), job: jobSchema }),
]);
export type ServerEvent = z.infer<typeof eventSchema>;

/** An edit file as text. `rate` is what a CMX 3600 list counts in: it does not say so itself. */
export const openEditBodySchema = z.object({
  file: z.string().min(1).max(255),
  text: z.string().max(30_000_000),
  rate: rateSchema.nullable().default(null),
});
export const openEditReplySchema = z.object({
  change: changeSchema,
  timelineId: idSchema,
  clips: z.int(),
  /** What could not be taken as it stood, with its place; the rest was opened. */
  troubles: z.array(z.object({ code: z.string(), place: z.string(), sentence: z.string() })),
});
export type OpenEditReply = z.infer<typeof openEditReplySchema>;
export const lossesSchema = z.object({ losses: z.array(z.string()) });

/** Frames, `to` not included. */
export const frameRangeSchema = z.object({ from: z.coerce.number().int().min(0), to: z.coerce.number().int().min(1) });

export const commandBodySchema = z.object({ command: commandSchema });
export const newProjectSchema = z.object({ name: z.string().trim().min(1).max(120) });
