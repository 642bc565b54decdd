import { pathToFileURL } from 'node:url';
import { Inject, Injectable } from '@nestjs/common';
import type { Asker, EditPreviewReply, OpenEditReply } from '@thawline/contract';
import { writeEdl, writeOtio } from '@thawline/core/exchange';
import type { Rate } from '@thawline/core/time';
import { type EditForm, flattened, lossesOf, type Project, type SaveOptions, timelineLength, toEdit } from '@thawline/project';
import { Store } from '../database/store.js';
import { yieldTurn } from '../database/yielding.js';
import { Failure } from '../http/failure.js';
import { ProjectsService } from '../projects/projects.service.js';
import type { ReadEdit } from './readEdit.js';
import { readInThread } from './readInThread.js';

/** Edit files in and out: OpenTimelineIO and CMX 3600. */
@Injectable()
export class ExchangeService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
  ) {}

  /** Imports what can be read of an edit file as timelines, in one undo step; reports what could not be read with its line or path. */
  async open(
    projectId: string,
    {
      file,
      text,
      edlRate,
      by = {},
    }: { readonly file: string; readonly text: string; readonly edlRate: Rate | null; readonly by?: Asker },
  ): Promise<OpenEditReply> {
    const { timelines, sources, troubles } = await this.read(projectId, file, text, edlRate);
    const change = await this.projects.command(projectId, { type: 'openEdit', file, timelines, sources }, by);
    return {
      change,
      timelineId: timelines.at(-1)?.id ?? '',
      clips: timelines.reduce((n, t) => n + t.clips.length, 0),
      troubles: [...troubles],
    };
  }

  /** Previews opening a file. */
  async preview(projectId: string, file: string, text: string, edlRate: Rate | null): Promise<EditPreviewReply> {
    const { timelines, troubles, events } = await this.read(projectId, file, text, edlRate);
    return {
      clips: timelines.reduce((n, t) => n + t.clips.length, 0),
      timelines: timelines.map((t) => ({ name: t.name, rate: t.rate, frames: timelineLength(t) })),
      events: events.map(({ place, label, source, lost, picture, sure }) => ({ place, label, source, lost, picture, sure })),
      troubles: [...troubles],
    };
  }

  private async read(projectId: string, file: string, text: string, edlRate: Rate | null): Promise<ReadEdit> {
    const document = await this.projects.document(projectId);
    const paths = [...(await this.paths(document))];
    const read = await readInThread({ file, text, edlRate, sources: document.sources, paths });
    await yieldTurn();
    if (read.nothing !== null) throw new Failure('not-an-edit', { file }, `${file} was not opened. ${read.nothing}`);
    return read;
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

  /** Paths and names of the project's files, by media id. Copies in the data folder are given by name only. */
  private async paths(document: Project): Promise<Map<string, { url: string; fileName: string }>> {
    const media = await this.store.mediaOf([...new Set(document.sources.map((s) => s.mediaId))]);
    return new Map(
      media.map((m) => [m.id, { url: m.path ? pathToFileURL(m.path).href : encodeURIComponent(m.name), fileName: m.name }]),
    );
  }
}
