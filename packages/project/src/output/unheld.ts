import type { Size } from '@thawline/core/picture';
import { formatRate, rate, sameRate } from '@thawline/core/time';
import { FRAME_LEAST, FRAME_MOST, type Timeline } from '../document/document.js';
import { filmRate } from '../timing/fieldRate.js';
import {
  bearsAlpha,
  type Chroma,
  CODECS,
  chromasOf,
  FORMS,
  type FormCodec,
  formFields,
  type RenderForm,
  type SettledForm,
} from './form.js';
import { chromaWords, codingWords } from './formWords.js';

/** Frames a second that MPEG-2 has a code for (ITU-T H.262, table 6-4). */
const MPEG2_RATES = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(50), rate(60000, 1001), rate(60)];
/** Multiples of it are no size in MPEG-2: the lower twelve bits of one may not all be 0 (ITU-T H.262, 6.3.3). */
const MPEG2_SIZES = 4096;
/** What FFmpeg's coder of DNxHR takes at least. */
const DNXHR_LEAST = { width: 256, height: 120 };

/** Sizes that a codec takes are multiples of these: where chroma is halved H.264 and HEVC know no half samples, FFmpeg's coder of AV1 never. */
function stepsOf(codec: FormCodec, chroma: Chroma): { readonly across: 1 | 2; readonly down: 1 | 2 } {
  if (codec === 'av1') return { across: 2, down: 2 };
  if (codec !== 'h264' && codec !== 'hevc') return { across: 1, down: 1 };
  return { across: chroma === '444' || chroma === 'rgb' ? 1 : 2, down: chroma === '420' ? 2 : 1 };
}

/** The nearest smaller and larger frame sizes that a form takes, where it does not take a timeline's own for being odd; else none. */
export function sizesBeside(form: SettledForm, { width, height }: Pick<Timeline, 'width' | 'height'>): readonly Size[] {
  if (FORMS[form.kind].codecs.length === 0) return [];
  const { across, down } = stepsOf(form.codec, form.chroma);
  const [x, y] = [width % across, height % down];
  if (x === 0 && y === 0) return [];
  const beside = [
    { width: width - x, height: height - y },
    { width: width + x, height: height + y },
  ];
  return beside.filter((size) => [size.width, size.height].every((n) => n >= FRAME_LEAST && n <= FRAME_MOST));
}

/**
 * H.264 crops field-coded 4:2:0 in steps of four lines (ITU-T H.264, 7.4.2.1.1, CropUnitY), so that other heights cannot be said; FFmpeg's
 * coder of DNxHR has no fields.
 */
function unheldWords(
  form: SettledForm,
  { rate: perSecond, width, height }: Pick<Timeline, 'rate' | 'width' | 'height'>,
  inFields: boolean,
): string | null {
  const { codec, chroma } = form;
  const steps = stepsOf(codec, chroma);
  if (width % steps.across !== 0 || height % steps.down !== 0) {
    const needed = steps.down === 1 ? 'an even width' : 'an even width and height';
    const way = chromasOf(form).includes('444') ? ', or 4:4:4' : '';
    return `${CODECS[codec].words} at ${chromaWords(chroma)} needs ${needed}, and this is ${width}x${height}. ProRes and FFV1 take it${way}.`;
  }
  if (codec === 'mpeg2' && !MPEG2_RATES.some((r) => sameRate(r, perSecond)))
    return `MPEG-2 can only have ${MPEG2_RATES.map(formatRate).join(', ')} frames a second, and this is ${formatRate(perSecond)}. ProRes takes it.`;
  if (codec === 'mpeg2' && (width % MPEG2_SIZES === 0 || height % MPEG2_SIZES === 0))
    return `MPEG-2 cannot be ${MPEG2_SIZES} or ${2 * MPEG2_SIZES} wide or high, and this is ${width}x${height}. ProRes takes it.`;
  if (codec === 'dnxhr' && (width < DNXHR_LEAST.width || height < DNXHR_LEAST.height))
    return `DNxHR needs at least ${DNXHR_LEAST.width}x${DNXHR_LEAST.height}, and this is ${width}x${height}. ProRes takes it.`;
  if (!inFields) return null;
  if (codec === 'hevc') return 'HEVC is coded here as whole pictures only. H.264, ProRes and MPEG-2 take fields.';
  if (codec === 'dnxhr') return 'DNxHR is coded here as whole pictures only. ProRes and MPEG-2 take fields.';
  if (height % 2 !== 0) return `Two fields a frame need an even number of lines, and this has ${height}.`;
  if (codec !== 'h264' || height % 4 === 0) return null;
  return `H.264 needs a multiple of four lines for two fields a frame, and this has ${height}. Matroska takes it.`;
}

/** Rate and fields of the frames that a form writes of a timeline. */
export function writtenFrames(
  form: Pick<RenderForm, 'kind' | 'fields' | 'rate'>,
  timeline: Pick<Timeline, 'rate' | 'fields'>,
): Pick<Timeline, 'rate' | 'fields'> {
  const fields = formFields(form, timeline);
  const film = fields?.pulldown ? filmRate(timeline) : null;
  return { rate: film ?? form.rate ?? timeline.rate, ...(fields ? { fields: fields.order } : {}) };
}

/** Why a form cannot hold a timeline's frames at the rate it is written at, and what can; null where it does. */
export function unheldBy(form: SettledForm, timeline: Pick<Timeline, 'rate' | 'width' | 'height' | 'fields'>): string | null {
  if (form.over === 'nothing' && form.kind !== 'wav' && !bearsAlpha(form))
    return `${codingWords(form)} cannot keep transparency: FFV1, VP9, ProRes 4444, numbered PNG, TIFF and EXR can. Or say what colour stands where nothing is.`;
  if (FORMS[form.kind].codecs.length === 0) return null;
  const { width, height } = timeline;
  const fields = formFields(form, timeline);
  const film = filmRate(timeline);
  if (fields?.pulldown && !film)
    return timeline.fields
      ? 'Film by 2:3 needs a timeline of whole pictures, and this one is in fields already.'
      : `Film by 2:3 needs 23.976 or 24 frames a second, and this is ${formatRate(timeline.rate)}.`;
  const { rate: perSecond } = writtenFrames(form, timeline);
  return unheldWords(form, { rate: perSecond, width, height }, fields !== null);
}
