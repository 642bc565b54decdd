import { FITS, HANDLE_REACH, PIN_WAYS, SHUTTER_MAX } from '@thawline/core/cadence';
import { FIELD_ORDERS, FILM_BEATS } from '@thawline/core/fields';
import { ALPHA_KINDS, MIXES } from '@thawline/core/picture';
import { CLIP_FRAMES, PICTURES_MAX, RATE_MAX, RATE_MIN, rateToNumber } from '@thawline/core/time';
import { z } from 'zod';

// The interface's content policy forbids code made from text, which Zod would otherwise try on its first parse.
z.config({ jitless: true });

/** What a project is: sources, and timelines with clips. Everything that can be undone lives here and nothing else does. */

export const idSchema = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/);

const count = z.int().min(0).max(PICTURES_MAX);

/** Keys that other members of a union have: they can be asked for, and are never there. */
type Without<Keys extends string> = { readonly [K in Keys]?: undefined };

/** Pictures or frames a second as an exact fraction. */
export const rateSchema = z
  .object({ num: z.int().min(1).max(Number.MAX_SAFE_INTEGER), den: z.int().min(1).max(Number.MAX_SAFE_INTEGER) })
  .refine((r) => rateToNumber(r) >= RATE_MIN && rateToNumber(r) <= RATE_MAX, { message: 'rate-out-of-range' });

export const soundSchema = z.object({
  seconds: z.number().min(0),
  sampleRate: z.int().min(1),
  channels: z.int().min(1),
  codec: z.string(),
  /** Start of the sound minus start of the first picture, in seconds. */
  startSeconds: z.number(),
  /** Tracks of sound that the file has beside its first, which alone is heard. */
  others: z.int().min(1).optional(),
});

/** What the sound does while the pictures run at another rate than they were taken at. */
export const SOUND_WAYS = ['along', 'pitch', 'own', 'off'] as const;
export const soundWaySchema = z.enum(SOUND_WAYS);

/** Where a reading rate came from. */
export const READING_ORIGINS = ['typed', 'stored', 'sound', 'true', 'timeline'] as const;

const readingBase = { rate: rateSchema, from: z.enum(READING_ORIGINS), sound: soundWaySchema };

const wholeReadingSchema = z.object({
  ...readingBase,
  /**
   * once: every picture lasts 1/rate, whatever its own time. even: variable timing made constant, each picture at the frame of `rate`
   * nearest to its own moment; the length stays.
   */
  pictures: z.enum(['once', 'even']),
});

const newReadingSchema = z.object({
  ...readingBase,
  /**
   * new: pictures that show nothing new are left out, each of the others lasts 1/rate. rebuilt: the same pictures are left out, but the
   * others keep their moments: what is between them can be made.
   */
  pictures: z.enum(['new', 'rebuilt']),
  /** The pictures that are left out, ascending. */
  held: z.array(count).max(2_000_000).default([]),
});

/** How a source's pictures are read when not as the file times them. */
export const readingSchema = z.discriminatedUnion('pictures', [wholeReadingSchema, newReadingSchema]);

/** Fields of an edit file that mean nothing here and are given back as they came. */
const kept = z.record(z.string(), z.unknown()).nullable().default(null);

/** What every source has. */
const sourceBase = {
  id: idSchema,
  /** The stored file's id: facts, pictures and timing are found under it. */
  mediaId: idSchema,
  name: z.string().min(1).max(255),
  pictures: count.min(1),
  codec: z.string(),
  /** Pictures a second that the camera is said to take, as a person typed it. */
  claimed: rateSchema.nullable(),
  /** What the file calls its first picture: "01:00:00:00"; null where it says nothing. */
  timecode: z.string().max(20).nullable().default(null),
  /** The file ends before its own header says it does. Left out where it does not. */
  endsEarly: z.boolean().optional(),
  /** Notes on its pictures, ascending; they stay on them however it is read. */
  marks: z
    .array(z.object({ picture: count, note: z.string().max(500) }))
    .max(100_000)
    .optional(),
  /** What a person says of pictures against what a check found; a new check leaves it alone. */
  judged: z
    .array(z.object({ picture: count, as: z.enum(['held', 'new']) }))
    .max(100_000)
    .optional(),
  /** Named by an edit file and not found yet: where that says it lies. Its facts are the edit's until it is found. */
  lost: z
    .object({
      url: z.string().max(4096).nullable(),
      /** Where a list named it by source timecode: its pictures are labels from midnight, counted drop-frame or not. */
      labels: z.enum(['drop', 'non-drop']).optional(),
      /** The edit does not say how long it is: it is as long as its uses. */
      guessed: z.literal(true).optional(),
    })
    .nullable()
    .default(null),
};

