import { layersAt, type Project, picturesOfLayers, type Timeline, type TimingOf } from '@thawline/project';

/** A picture of a file. */
interface Picture {
  readonly mediaId: string;
  readonly picture: number;
}

/** The file's picture to show for a picture of a source, or for a frame of a timeline; null for black or what is gone. */
export function pictureBehind(project: Project, id: string, picture: number, timings: TimingOf): Picture | null {
  const source = project.sources.find((s) => s.id === id);
  if (source) return { mediaId: source.mediaId, picture };
  const timeline = project.timelines.find((t) => t.id === id);
  return timeline ? pictureAtFrame(project, timeline, picture, timings) : null;
}

/** The file's picture on top at a frame of a timeline; null for black or what is gone. */
export function pictureAtFrame(project: Project, timeline: Timeline, frame: number, timings: TimingOf): Picture | null {
  const layer = picturesOfLayers(layersAt(project, timeline, frame, timings)).findLast((l) => l.source !== null);
  return layer?.source ? { mediaId: layer.source.mediaId, picture: layer.picture } : null;
}
