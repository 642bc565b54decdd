import { SequenceComparer, type SequenceComparison, type WrongRun, wrongRuns } from '@thawline/core/truth';
import { type SettledForm, segmentAt, shownAt } from '@thawline/project';
import { type RenderInput, rangeOf, timingFrom } from '../compose/input.js';
import { smallFrames } from '../compose/smallLuma.js';
import type { JobContext } from '../jobs/context.js';
import { colourFor } from '../render/colour.js';
import { lookedAt } from '../render/renderTimeline.js';
import { closerLook, type WrittenFile } from './closerLook.js';
import { sideBySide } from './sideBySide.js';
import type { NamedPicture, ReceiptLine, WrongStretch } from './types.js';

/** Small enough that coding does not show, large enough that a moving thing does. */
export const MEASURED_SIZE = { width: 128, height: 72 };

export interface PictureLines {
  readonly lines: ReceiptLine[];
  readonly wrong: WrongStretch[];
  readonly alike: number;
  readonly frames: number;
}

/**
 * Tells which picture each frame of a file shows. All of it is decoded and composed anew beside each other, small; what small pictures
 * leave in doubt is looked at again at the render's own size. So nothing is objected to that was not seen there, and decisions that hang
 * on size (a cut, where motion can be trusted) are those of the render.
 */
export async function pictureLines(
  context: JobContext,
  input: RenderInput,
  file: WrittenFile,
  form: SettledForm,
): Promise<PictureLines> {
  const { input: asked } = lookedAt(input, form);
  const { shown, frames } = await shownSmall(context, asked, file);
  const { shows, alike } = await closerLook(context, { input, file, form, shown });
  const wrong = wrongRuns(shows);
  return { lines: shownLines(input, shows, wrong.length), wrong: wrong.map((w) => named(input, w)), alike, frames };
}

/** Decodes the file and composes the edit beside each other, small. */
export async function shownSmall(
  context: JobContext,
  input: RenderInput,
  { path, probe }: WrittenFile,
  passed: () => void = () => undefined,
): Promise<{ readonly shown: SequenceComparison; readonly frames: number }> {
  const { media, progress, signal } = context;
  const { from, to } = rangeOf(input);
  const wanted = to - from;
  const colour = colourFor(input);
  const over = input.look?.over;
  const look = { pixelFormat: 'yuv420p', colour, ...(over ? { over } : {}) };
  const meter = new SequenceComparer();
  const asked = smallFrames(context, { ...input, look }, MEASURED_SIZE);
  const written = media.openPictures(path, probe, { pixelFormat: 'gray', ...MEASURED_SIZE, scaling: 'area', colour, signal });
  let frames = 0;
  for await (const [one, other] of sideBySide(asked, written)) {
    if (one) meter.ask(one);
    if (other) {
      meter.write(other);
      frames++;
      if (frames % 10 === 0) progress(Math.min(frames, wanted), wanted, 'measuring the file');
    }
    passed();
  }
  return { shown: meter.finish(), frames };
}

/** What of the shown pictures the edit did not ask for: held ones, hitches, and all of them together. */
function shownLines(input: RenderInput, shows: Int32Array, places: number): ReceiptLine[] {
  const { from } = rangeOf(input);
  const known = timingFrom(input.files);
  const picture = (frame: number): string => {
    if (frame < 0) return 'lost';
    const dissolve = segmentAt(input.timeline, from + frame)?.dissolve;
    if (dissolve) return `${dissolve.into.id} over ${from + frame}`;
    const shown = shownAt(input.project, input.timeline, from + frame, known);
    return shown ? `${shown.clip.id} ${shown.picture} ${shown.nextShare}` : 'black';
  };
  let [held, hitches, wrong] = [0, 0, 0];
  for (let n = 0; n < shows.length; n++) {
    const at = shows[n] as number;
    if (at !== n) wrong++;
    if (n === 0) continue;
    const before = shows[n - 1] as number;
    // A frame that shows none of those asked for (-1) is counted as wrong above; its steps are not known.
    if (at < 0 || before < 0 || (at === n && before === n - 1)) continue;
    if (picture(at) === picture(before) && picture(n) !== picture(n - 1)) held++;
    if (at - before !== 1) hitches++;
  }
  const frames = (count: number): string => `${count} ${count === 1 ? 'frame' : 'frames'}`;
  return [
    { what: 'held', asked: '0', measured: String(held), same: held === 0 },
    { what: 'hitches', asked: '0', measured: String(hitches), same: hitches === 0 },
    {
      what: 'pictures',
      asked: 'each frame its own',
      measured:
        wrong === 0 ? 'each frame its own' : `all but ${frames(wrong)}, in ${places} ${places === 1 ? 'place' : 'places'}`,
      same: wrong === 0,
    },
  ];
}

function named(input: RenderInput, run: WrongRun): WrongStretch {
  const { from } = rangeOf(input);
  const known = timingFrom(input.files);
  const name = (frame: number): NamedPicture | null => {
    const shown = shownAt(input.project, input.timeline, from + frame, known);
    return shown && { source: shown.source.name, picture: shown.picture };
  };
  return { ...run, asked: name(run.frame), shown: run.shows === null ? null : name(run.shows) };
}