const chromaticitySchema = z.tuple([z.number(), z.number()]).readonly();

/** What a file says of its pictures' samples, colours and shape. Names are those of ITU-T H.273 as FFmpeg spells them; null where it says nothing. */
export const looksSchema = z.object({
  colour: z
    .object({
      matrix: z.string().max(40).nullable(),
      primaries: z.string().max(40).nullable(),
      transfer: z.string().max(40).nullable(),
      range: z.enum(['limited', 'full']).nullable(),
    })
    .optional(),
  /** Where samples of chroma lie among those of luma. */
  siting: z.string().max(40).optional(),
  /** How colour is stored beside alpha, as measured. */
  alpha: z.enum(ALPHA_KINDS).optional(),
  /** The display and the light that it was made for, in cd/m2. */
  highRange: z
    .object({
      display: z
        .object({
          least: z.number(),
          most: z.number(),
          red: chromaticitySchema,
          green: chromaticitySchema,
          blue: chromaticitySchema,
          white: chromaticitySchema,
        })
        .optional(),
      light: z.object({ most: z.number(), average: z.number() }).optional(),
    })
    .optional(),
  /** Degrees that the file asks to turn its pictures by; they are shown turned. */
  rotation: z.int().optional(),
  /** How a picture of all around is laid out. */
  projection: z.string().max(40).optional(),
});

/** Colours that a person can choose for a timeline. */
export const COLOUR_CHOICES = ['bt709', 'bt2020', 'pq', 'hlg'] as const;
export type ColourChoice = (typeof COLOUR_CHOICES)[number];

/** How a picture may be laid out: a plain one, or one of all around whose left and right edges are neighbours. */
export const PROJECTIONS = ['flat', 'equirectangular'] as const;
export type Projection = (typeof PROJECTIONS)[number];

/** What a source with pictures has. */
const pictured = {
  /** As shown: samples that are not square are counted in. */
  width: z.int().min(0),
  height: z.int().min(0),
  pixelFormat: z.string(),
  /** Width over height of one stored sample, where that is not 1. */
  sampleAspect: z.number().positive().optional(),
  /** Left out where nobody asked when the file was read. */
  looks: looksSchema.optional(),
  fields: z.enum(['progressive', 'top', 'bottom']),
  /** What a person says of it. Left out: as the file says. */
  projection: z.enum(PROJECTIONS).optional(),
};

/** What a source has whose pictures have times of their own. */
const timed = {
  /** What the file says. */
  stored: rateSchema,
  /** What its timestamps say. */
  measured: z.object({ rate: rateSchema, ppm: z.number() }),
  variable: z.boolean(),
  /** First picture's start to last picture's end as the file times them. */
  seconds: z.number().positive(),
};

/** Stored frames of film that was spread over fields. */
export const filmRunSchema = z.object({
  way: z.literal('film'),
  from: count,
  to: count,
  first: z.enum(FIELD_ORDERS),
  beat: z.enum(FILM_BEATS),
  passed: z.int().min(0).max(24),
});

/** Stored frames whose fields are read in one way: core/fields says how. */
const fieldRunSchema = z.discriminatedUnion('way', [
  z.object({ way: z.literal('progressive'), from: count, to: count }),
  z.object({ way: z.enum(['one-a-field', 'one-a-frame']), from: count, to: count, first: z.enum(FIELD_ORDERS) }),
  filmRunSchema,
]);

/** Runs from the first stored frame to the last. */
export const fieldRunsSchema = z.array(fieldRunSchema).min(1).max(100_000);

/** How a source's fields are read where its pictures are not the frames that its file stores; and what they were as stored. */
export const fieldsReadSchema = z.object({
  runs: fieldRunsSchema,
  stored: z.object({
    mediaId: idSchema,
    pictures: count.min(1),
    measured: timed.measured,
    variable: timed.variable,
    seconds: timed.seconds,
  }),
});

