export type Facts = Readonly<Record<string, string | number | readonly string[]>>;

type Sentence = (facts: Facts) => string;

/** Why a command was not applied: each reason's code, and the sentence that browser, server and shell tell it with. */
const SENTENCES = {
  'unknown-source': () => 'There is no such source.',
  'unknown-timeline': () => 'There is no such timeline.',
  'unknown-clip': () => 'There is no such clip.',
  'unknown-lane': () => 'There is no such lane.',
  'source-in-use': (f) => `${f.source} is used in ${list(f.timelines)}. Take it off there first, or remove it with its uses.`,
  'timeline-has-clips': (f) => `${f.timeline} has clips: another rate would re-time them. Carry the edit to that rate instead.`,
  overlap: (f) => `On ${f.lane} the clips would lie over each other for ${frames(f.frames)}.`,
  'before-start': () => 'That is before frame 0.',
  'past-source': (f) => `${f.clip} has no pictures there.`,
  'id-taken': () => 'Something with that id is there already: it was not added again.',
  'no-lane-there': () => 'There is no lane there.',
  'bad-size': (f) => `${f.width}x${f.height} is not a frame size: both have to be whole numbers from 16 to 8192.`,
  'no-rate': (f) =>
    f.kind === 'still'
      ? `${f.source} is a still: it has no rate.`
      : f.kind === 'sound'
        ? `${f.source} is sound alone: it has no pictures and no rate.`
        : `${f.source} is numbered pictures: they need a rate to be read at.`,
  'no-fields': (f) => `${f.source} has no fields: it is no film, or its pictures have an odd number of lines.`,
  'fields-end': (f) => `${f.source} has ${f.pictures} stored frames: what is said of its fields is of another number.`,
  'held-left-out': (f) =>
    `${f.source} is read without its held pictures. Read all of its pictures first, then its fields: they are other pictures then.`,
  'no-drop-frame': () => 'Drop-frame timecode exists at 29.97 and 59.94 only.',
  'fields-too-quick': (f) => `Two fields a frame go up to 30 frames a second, and this is ${f.rate}.`,
  'timeline-in-use': (f) => `${f.timeline} is placed in ${list(f.timelines)}. Take it off there, or unpack it, first.`,
  'within-itself': (f) => `${f.timeline} cannot stand in itself.`,
  'not-a-timeline': () => 'This clip is made of a file: there is nothing to unpack.',
  'laid-by-hand': (f) =>
    `${f.clip} is laid by hand or seen through as a whole, which its clips cannot be each by itself. Undo that before unpacking it.`,
  'nothing-left': () => 'Nothing of the picture would be left.',
  frozen: (f) => `${f.clip} is frozen: give it another fit before unpacking it.`,
  'lane-in-use': (f) => `${f.lane} has clips. Move them first.`,
  'nothing-there': (f) => `No clip lies across frame ${f.frame}.`,
  'nothing-before': (f) => `No clip ends where ${f.clip} begins: there is nothing to dissolve from.`,
  'no-gaps': () => 'There are no gaps to close.',
  'one-clip': () => 'Choose at least two clips to link.',
  'bad-curve': (f) => CURVES[String(f.fault)]?.(f) ?? 'These pins make no curve.',
  'no-time': (f) => `${f.clip} is a still: it has no time to change.`,
  'bad-speed': (f) =>
    `${f.clip} is read at another rate already: together with that this speed is slower, or faster, than a clip can run.`,
  'too-long': (f) => `${f.clip} would run for ${frames(f.frames)}: ${f.most} are the most a clip can have.`,
  'sound-alone': (f) => `${f.source} is sound alone: it has no pictures.`,
  'no-pictures': (f) => `${f.clip} is sound alone: it goes on a sound lane.`,
  'tie-twice': (f) => `Two ties of ${f.a} and ${f.b} stand on one moment. Move one of them, or take it away.`,
  'ties-cross': (f) => `Ties of ${f.a} and ${f.b} cross: what comes later in one would come earlier in the other.`,
  'tie-outside': (f) => `${f.source} runs for ${Number(f.seconds).toFixed(3)} s: a tie lies after its end.`,
  'no-ties': (f) => `${f.a} and ${f.b} have no ties yet: find them by sound, or tie a moment by hand.`,
  'uneven-anchor': (f) =>
    `${f.clip} is frozen there, follows a time curve, or shows each picture once. Aligning needs it to run at one speed of its own.`,
} as const satisfies Record<string, Sentence>;

export type RefusalCode = keyof typeof SENTENCES;
export const REFUSALS = Object.keys(SENTENCES) as RefusalCode[];
export const REFUSAL_SENTENCES: Readonly<Record<RefusalCode, Sentence>> = SENTENCES;

function frames(n: Facts[string] | undefined): string {
  return `${n} ${n === 1 ? 'frame' : 'frames'}`;
}

/** By what is wrong with the pins. */
const CURVES: Record<string, (facts: Facts) => string> = {
  'two-on-a-frame': () => 'Two pins stand on one frame. Each needs a frame of its own, in rising order.',
  'past-source': (f) => `${f.clip} has ${f.pictures} pictures, 0 to ${Number(f.pictures) - 1}. A pin names another.`,
  'bad-handles': () => 'A handle lies outside its stretch: the clip would run backward. Ask for that, or pull it in.',
};

/** The names in one of a refusal's facts, with commas between them. */
function list(names: Facts[string] | undefined): string {
  return Array.isArray(names) ? names.join(', ') : String(names ?? '');
}

/** A command that was turned down. */
export interface Refusal {
  readonly ok: false;
  readonly code: RefusalCode;
  readonly facts: Facts;
}
