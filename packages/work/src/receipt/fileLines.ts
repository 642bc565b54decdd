import { colourName, curveOf, type HighRange, USUAL_SITING } from '@thawline/core/picture';
import { formatExact, ppmBetween, rateToNumber, sameRate, secondsOf } from '@thawline/core/time';
import type { Probe } from '@thawline/media';
import {
  FORMS,
  type FormCodec,
  gradesOf,
  isSeries,
  keepsAlpha,
  pixelFormatOf,
  type SettledForm,
  saysSiting,
} from '@thawline/project';
import { type RenderInput, rangeOf } from '../compose/input.js';
import { colourFor } from '../render/colour.js';
import { firstTimecode } from '../render/renderTimeline.js';
import { ffv1Format, saysSphere } from '../render/writeParts.js';
import type { ReceiptLine } from './types.js';

/** What the file says of itself, counted and timed. */
export function fileLines(input: RenderInput, form: SettledForm, probe: Probe, frames: number): ReceiptLine[] {
  const { timeline } = input;
  const range = rangeOf(input);
  const wanted = range.to - range.from;
  const length = secondsOf(wanted, timeline.rate);
  const lines: ReceiptLine[] = [];
  const exact = rateToNumber(timeline.rate);
  const { measured, seconds } = probe;
  // Numbered pictures bear no times.
  if (probe.kind === 'film') {
    const ppm = measured ? ppmBetween(rateToNumber(measured.rate), timeline.rate) + measured.ppm : 0;
    lines.push({
      what: 'rate',
      asked: formatExact(timeline.rate),
      measured: measured ? `${rateToNumber(measured.rate).toFixed(3)} (${ppm.toFixed(0)} ppm)` : 'none',
      same: measured !== null && sameRate(measured.rate, timeline.rate),
    });
  }
  lines.push({ what: 'frames', asked: String(wanted), measured: String(frames), same: frames === wanted });
  if (probe.kind === 'film' && seconds !== null) {
    lines.push({
      what: 'length',
      asked: `${length.toFixed(3)} s`,
      measured: `${seconds.toFixed(3)} s`,
      same: Math.abs(seconds - length) < 0.5 / exact,
    });
    lines.push({
      what: 'timing',
      asked: `every ${(1000 / exact).toFixed(2)} ms`,
      measured: probe.variable ? unevenWords(probe) : 'even, every timestamp',
      same: !probe.variable,
    });
  }
  const square = probe.sampleAspect === 1 ? '' : ', samples not square';
  lines.push({
    what: 'size',
    asked: `${timeline.width}x${timeline.height}`,
    measured: `${probe.width}x${probe.height}${square}`,
    same: probe.width === timeline.width && probe.height === timeline.height && probe.sampleAspect === 1,
  });
  return [...lines, ...codingLines(input, form, probe)];
}

function codingLines(input: RenderInput, form: SettledForm, probe: Probe): ReceiptLine[] {
  const lines: ReceiptLine[] = [];
  const asked = codingOf(form);
  const coding = [probe.codec, probe.pixelFormat, ...(profileOf(form) && probe.profile ? [probe.profile] : [])].join(', ');
  lines.push({ what: 'coding', asked, measured: coding, same: coding === asked });
  const colour = colourFor(input);
  if (FORMS[form.kind].codecs.length > 0) {
    const [wanted, said] = [colour, probe.colour].map((c) => {
      // What red, green and blue mean is held to only where it was asked for.
      const light = (['primaries', 'transfer'] as const).flatMap((what) =>
        colour[what] === null ? [] : [`${what} ${c?.[what] ? colourName(curveNamed(what, c[what])) : 'not said'}`],
      );
      // Red, green and blue have no matrix, and are of full range whether that is said or not.
      const encoding = form.chroma === 'rgb' ? ['RGB'] : [matrixWords(c?.matrix ?? null), c?.range ?? 'range not said'];
      const placed =
        c && saysSiting(form) && colour.siting ? [`chroma ${(c === colour ? colour : probe).siting ?? USUAL_SITING}`] : [];
      return [...encoding, ...light, ...placed].join(', ');
    });
    lines.push({ what: 'colour', asked: wanted ?? '', measured: said ?? '', same: said === wanted });
  }
  if (colour.highRange && form.codec === 'hevc' && form.kind === 'mp4') {
    const [wanted, said] = [highRangeWords(colour.highRange), highRangeWords(probe.highRange)];
    lines.push({ what: 'light', asked: wanted, measured: said, same: said === wanted });
  }
  if (saysSphere(input, form)) {
    const measured = probe.projection ?? 'not said';
    lines.push({ what: 'around', asked: 'equirectangular', measured, same: measured === 'equirectangular' });
  }
  if (form.timecode && FORMS[form.kind].timecode && form.kind !== 'wav') {
    const first = firstTimecode(input);
    lines.push({ what: 'timecode', asked: first, measured: probe.timecode ?? 'none', same: probe.timecode === first });
  }
  return lines;
}