/** A file with pictures in time. */
const filmSchema = z.object({
  ...sourceBase,
  ...pictured,
  ...timed,
  kind: z.literal('film'),
  sound: soundSchema.nullable(),
  /** Null: as the file times them. */
  readAt: readingSchema.nullable(),
  /** Left out: its pictures are the frames that the file stores. With it, rate, count and length are those of the pictures as read. */
  fieldsRead: fieldsReadSchema.optional(),
});

/** Numbered pictures: they have no rate of their own and are read at one. */
const sequenceSchema = z.object({
  ...sourceBase,
  ...pictured,
  kind: z.literal('sequence'),
  sound: z.null().default(null),
  /** First and last number, and how many between have no picture. Left out where that is not known. */
  numbers: z.object({ first: count, last: count, missing: count }).optional(),
  readAt: readingSchema,
});

/** One picture, without a rate. */
const stillSchema = z.object({
  ...sourceBase,
  ...pictured,
  kind: z.literal('still'),
  sound: z.null().default(null),
  readAt: z.null().default(null),
});

/** Sound alone. Its pictures are thousandths of a second, so that clips of it are placed and cut as all others. */
const soundAloneSchema = z.object({
  ...sourceBase,
  kind: z.literal('sound'),
  seconds: timed.seconds,
  sound: soundSchema,
  readAt: z.null().default(null),
});

/** A file as it was probed, and how the project reads it. The file itself is never written to. */
export const sourceSchema = z.discriminatedUnion('kind', [filmSchema, sequenceSchema, stillSchema, soundAloneSchema]);

/** Neither seen nor heard, though it keeps its place. Left out: it is on. */
const switchedOff = z.literal(true).optional();

export const laneSchema = z.object({
  id: idSchema,
  kind: z.enum(['picture', 'sound']),
  name: z.string().min(1).max(60),
  off: switchedOff,
  kept,
});

/** How a picture of another size or shape is put into the frame: all of it, filling it, pixel for pixel, or all of it in all of the frame. */
export const FRAMINGS = ['inside', 'fill', 'as-is', 'stretch'] as const;
export type Framing = (typeof FRAMINGS)[number];

const handle = z
  .number()
  .min(-HANDLE_REACH)
  .max(1 + HANDLE_REACH);

/** A source picture tied to a frame of a clip, counted as headTrim counts. */
export const pinSchema = z.object({
  frame: z.int().min(-CLIP_FRAMES).max(CLIP_FRAMES),
  picture: count,
  way: z.enum(PIN_WAYS).default('even'),
  handles: z.tuple([handle, handle, handle, handle]).optional(),
});

/** A time curve, as edits and files hold it. */
export const curveSchema = z.array(pinSchema).min(1).max(10_000);

/** How loud a clip may be made against its source, in dB. */
export const LEVEL_MIN = -60;
export const LEVEL_MAX = 24;

/** What a single frame shows where another picture would be made by the clip's fit. */
export const INSTEADS = ['nearest', 'blend'] as const;

/**
 * How a clip comes in over the one that ends where it begins: from `before` frames before the cut to `after` behind it. Left out: by a cut.
 * Where nothing ends at its start there is nothing to come from, and it begins as by a cut.
 */
export const dissolveSchema = z
  .object({ before: z.int().min(0).max(CLIP_FRAMES), after: z.int().min(0).max(CLIP_FRAMES), kept: kept.optional() })
  .refine(({ before, after }) => before + after > 0);

/** How much of a picture is seen over what lies beneath it. */
export const opacitySchema = z.number().min(0).max(1);

/** Of a picture's width or height. */
const share = z.number().min(0).max(1);
/** How far a picture may be moved and how large it may be made, by hand. */
export const [POSE_REACH, SCALE_LEAST, SCALE_MOST, TURN_MOST] = [20, 0.01, 20, 3600];
const reach = z.number().min(-POSE_REACH).max(POSE_REACH);
const scale = z.number().min(SCALE_LEAST).max(SCALE_MOST);

