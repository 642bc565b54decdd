import {
  type Colour,
  curveOf,
  differsInLight,
  type Encoding,
  type HighRange,
  isHighRange,
  LINEAR,
  type Light,
  PQ,
  pixelFacts,
  settledColour,
  settledLight,
  USUAL_SITING,
} from '@thawline/core/picture';
import type { ColourChoice, Project, Timeline } from '../document/document.js';
import { filesOf, isOff, timelineOf } from './sources.js';

/**
 * What a timeline's pictures are composed in, and a render is tagged with. Primaries and transfer are null where no source says; siting is where halved
 * chroma lies, left of its pixels where it is left out.
 */
export type TimelineColour = Encoding & Light & { readonly highRange?: HighRange; readonly siting?: string };

export const COLOUR_SPACES: Record<ColourChoice, TimelineColour & { readonly words: string }> = {
  bt709: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'limited', words: 'BT.709' },
  bt2020: { primaries: 'bt2020', transfer: 'bt2020-10', matrix: 'bt2020nc', range: 'limited', words: 'BT.2020, standard range' },
  pq: { primaries: 'bt2020', transfer: 'smpte2084', matrix: 'bt2020nc', range: 'limited', words: 'BT.2020, PQ' },
  hlg: { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc', range: 'limited', words: 'BT.2020, HLG' },
};

/** A source as its colours count. */
export interface ColouredSource {
  readonly id: string;
  readonly name: string;
  readonly pixelFormat: string;
  readonly height: number;
  readonly colour?: Colour | undefined;
  readonly highRange?: HighRange | undefined;
  readonly siting?: string | undefined;
  /** Frames of the timeline that clips of it fill. */
  readonly frames: number;
}

/** A timeline's colours, why they are these, and what has to be converted into them. */
export interface ColourFinding {
  readonly colour: TimelineColour;
  /** agree: all sources say the same, or nothing. most: these fill most frames. asked: a person chose them. */
  readonly reason: 'agree' | 'most' | 'asked';
  /** Share of frames whose sources had these colours anyway. */
  readonly share: number;
  /** Sources that go through linear light. */
  readonly converted: readonly {
    readonly id: string;
    readonly name: string;
    readonly from: Light;
    /** What becomes of lights above white of standard range where these have no room for them. */
    readonly above: 'kept' | 'bent' | 'cut';
  }[];
}

/** What of lights above white comes from one meaning into another. */
function aboveWhite(from: Light, to: Light): 'kept' | 'bent' | 'cut' {
  if (isHighRange(to.transfer)) return 'kept';
  return isHighRange(from.transfer) ? 'bent' : from.transfer === LINEAR ? 'cut' : 'kept';
}

/** What a source would be as frames of a timeline: none is of linear light. */
function asFrames(colour: Colour | undefined): Colour | undefined {
  return colour?.transfer === LINEAR ? { ...colour, primaries: colour.primaries ?? 'bt709', transfer: 'bt709' } : colour;
}

/** Where the halved chroma of all sources that have such lies, where they agree and it is not the usual place. */
function sitingOf(sources: readonly ColouredSource[]): string | null {
  const halved = sources.filter((s) => /^4:2/.test(pixelFacts(s.pixelFormat)?.chroma ?? ''));
  const [one = USUAL_SITING, ...others] = new Set(halved.map((s) => s.siting ?? USUAL_SITING));
  return others.length === 0 && one !== USUAL_SITING ? one : null;
}

/** Meaning of red, green and blue as one word: what is not said is plain. */
function meaningOf(colour: Colour | undefined): string {
  const { primaries, transfer } = settledLight(asFrames(colour), { primaries: 'bt709', transfer: 'bt709' });
  return `${primaries} ${curveOf(transfer ?? 'bt709')}`;
}

/** What a timeline's sources do not agree in is brought to this, by the frame's height as players take it. */
function usual(height: number, { transfer, primaries }: Light): Encoding {
  if (isHighRange(transfer) || primaries === 'bt2020') return { matrix: 'bt2020nc', range: 'limited' };
  return settledColour(undefined, height);
}

/**
 * The colours in which pictures of several sources meet. Where they agree they stay as they are, tags and samples; else those count that fill most
 * frames, of equal ones those of standard range, which every screen shows. Never simply the first.
 * @param height of the timeline's frames
 */
