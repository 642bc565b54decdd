import { basename, extname } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Inject, Injectable } from '@nestjs/common';
import type { OpenEditReply } from '@thawline/contract';
import {
  type EditMedia,
  lastPart,
  type Opened,
  readEdl,
  readOtio,
  troubleSentence,
  writeEdl,
  writeOtio,
} from '@thawline/core/exchange';
import { type Rate, rate } from '@thawline/core/time';
import {
  type EditForm,
  flattened,
  fromEdit,
  lossesOf,
  type Project,
  type SaveOptions,
  type Source,
  toEdit,
} from '@thawline/project';
import { Store } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { newId, ProjectsService } from '../projects/projects.service.js';

/** Edit files in and out: OpenTimelineIO and CMX 3600. */
@Injectable()
export class ExchangeService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
  ) {}

  /** Opens the good part of an edit file as timelines, one step to undo; what could not be read is told with its place. */
  async open(projectId: string, file: string, text: string, edlRate: Rate | null): Promise<OpenEditReply> {
    const document = await this.projects.document(projectId);
    const opened = readEditFile(file, text, edlRate);
    if (opened.edits.length === 0) {
      const said = opened.troubles.slice(0, 3).map(troubleSentence).join(' ');
      throw new Failure('not-an-edit', { file }, `${file} was not opened. ${said}`);
    }
    const paths = await this.paths(document);
    const sources = [...document.sources];
    const made = { timelines: [] as Project['timelines'], lost: [] as Source[], troubles: [...opened.troubles] };
    for (const edit of opened.edits) {
      const one = fromEdit(edit, { sources, find: (media) => findMedia(media, sources, paths), newId });
      made.timelines.push(...one.timelines);
      made.lost.push(...one.lost);
      made.troubles.push(...one.troubles);
      sources.push(...one.lost);
    }
    const change = await this.projects.command(projectId, {
      type: 'openEdit',
      file,
      timelines: made.timelines,
      sources: made.lost,
    });
    const troubles = made.troubles.map((t) => ({ code: t.code, place: t.place, sentence: troubleSentence(t) }));
    return {
      change,
      timelineId: made.timelines.at(-1)?.id ?? '',
      clips: made.timelines.reduce((n, t) => n + t.clips.length, 0),
      troubles,
    };
  }

  /** What a form cannot say of a timeline, before it is saved. */
  async losses(projectId: string, timelineId: string, form: EditForm): Promise<{ losses: string[] }> {
    const { document, timeline } = await this.timeline(projectId, timelineId);
    return { losses: lossesOf(document, timeline, form) };
  }

  /** The timeline as a file's text. */
  async save(projectId: string, timelineId: string, form: EditForm): Promise<{ name: string; text: string }> {
    const { document, timeline } = await this.timeline(projectId, timelineId);
    const paths = await this.paths(document);
    const options: SaveOptions = {
      known: await this.projects.timings(document),
      urlOf: (source) => paths.get(source.mediaId)?.url ?? null,
    };
    const text =
      form === 'otio' ? writeOtio(toEdit(document, timeline, options)) : writeEdl(flattened(document, timeline, options));
    const stem = timeline.name.replace(/[^\p{L}\p{N} ._-]+/gu, '').trim() || 'timeline';
    return { name: `${stem}.${form}`, text };
  }

  private async timeline(projectId: string, timelineId: string) {
    const document = await this.projects.document(projectId);
    const timeline = document.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
    return { document, timeline };
  }

  /** Where the project's files lie and what they are called, by media id. Copies of ours are told by name alone. */
  private async paths(document: Project): Promise<Map<string, { url: string; fileName: string }>> {
    const media = await this.store.mediaOf([...new Set(document.sources.map((s) => s.mediaId))]);
    return new Map(
      media.map((m) => [m.id, { url: m.path ? pathToFileURL(m.path).href : encodeURIComponent(m.name), fileName: m.name }]),
    );
  }
}

/** Reads by the file's ending, or by what the text looks like. */
export function readEditFile(file: string, text: string, edlRate: Rate | null): Opened {
  const otio = /\.otio$/i.test(file) || (!/\.edl$/i.test(file) && /^\s*\{/.test(text));
  return otio ? readOtio(text) : readEdl(text, edlRate ?? rate(25));
}

/** The source that lies where the edit says, else the one of that name, with or without its ending. */
function findMedia(
  media: EditMedia,
  sources: readonly Source[],
  paths: ReadonlyMap<string, { url: string; fileName: string }>,
): Source | null {
  const at = sources.find((s) => media.url !== null && paths.get(s.mediaId)?.url === media.url);
  if (at) return at;
  const names = new Set(
    [media.name, ...(media.url ? [lastPart(media.url)] : [])]
      .flatMap((n) => [n, basename(n, extname(n))])
      .map((n) => n.toLowerCase()),
  );
  const called = (s: Source): string[] =>
    [paths.get(s.mediaId)?.fileName ?? '', s.name].filter((n) => n !== '').map((n) => n.toLowerCase());
  return sources.find((s) => called(s).some((n) => names.has(n))) ?? null;
}
