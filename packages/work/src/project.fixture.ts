import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { ffmpeg, type Probe } from '@thawline/media';
import {
  apply,
  type CommandInput,
  clipsFor,
  commandSchema,
  emptyProject,
  formSchema,
  noTiming,
  type Project,
  type RenderFormInput,
  type Source,
} from '@thawline/project';
import { type RenderInput, renderTimeline, sourceFacts, type Unplaced } from './index.js';

/** A file as a project's source. */
export function fileSource(id: string, probe: Probe): Source {
  const rest = { timecode: probe.timecode, numbers: null, claimed: null, readAt: null, lost: null };
  return { id, mediaId: id, name: id, ...sourceFacts(probe), ...rest };
}

/** Applies commands one after the other; throws where one is refused. */
export function changed(project: Project, ...commands: CommandInput[]): Project {
  return commands.reduce((p, command) => {
    const applied = apply(p, commandSchema.parse(command));
    if (!applied.ok) throw new Error(`${applied.code} ${JSON.stringify(applied.facts)}`);
    return applied.project;
  }, project);
}

type Placed = readonly [path: string, fit: 'nearest' | 'blend' | 'pictures', start: number];

/** Files placed one by one on timeline t at 25; sources are i0, i1 …, clips c0, c1 … */
export async function projectOf(size: { width: number; height: number }, ...clips: readonly Placed[]): Promise<RenderInput> {
  const timeline = { id: 't', name: 'Cut', rate: rate(25), ...size, startFrame: 0, dropFrame: false };
  let project = changed(emptyProject('Test'), { type: 'addTimeline', timeline });
  const files: Record<string, RenderInput['files'][string]> = {};
  let made = 0;
  for (const [i, [path, fit, start]] of clips.entries()) {
    const probe = await ffmpeg.probe(path);
    const source = fileSource(`i${i}`, probe);
    files[source.id] = { path, probe };
    project = changed(project, { type: 'addSources', sources: [source] });
    const placement = { timeline: timelineOf(project), source, fit, start, newId: () => `c${made++}` };
    project = changed(project, { type: 'placeClips', timelineId: 't', clips: clipsFor(placement, noTiming) });
  }
  return { project, timeline: timelineOf(project), files };
}

/** The first timeline. */
export function timelineOf(project: Project): Project['timelines'][number] {
  const [timeline] = project.timelines;
  if (!timeline) throw new Error('no timeline');
  return timeline;
}

/** The input after some commands. */
export function after(input: RenderInput, ...commands: CommandInput[]): RenderInput {
  const project = changed(input.project, ...commands);
  return { ...input, project, timeline: timelineOf(project) };
}

/** Renders to a path without a cache, in a folder for parts that nobody shares. */
export async function rendered(
  input: RenderInput,
  path: string,
  form: RenderFormInput = {},
  cache: string | null = null,
): Promise<Unplaced & { readonly paths: string[] }> {
  const work = await mkdtemp(join(tmpdir(), 'thawline-parts-'));
  const unplaced = await renderTimeline(ffmpeg, { input, form: formSchema.parse(form), path, work, cache }, () => undefined);
  return { ...unplaced, paths: await unplaced.place() };
}