export function colourOf(sources: readonly ColouredSource[], height: number, choice: ColourChoice | undefined): ColourFinding {
  const own = (one: ColouredSource): Encoding => settledColour(one.colour, one.height);
  const frames = sources.reduce((sum, s) => sum + s.frames, 0);
  const finish = (colour: TimelineColour, reason: ColourFinding['reason']): ColourFinding => {
    const differs = (s: ColouredSource): boolean => differsInLight(settledLight(s.colour, colour), colour);
    const converted = sources.filter(differs).map((s) => {
      const from = settledLight(s.colour, colour);
      return { id: s.id, name: s.name, from, above: aboveWhite(from, colour) };
    });
    const kept = sources.reduce((sum, s) => sum + (differs(s) ? 0 : s.frames), 0);
    // What display and light they were made for is kept where all of that kind say the same.
    const [light, ...others] = new Set(
      sources.filter((s) => s.colour?.transfer === PQ && !differs(s)).map((s) => JSON.stringify(s.highRange ?? null)),
    );
    const highRange = colour.transfer === PQ && light && others.length === 0 ? (JSON.parse(light) as HighRange | null) : null;
    const siting = sitingOf(sources);
    const made = { ...colour, ...(highRange ? { highRange } : {}), ...(siting ? { siting } : {}) };
    return { colour: made, reason, share: frames === 0 ? 1 : kept / frames, converted };
  };
  if (choice) {
    const { words: _, ...space } = COLOUR_SPACES[choice];
    return finish(space, 'asked');
  }
  const meanings = new Map<string, number>();
  for (const s of sources) meanings.set(meaningOf(s.colour), (meanings.get(meaningOf(s.colour)) ?? 0) + s.frames);
  const plain = (meaning: string): number => (/smpte2084|arib/.test(meaning) ? 1 : 0);
  const [winner] = [...meanings].sort(([a, m], [b, n]) => n - m || plain(a) - plain(b) || (a < b ? -1 : 1));
  const chosen = sources.filter((s) => meaningOf(s.colour) === winner?.[0]);
  // What is stored as red, green and blue, or as grey, has no matrix of its own to keep.
  const lumas = chosen.filter((s) => pixelFacts(s.pixelFormat)?.model === 'yuv');
  const [first] = lumas.map(own);
  const agree = first !== undefined && lumas.every((s) => own(s).matrix === first.matrix && own(s).range === first.range);
  const said = (what: 'primaries' | 'transfer', of: readonly ColouredSource[]): string | null => {
    const [one = null, ...others] = new Set(of.map((s) => asFrames(s.colour)?.[what] ?? null));
    return others.length === 0 ? one : null;
  };
  const linear = sources.some((s) => s.colour?.transfer === LINEAR);
  if (meanings.size <= 1 && !linear) {
    const light = { primaries: said('primaries', lumas), transfer: said('transfer', lumas) };
    return finish({ ...(agree ? first : usual(height, light)), ...light }, 'agree');
  }
  // Where several meet each has to say what it is.
  const [primaries = 'bt709', transfer = 'bt709'] = winner?.[0].split(' ') ?? [];
  const light = { primaries: said('primaries', chosen) ?? primaries, transfer: said('transfer', chosen) ?? transfer };
  return finish({ ...(agree ? first : usual(height, light)), ...light }, meanings.size <= 1 ? 'agree' : 'most');
}

/** Frames of a timeline that clips of each file fill, by the source's id; those of timelines placed in it included. */
function framesOfFiles(project: Project, timeline: Timeline): Map<string, number> {
  const found = new Map<string, number>();
  const look = (within: Timeline, share: number): void => {
    for (const clip of within.clips) {
      if (isOff(within, clip)) continue;
      const inner = timelineOf(project, clip.sourceId);
      const whole = inner ? inner.clips.reduce((end, c) => Math.max(end, c.start + c.length), 0) : 0;
      if (inner) look(inner, (share * clip.length) / Math.max(1, whole));
      else found.set(clip.sourceId, (found.get(clip.sourceId) ?? 0) + share * clip.length);
    }
  };
  look(timeline, 1);
  return found;
}

/**
 * The colours of a timeline. Ranges of it have the same, so that what is rendered in pieces goes together.
 * @param said what is known of a file's pictures; left out: what the project keeps of it
 */
export function timelineColour(
  project: Project,
  timeline: Timeline,
  said?: (mediaId: string) => Pick<ColouredSource, 'pixelFormat' | 'height' | 'colour' | 'highRange' | 'siting'> | undefined,
): ColourFinding {
  const frames = framesOfFiles(project, timeline);
  const sources = filesOf(project, timeline).flatMap((source): ColouredSource[] => {
    if (source.kind === 'sound') return [];
    const kept = {
      pixelFormat: source.pixelFormat,
      height: source.height,
      colour: source.looks?.colour,
      highRange: source.looks?.highRange,
      siting: source.looks?.siting,
    };
    const known = said ? said(source.mediaId) : kept;
    return known ? [{ id: source.id, name: source.name, frames: frames.get(source.id) ?? 0, ...known }] : [];
  });
  return colourOf(sources, timeline.height, timeline.colour);
}