/** The display and the light that pictures were made for, in words. */
function highRangeWords(said: HighRange | undefined): string {
  const { display, light } = said ?? {};
  const made = display ? [`display of ${display.least} to ${display.most} cd/m\u00b2`] : [];
  const words = [...made, ...(light ? [`${light.most} at most, ${light.average} on average`] : [])];
  return words.join(', ') || 'not said';
}

/** Curves that are the same under several names count as one. */
function curveNamed(what: 'primaries' | 'transfer', said: string): string {
  return what === 'transfer' ? curveOf(said) : said;
}

/** Matrix coefficients by the recommendation they come from; BT.601's have two names, for 525 and 625 lines. */
const MATRICES: Readonly<Record<string, string>> = {
  bt709: 'BT.709',
  smpte170m: 'BT.601',
  bt470bg: 'BT.601',
  bt2020nc: 'BT.2020',
};

function matrixWords(matrix: string | null): string {
  return matrix === null ? 'not said' : (MATRICES[matrix] ?? matrix);
}

/** What a form's pictures are coded as, in a probe's words. */
function codingOf(form: SettledForm): string {
  const { kind, codec, depth } = form;
  const alpha = keepsAlpha(form);
  if (kind === 'exr') return `exr, ${alpha ? 'gbrapf32le' : 'gbrpf32le'}`;
  if (isSeries(kind))
    return `${kind}, ${depth === 16 ? `${alpha ? 'rgba64' : 'rgb48'}${kind === 'png' ? 'be' : 'le'}` : alpha ? 'rgba' : 'rgb24'}`;
  // FFmpeg's decoder of ProRes 4444 gives 12 bit, whatever went in.
  const format = pixelFormatOf(form);
  const samples =
    codec === 'prores' && form.chroma === '444'
      ? `yuv${alpha ? 'a' : ''}444p12le`
      : codec === 'ffv1'
        ? ffv1Format(format)
        : format;
  const profile = profileOf(form);
  return [kind === 'y4m' ? 'rawvideo' : (PROBED[codec] ?? codec), samples, ...(profile ? [profile] : [])].join(', ');
}

/** Grades as a probe names them. */
const PROFILES: Readonly<Record<string, string>> = {
  '4444': '4444',
  '422 HQ': 'HQ',
  '422': 'Standard',
  '422 LT': 'LT',
  '422 Proxy': 'Proxy',
  '444': 'DNXHR 444',
  HQX: 'DNXHR HQX',
  HQ: 'DNXHR HQ',
  SQ: 'DNXHR SQ',
  LB: 'DNXHR LB',
};

/** The grade of a form as a probe names it; null where its codec has none. */
function profileOf(form: SettledForm): string | null {
  return PROFILES[gradesOf(form)[form.grade] ?? ''] ?? null;
}

/** Codecs whose family a probe names. */
const PROBED: Partial<Record<FormCodec, string>> = { dnxhr: 'dnxhd', mpeg2: 'mpeg2video' };

function unevenWords({ timing }: Probe): string {
  if (timing.kind !== 'variable') return 'uneven';
  const { ticks, end } = timing;
  const gaps = Array.from(ticks, (tick, k) => (ticks[k + 1] ?? end) - tick);
  const usual = Float64Array.from(gaps).sort()[gaps.length >> 1] ?? 1;
  const odd = gaps.flatMap((gap, k) => (Math.abs(gap - usual) > usual / 20 ? [k] : []));
  return odd.length === 0 ? 'uneven' : `uneven ${odd.length} times, first after frame ${odd[0]}`;
}
