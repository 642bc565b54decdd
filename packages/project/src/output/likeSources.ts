import { ALPHA_LOST, leastLossy, pictureLosses } from '@thawline/core/picture';
import type { Project, Timeline } from '../document/document.js';
import { filesOf } from '../resolve/sources.js';
import { type Chroma, chromasOf, type Depth, depthsOf, pixelFormatOf, type RenderForm, settledForm } from './form.js';

/**
 * The colour detail and the depth, of those that a form can have, in which the pictures of a timeline's sources lose least; null where they lose no
 * more as it is.
 */
export function likeSources(
  project: Project,
  timeline: Timeline,
  range: Timeline['range'],
  asked: RenderForm,
): { readonly chroma: Chroma; readonly depth: Depth } | null {
  const form = settledForm(asked);
  const sources = filesOf(project, timeline, range).flatMap((s) => (s.kind === 'sound' ? [] : s.pixelFormat));
  const looks = chromasOf(form).flatMap((chroma) =>
    depthsOf({ ...form, chroma }).map((depth) => ({ chroma, depth, format: pixelFormatOf({ ...form, chroma, depth }) })),
  );
  const formats = looks.map((look) => look.format);
  const best = leastLossy(formats, sources);
  const found = looks.find((look) => look.format === best);
  const lost = (format: string): string =>
    sources.flatMap((source) => pictureLosses(source, format).filter((loss) => loss !== ALPHA_LOST)).join();
  return found && lost(found.format) !== lost(pixelFormatOf(form)) ? { chroma: found.chroma, depth: found.depth } : null;
}
