import { type AlphaKind, pixelFacts } from '@thawline/core/picture';
import { keepsAlpha, type SettledForm } from '@thawline/project';
import type { RenderInput } from '../compose/input.js';
import { smallFrames } from '../compose/smallLuma.js';
import type { JobContext } from '../jobs/context.js';
import { colourFor } from '../render/colour.js';
import { lookedAt } from '../render/renderTimeline.js';
import type { WrittenFile } from './closerLook.js';
import { MEASURED_SIZE } from './pictureLines.js';
import { sideBySide } from './sideBySide.js';
import type { ReceiptLine } from './types.js';

/** Coding and scaling leave less than this between the alpha of a frame and what was asked for, in the mean, of 255. */
const SAME_MEAN = 6;
/** 8 bit, with alpha as a plane of its own. */
const WITH_ALPHA = 'yuva444p';

const KINDS: Record<AlphaKind, string> = {
  straight: 'straight',
  multiplied: 'colour is multiplied',
  opaque: 'all opaque',
  unknown: 'straight or multiplied alike',
};

/** Where transparency is asked for: whether the file has it, frame by frame as it was composed, and its colour is straight. */
export async function alphaLines(
  context: JobContext,
  input: RenderInput,
  { path, probe }: WrittenFile,
  form: SettledForm,
): Promise<ReceiptLine[]> {
  if (!keepsAlpha(form)) return [];
  // EXR wants it so.
  const isMultiplied = form.kind === 'exr';
  const asked = `each frame its own, colour ${isMultiplied ? 'multiplied' : 'straight'}`;
  if (!pixelFacts(probe.pixelFormat)?.alpha) return [{ what: 'alpha', asked, measured: 'none', same: false }];
  const kind = KINDS[probe.alpha ?? 'unknown'];
  const { frames, off } = await differingFrames(context, lookedAt(input, form).input, { path, probe });
  const shown = off.length === 0 ? 'each frame its own' : `all but ${off.length} of ${frames} frames, first frame ${off[0]}`;
  return [
    {
      what: 'alpha',
      asked,
      measured: `${shown}, ${kind}`,
      same: off.length === 0 && (probe.alpha === 'multiplied') === isMultiplied,
    },
  ];
}

/** Frames whose alpha is not what was asked for, by small pictures of it. */
async function differingFrames(
  { media, signal }: JobContext,
  input: RenderInput,
  { path, probe }: WrittenFile,
): Promise<{ readonly frames: number; readonly off: readonly number[] }> {
  const context = { media, ...(signal ? { signal } : {}) };
  const look = { pixelFormat: WITH_ALPHA, colour: colourFor(input) };
  const asked = smallFrames(context, { ...input, look }, MEASURED_SIZE, 'alpha');
  const written = media.openPictures(path, probe, { pixelFormat: WITH_ALPHA, ...MEASURED_SIZE, scaling: 'area', signal });
  const n = MEASURED_SIZE.width * MEASURED_SIZE.height;
  const off: number[] = [];
  let frames = 0;
  for await (const [one, other] of sideBySide(asked, written)) {
    if (!one || !other) break;
    let sum = 0;
    for (let i = 0; i < n; i++) sum += Math.abs((one[i] as number) - (other[3 * n + i] as number));
    if (sum / n > SAME_MEAN) off.push(frames);
    frames++;
  }
  return { frames, off };
}
