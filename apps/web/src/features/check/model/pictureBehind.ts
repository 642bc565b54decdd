import { layersAt, type Project, type TimingOf } from '@thawline/project';

/** The file's picture to show for a picture of a source, or for a frame of a timeline (its topmost); null for black or what is gone. */
export function pictureBehind(
  project: Project,
  id: string,
  picture: number,
  timings: TimingOf,
): { readonly mediaId: string; readonly picture: number } | null {
  const source = project.sources.find((s) => s.id === id);
  if (source) return { mediaId: source.mediaId, picture };
  const timeline = project.timelines.find((t) => t.id === id);
  const layer = timeline && layersAt(project, timeline, picture, timings).findLast((l) => l.source !== null);
  return layer?.source ? { mediaId: layer.source.mediaId, picture: layer.picture } : null;
}
