import { randomUUID } from 'node:crypto';
import { basename, extname } from 'node:path';
import { type EditMedia, lastPart, type Opened, readEdl, readOtio, troubleSentence } from '@thawline/core/exchange';
import { type Rate, rate } from '@thawline/core/time';
import { type FileSource, fromEdit, type ListEvent, type Timeline } from '@thawline/project';

/** What reading an edit file needs to know. Plain values: they go to a thread. */
export interface EditToRead {
  readonly file: string;
  readonly text: string;
  /** What a CMX 3600 list counts in. */
  readonly edlRate: Rate | null;
  readonly sources: readonly FileSource[];
  /** Paths and names of the sources' files, by media id. */
  readonly paths: readonly (readonly [string, { readonly url: string; readonly fileName: string }])[];
}

/** An edit file as timelines, stand-ins for what is not at hand, and what could not be taken as it stood. */
export interface ReadEdit {
  readonly timelines: Timeline[];
  readonly sources: FileSource[];
  readonly troubles: readonly { readonly code: string; readonly place: string; readonly sentence: string }[];
  /** Of a list, each event and the picture of its source that it begins at. */
  readonly events: readonly ListEvent[];
  /** Why there is no edit in it; null where there is one. */
  readonly nothing: string | null;
}

export function readEdit({ file, text, edlRate, sources, paths }: EditToRead): ReadEdit {
  const opened = readEditFile(file, text, edlRate);
  if (opened.edits.length === 0) {
    const said = opened.troubles.slice(0, 3).map(troubleSentence).join(' ');
    return { timelines: [], sources: [], troubles: [], events: [], nothing: said };
  }
  const newId = (): string => randomUUID().replace(/-/g, '').slice(0, 16);
  const troubles = [...opened.troubles];
  const timelines: Timeline[] = [];
  const events: ListEvent[] = [];
  const lost = new Map<string, FileSource>();
  const places = new Map(paths);
  for (const edit of opened.edits) {
    const atHand = [...lost.values(), ...sources.filter((s) => !lost.has(s.id))];
    const one = fromEdit(edit, { sources: atHand, find: mediaFinder(atHand, places), newId });
    timelines.push(...one.timelines);
    events.push(...one.events);
    for (const source of one.lost) lost.set(source.id, source);
    troubles.push(...one.troubles);
  }
  const told = troubles.map((t) => ({ code: t.code, place: t.place, sentence: troubleSentence(t) }));
  return { timelines, sources: [...lost.values()], troubles: told, events, nothing: null };
}

/** Reads by the file's ending, or by what the text looks like. */
export function readEditFile(file: string, text: string, edlRate: Rate | null): Opened {
  const otio = /\.otio$/i.test(file) || (!/\.edl$/i.test(file) && /^\s*\{/.test(text));
  return otio ? readOtio(text) : readEdl(text, edlRate ?? rate(25));
}

/** Finds the source with the path that the edit names, else the first with that file name, with or without its ending. */
function mediaFinder(
  sources: readonly FileSource[],
  paths: ReadonlyMap<string, { readonly url: string; readonly fileName: string }>,
): (media: EditMedia) => FileSource | null {
  const byUrl = new Map<string, FileSource>();
  const byName = new Map<string, FileSource>();
  const keep = (into: Map<string, FileSource>, key: string, source: FileSource): void => {
    if (key !== '' && !into.has(key)) into.set(key, source);
  };
  for (const source of sources) {
    const place = paths.get(source.mediaId);
    keep(byUrl, place?.url ?? '', source);
    for (const name of [place?.fileName ?? '', source.name]) keep(byName, name.toLowerCase(), source);
  }
  return (media) => {
    const at = media.url === null ? undefined : byUrl.get(media.url);
    if (at) return at;
    const names = [media.name, ...(media.url ? [lastPart(media.url)] : [])].flatMap((n) => [n, basename(n, extname(n))]);
    const found = names.map((n) => byName.get(n.toLowerCase())).filter((s) => s !== undefined);
    // Of several, the one that came first into the project.
    return found.sort((a, b) => sources.indexOf(a) - sources.indexOf(b))[0] ?? null;
  };
}