/** How a clip's picture is laid by hand, on top of its framing: see core's Pose. Something of it has to be left. */
export const poseSchema = z
  .object({
    crop: z.object({ left: share, top: share, right: share, bottom: share }),
    x: reach,
    y: reach,
    scaleX: scale,
    scaleY: scale,
    turn: z.number().min(-TURN_MOST).max(TURN_MOST),
    anchorX: reach,
    anchorY: reach,
  })
  .refine(({ crop }) => crop.left + crop.right < 1 && crop.top + crop.bottom < 1);

/** What every clip has. */
const clipBase = {
  id: idSchema,
  /** A source's id, or that of another timeline of the project. */
  sourceId: idSchema,
  laneId: idSchema,
  link: idSchema.nullable(),
  /** First frame on the timeline. */
  start: count,
  /** Frames. */
  length: z.int().min(1).max(CLIP_FRAMES),
  /** Source picture the count begins at. */
  inPicture: count,
  /** Frames between the in point and the first frame; negative when the head was pulled out. */
  headTrim: z.int().min(-100_000_000).max(100_000_000),
  /** How fast its source's reading runs here, exactly: 25/24 brings pictures read at 24 back to 25. */
  speed: rateSchema,
  /** The cut as it was made, before its source was read otherwise: reading it so again gives exactly this back. */
  cut: z
    .object({
      readAt: readingSchema.nullable(),
      speed: rateSchema,
      inPicture: count,
      headTrim: z.int(),
      length: count.min(1),
    })
    .nullable(),
  framing: z.enum(FRAMINGS).default('inside'),
  /** Left out: as its framing has it. */
  pose: poseSchema.optional(),
  /** Left out: all of it is seen. */
  opacity: opacitySchema.optional(),
  /** How two pictures are mixed where they are: as stored, or as light adds up. */
  mix: z.enum(MIXES).default('stored'),
  /** How much of a frame the shutter is open, in degrees; 0 shows a frame's own moment alone. */
  shutter: z.int().min(0).max(SHUTTER_MAX).default(0),
  /** Frames, counted as the curve's, for which a person chose another way than the fit's; ascending. */
  instead: z
    .array(z.object({ frame: z.int(), as: z.enum(INSTEADS) }))
    .max(1_000_000)
    .default([]),
  /**
   * Each picture filled a frame of this rate before the edit was carried to another; back there it does so again, at the
   * speed it had for keeping time.
   */
  keptAt: z.object({ rate: rateSchema, speed: rateSchema }).nullable().default(null),
  /** What its sound does at another speed; null: as its source's reading says. */
  sound: soundWaySchema.nullable().default(null),
  /** How much louder its sound is than its source's, in dB. */
  level: z.number().min(LEVEL_MIN).max(LEVEL_MAX).default(0),
  /**
   * Microseconds of its source by which its sound begins after the moment that its frames say: recordings that are aligned rarely
   * begin on a frame.
   */
  slip: z.int().min(-1_000_000_000).max(1_000_000_000).default(0),
  /** Its own name in the edit file it came with, where that is not its source's. */
  label: z.string().max(255).nullable().default(null),
  dissolve: dissolveSchema.optional(),
  off: switchedOff,
  kept,
};

export const movingClipSchema = z.object({
  ...clipBase,
  fit: z.enum(FITS).exclude(['freeze']),
  /** Which picture its frames show where that is not even: a time curve. Null: as its speed and fit say. */
  curve: curveSchema.nullable().default(null),
});

/** All frames show the picture at its in point. */
export const frozenClipSchema = z.object({ ...clipBase, fit: z.literal('freeze'), curve: z.null().default(null) });

/**
 * A source placed on a lane. Frame n of the clip (0 is its first) shows the picture that core's step map gives for
 * inPicture and headTrim. Picture and sound of one placement are two clips with the same link and move together.
 */
export const clipSchema = z.discriminatedUnion('fit', [movingClipSchema, frozenClipSchema]);

/** A mark on a timeline. */
export const markSchema = z.object({
  id: idSchema,
  frame: count,
  /** Frames; 0 for a moment. */
  length: count,
  name: z.string().max(500),
  kept,
});

/** Sides of a timeline's frames, in pixels. */
export const [FRAME_LEAST, FRAME_MOST] = [16, 8192];

