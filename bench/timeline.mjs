/** Timelines for benches. */
import { rate } from '../packages/core/dist/time/index.js';
import { ffmpeg } from '../packages/media/dist/index.js';
import { apply, clipsFor, emptyProject, noTiming } from '../packages/project/dist/index.js';
import { sourceFromProbe } from '../packages/work/dist/index.js';

/**
 * A file so many times one after the other, as a render is asked for it.
 * @param r the timeline's rate
 */
export async function timelineOf(path, times, r = rate(25)) {
  const probe = await ffmpeg.probe(path);
  const { width, height } = probe;
  const must = (applied) => {
    if (!applied.ok) throw new Error(applied.code);
    return applied.project;
  };
  const own = sourceFromProbe(probe, { id: 's', mediaId: 's', name: 'source' });
  const timeline = { id: 't', name: 'Bench', rate: r, width, height, startFrame: 0, dropFrame: false };
  let project = must(apply(emptyProject('Bench'), { type: 'addTimeline', timeline }));
  project = must(apply(project, { type: 'addSources', sources: [own] }));
  let made = 0;
  for (let i = 0; i < times; i++) {
    const placement = { timeline: project.timelines[0], source: own, fit: 'nearest', newId: () => `c${made++}` };
    project = must(apply(project, { type: 'placeClips', timelineId: 't', clips: clipsFor(placement, noTiming) }));
  }
  return { project, timeline: project.timelines[0], files: { s: { path, probe, identity: path } } };
}
