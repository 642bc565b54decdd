import { ALPHA_LOST, colourName, isHighRange, type Light, PAINTS, PQ, paintHex, pictureLosses } from '@thawline/core/picture';
import type { Project, Timeline } from '../document/document.js';
import { seesThrough } from '../resolve/clear.js';
import { type ColourFinding, timelineColour } from '../resolve/colour.js';
import { filesOf } from '../resolve/sources.js';
import { FORMS, type FormSamples, keepsAlpha, pixelFormatOf, saysSiting } from './form.js';

/** Primaries and curve in words: "BT.2020, PQ"; one word where both are of one recommendation. */
export function lightWords({ primaries, transfer }: Light): string {
  const said = [primaries, transfer].filter((name) => name !== null).map(colourName);
  return said.length === 0 ? 'what its sources are' : [...new Set(said)].join(', ');
}

/** A timeline's colours and why it has them: "BT.709, as 70 % of its frames". */
export function colourReason({ colour, reason, share }: ColourFinding): string {
  const words = lightWords(colour);
  switch (reason) {
    case 'agree':
      return (colour.primaries ?? colour.transfer) ? `${words}, as all its sources` : 'as stored: no source says';
    case 'most':
      return `${words}, as ${Math.round(share * 100)} % of its frames`;
    case 'asked':
      return `${words}, as chosen`;
    default:
      return reason satisfies never;
  }
}

/** What becomes of what is lighter than white. */
const ABOVE_WORDS = {
  kept: '',
  bent: ', and what is lighter than white is compressed below it (BT.2390)',
  cut: ', and what is lighter than white is cut off',
} as const;

/** What becomes of a source's colours in a timeline: "is converted to BT.709 through linear light". */
function conversionWords({ colour }: ColourFinding, { above }: ColourFinding['converted'][number]): string {
  return `is converted to ${lightWords(colour)} through linear light${ABOVE_WORDS[above]}`;
}

/** What becomes of one source's colours in a timeline, in a sentence; null where they stay. */
export function conversionNote(project: Project, timeline: Timeline, sourceId: string): string | null {
  const finding = timelineColour(project, timeline);
  const one = finding.converted.find((c) => c.id === sourceId);
  return one ? `${lightWords(one.from)} ${conversionWords(finding, one)}.` : null;
}

/** How many of a kind are named before the rest is counted. */
const NAMED = 3;

function named(names: readonly string[]): string {
  const few = names.slice(0, NAMED).join(', ');
  return names.length > NAMED ? `${few} and ${names.length - NAMED} more` : few;
}

/** A colour by its name where it has one. */
export function groundWords(over: string): string {
  const [name] = Object.entries(PAINTS).find(([, paint]) => paintHex(paint) === over) ?? [];
  return name ?? over;
}

/** What becomes of the samples and colours of a timeline's sources when it is rendered so, a sentence each; empty where all come through as they are. */
export function pictureNotes(project: Project, timeline: Timeline, range: Timeline['range'], form: FormSamples): string[] {
  if (form.kind === 'wav') return [];
  const finding = timelineColour(project, timeline);
  const files = filesOf(project, timeline, range);
  const notes: string[] = [];
  for (const one of finding.converted.filter((c) => files.some((f) => f.id === c.id)))
    notes.push(`${one.name} (${lightWords(one.from)}) ${conversionWords(finding, one)}.`);
  if (!keepsAlpha(form) && files.some((file) => seesThrough(project, file)))
    notes.push(`Where its pictures are seen through and nothing lies beneath, the file is ${groundWords(form.over)}.`);
  const format = pixelFormatOf(form);
  // By what is lost, whose pictures lose it.
  const losing = new Map<string, string[]>();
  for (const source of files) {
    if (source.kind === 'sound') continue;
    // Alpha has done its work by then: what lies beneath is seen through it.
    const losses = pictureLosses(source.pixelFormat, format)
      .filter((loss) => loss !== ALPHA_LOST)
      .join(', ');
    if (losses) losing.set(losses, [...(losing.get(losses) ?? []), source.name]);
  }
  for (const [losses, names] of losing) notes.push(`${named(names)}: ${losses}.`);
  if (finding.colour.siting && form.chroma === '420' && !saysSiting(form))
    notes.push('Where halved chroma lies is not said in this form: it is not where most take it to be. H.264 and HEVC say it.');
  if (finding.colour.highRange && form.codec !== 'hevc')
    notes.push('Mastering display and light level are not kept in this form: HEVC keeps them.');
  if (finding.colour.transfer === PQ && !finding.colour.highRange && files.some((file) => file.looks?.highRange))
    notes.push('Its sources differ in mastering display or light level: the file says neither.');
  if (isHighRange(finding.colour.transfer) && form.depth === 8)
    notes.push('High dynamic range in 8 bit shows bands in smooth shades. Take 10 bit.');
  if (isHighRange(finding.colour.transfer) && FORMS[form.kind].codecs.length === 0 && form.kind !== 'exr')
    notes.push(`${FORMS[form.kind].words} says nothing of high dynamic range: whoever opens it has to be told.`);
  return notes;
}