export const timelineSchema = z.object({
  id: idSchema,
  name: z.string().min(1).max(120),
  rate: rateSchema,
  width: z.int().min(FRAME_LEAST).max(FRAME_MOST),
  height: z.int().min(FRAME_LEAST).max(FRAME_MOST),
  /** Frames since midnight that the first frame is called. */
  startFrame: count.default(0),
  /** Timecode leaves out numbers to keep with the clock: 29.97 and 59.94 only. */
  dropFrame: z.boolean().default(false),
  /** Its frames are of two fields, each at its own moment: which comes first. Left out: whole pictures. */
  fields: z.enum(FIELD_ORDERS).optional(),
  /** What its pictures are composed in. Left out: as its sources have it. */
  colour: z.enum(COLOUR_CHOICES).optional(),
  /** In to out, to loop and to render; `to` is not included. Null: all of it. */
  range: z
    .object({ from: count, to: count })
    .refine(({ from, to }) => from < to)
    .nullable()
    .default(null),
  /** Picture lanes bottom to top, then sound lanes. */
  lanes: z.array(laneSchema),
  clips: z.array(clipSchema),
  marks: z.array(markSchema).default([]),
  kept,
});

/** A moment of a recording: microseconds from its first picture, of sound alone from its first sample. */
const micros = z.int().min(0).max(1_000_000_000_000);

/** The same moment in two recordings. */
export const tieSchema = z.object({ a: micros, b: micros });

/** Two sources that recorded one event, by the ties that a person settled on, in order of time. */
export const alignmentSchema = z.object({ aId: idSchema, bId: idSchema, ties: z.array(tieSchema).min(1).max(1000) });

export const documentSchema = z.object({
  name: z.string().min(1).max(120),
  sources: z.array(sourceSchema),
  timelines: z.array(timelineSchema),
  alignments: z.array(alignmentSchema).default([]),
});

/** Every picture is read: one after the other, or evenly. */
export type WholeReading = z.infer<typeof wholeReadingSchema> & Without<'held'>;
/** Pictures that show nothing new are left out. */
export type NewReading = z.infer<typeof newReadingSchema>;
export type Reading = WholeReading | NewReading;
export type SoundWay = z.infer<typeof soundWaySchema>;
type Timed = keyof typeof timed;
export type Film = z.infer<typeof filmSchema> & Without<'numbers'>;
export type FieldsReading = z.infer<typeof fieldsReadSchema>;
export type Sequence = z.infer<typeof sequenceSchema> & Without<Timed | 'fieldsRead'>;
export type Still = z.infer<typeof stillSchema> & Without<Timed | 'numbers' | 'fieldsRead'>;
export type SoundAlone = z.infer<typeof soundAloneSchema> &
  Without<Exclude<Timed, 'seconds'> | keyof typeof pictured | 'numbers' | 'fieldsRead'>;
/** A source as the project holds it: a file, or numbered pictures. */
export type FileSource = Film | Sequence | Still | SoundAlone;
/** A timeline where it is placed in another one: its frames are the pictures. Made from it each time, never stored. */
export interface StandingTimeline extends Omit<Film, 'kind' | 'readAt' | 'fieldsRead'> {
  readonly kind: 'timeline';
  readonly fieldsRead?: undefined;
  readonly readAt: null;
}
export type Source = FileSource | StandingTimeline;
export type Mark = z.infer<typeof markSchema>;
export type Dissolve = z.infer<typeof dissolveSchema>;
export type Lane = z.infer<typeof laneSchema>;
export type MovingClip = z.infer<typeof movingClipSchema>;
export type Clip = z.infer<typeof clipSchema>;
export type Alignment = z.infer<typeof alignmentSchema>;
export type Timeline = z.infer<typeof timelineSchema>;
export type Project = Omit<z.infer<typeof documentSchema>, 'sources'> & { sources: FileSource[] };

export function emptyProject(name: string): Project {
  return { name, sources: [], timelines: [], alignments: [] };
}

/** The lanes a new timeline has. */
export function firstLanes(): Lane[] {
  return [
    { id: 'p1', kind: 'picture', name: 'Picture 1', kept: null },
    { id: 'p2', kind: 'picture', name: 'Picture 2', kept: null },
    { id: 's1', kind: 'sound', name: 'Sound 1', kept: null },
    { id: 's2', kind: 'sound', name: 'Sound 2', kept: null },
  ];
}
