import { pixelFacts, remarksOf } from '@thawline/core/picture';
import { formatExact, formatRate, rateToNumber, type SoundGap, soundGap } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import { type Probe, saidOf } from '@thawline/media';
import { toldRate } from '@thawline/project';
import type { AlignResult, Comparison } from '@thawline/work';

function gapOf({ pictures, measured, seconds, sound }: Probe): SoundGap | null {
  return sound && measured && seconds !== null ? soundGap(pictures, measured.rate, seconds, sound.seconds) : null;
}

/** The shape that `probe --json` prints, one line a source. A sequence and a still have neither stored nor measured rate. */
export function probeJson(file: string, probe: Probe) {
  const { measured, stored, sound, seconds } = probe;
  const gap = gapOf(probe);
  return {
    file,
    kind: probe.kind,
    pictures: probe.pictures,
    stored: stored && { num: stored.num, den: stored.den },
    measured: measured && { num: measured.rate.num, den: measured.rate.den, ppm: round(measured.ppm, 2) },
    variable: probe.variable,
    seconds: seconds === null ? null : round(seconds, 6),
    width: probe.width,
    height: probe.height,
    codec: probe.codec,
    ...pictureJson(probe),
    fields: probe.fields,
    timecode: probe.timecode,
    endsEarly: probe.endsEarly ?? false,
    sound: sound
      ? {
          seconds: round(sound.seconds, 6),
          sampleRate: sound.sampleRate,
          channels: sound.channels,
          tracks: 1 + (sound.others ?? 0),
        }
      : null,
    gap: gap && { ...gap, seconds: round(gap.seconds, 6) },
  };
}

/** What a file says of its pictures' samples, colour and shape; null where it says nothing. Sound alone has none of it. */
function pictureJson(probe: Probe) {
  if (probe.kind === 'sound') return {};
  const { pixelFormat, colour, highRange, sampleAspect } = probe;
  const facts = pixelFacts(pixelFormat);
  const rgb = facts?.model === 'rgb';
  return {
    pixelFormat,
    depth: facts?.bits ?? null,
    model: facts?.model ?? null,
    chroma: facts?.chroma ?? null,
    siting: probe.siting ?? null,
    alpha: facts?.alpha ? (probe.alpha ?? 'unknown') : null,
    primaries: colour?.primaries ?? null,
    transfer: colour?.transfer ?? null,
    // Red, green and blue have none.
    matrix: rgb ? null : (colour?.matrix ?? null),
    range: colour?.range ?? null,
    masteringDisplay: highRange?.display ?? null,
    lightLevel: highRange?.light ?? null,
    pixelAspect: round(sampleAspect, 6),
    rotation: probe.rotation ?? 0,
    projection: probe.projection ?? null,
    remarks: remarksOf(saidOf(probe)),
  };
}

/** The columns that `probe --csv` prints. */
export function probeRow(file: string, probe: Probe) {
  const { measured, stored, sound, seconds } = probe;
  const gap = gapOf(probe);
  return {
    file,
    kind: probe.kind,
    pictures: probe.pictures,
    stored: stored ? formatRate(stored) : '',
    measured: measured ? formatRate(measured.rate) : '',
    ppmLeft: measured ? round(measured.ppm, 2) : '',
    timing: probe.measured === null ? '' : probe.variable ? 'variable' : 'even',
    seconds: seconds === null ? '' : round(seconds, 6),
    width: probe.width,
    height: probe.height,
    codec: probe.codec,
    pixelFormat: probe.pixelFormat,
    primaries: probe.colour?.primaries ?? '',
    transfer: probe.colour?.transfer ?? '',
    alpha: probe.alpha ?? '',
    fields: probe.fields,
    soundSeconds: sound ? round(sound.seconds, 6) : '',
    soundSampleRate: sound?.sampleRate ?? '',
    soundChannels: sound?.channels ?? '',
    gapSeconds: gap ? round(gap.seconds, 6) : '',
    impliedRate: gap?.impliedRate ? formatRate(gap.impliedRate) : '',
  };
}

/** The shape that `check --json` prints; regions in pixels of the file's pictures. */
export function checkJson(file: string, verdict: Verdict, { width, height }: Pick<Probe, 'width' | 'height'>) {
  const { fields } = verdict;
  const told = toldRate(verdict);
  return {
    file,
    pictures: verdict.pictures,
    storedRate: round(verdict.storedRate, 6),
    trueRate: told === null ? null : round(told, 6),
    kind: verdict.kind,
    held: verdict.held,
    unchanged: verdict.unchanged,
    jumps: verdict.jumps,
    missing: verdict.missing,
    cuts: verdict.cuts,
    faults: verdict.faults.map((f) => ({ ...f, certainty: round(f.certainty, 4) })),
    passages: verdict.passages,
    blends: verdict.blends.map((at, i) => ({ at, share: verdict.shares[i] ?? 0 })),
    maybeMade: verdict.made.map((m) => ({ ...m, sourceRate: round(m.sourceRate, 6), certainty: round(m.certainty, 4) })),
    fields: {
      ...fields,
      certainty: round(fields.certainty, 4),
      stretches: fields.stretches.map((s) => ({ ...s, certainty: round(s.certainty, 4) })),
    },
    regions: verdict.parts.map((part) => ({
      x: Math.round(part.x * width),
      y: Math.round(part.y * height),
      width: Math.round(part.width * width),
      height: Math.round(part.height * height),
      trueRate: round(part.trueRate, 6),
      pattern: part.pattern,
      certainty: round(part.certainty, 4),
    })),
    certainty: round(verdict.certainty, 4),
    stretches: verdict.stretches.map((s) => ({ ...s, trueRate: s.trueRate === null ? null : round(s.trueRate, 6) })),
  };
}

/** The shape that `compare --json` prints. Path: [picture of a, picture of b]. */
export function compareJson(a: string, b: string, found: Comparison) {
  return {
    a,
    b,
    offsetSeconds: round(found.offsetSeconds, 6),
    speed: round(found.speed, 8),
    rateA: found.rateA,
    rateB: found.rateB,
    path: found.path,
    droppedFromA: found.droppedFromA,
    repeatedInB: found.repeatedInB,
    blendsInB: found.blendsInB,
    missing: found.missing,
    certainty: found.certainty,
  };
}

/** The shape that `align --json` prints: b = offsetSeconds + ratio * a, in seconds. Null where there is nothing to solve. */
export function alignJson(a: string, b: string, { ties, solution, certainty }: AlignResult) {
  const left = solution?.leftOver.map((s) => round(s * 1000, 3)) ?? [];
  return {
    a,
    b,
    ties: ties.map((t) => ({ a: t.a / 1e6, b: t.b / 1e6, strength: round(t.strength, 1) })),
    offsetSeconds: solution && round(solution.offsetSeconds, 6),
    ratio: solution && rateToNumber(solution.ratio),
    exact: solution && formatExact(solution.ratio),
    driftPpm: solution && round(solution.driftPpm, 3),
    /** Ties too close together tell no drift: it was taken for none. */
    drifts: solution?.drifts ?? false,
    leftOverMs: { start: left[0] ?? null, middle: left[middleOf(ties)] ?? null, end: left.at(-1) ?? null },
    certainty: round(certainty, 4),
  };
}

/** The tie nearest to the middle between the first and the last one. */
function middleOf(ties: AlignResult['ties']): number {
  const middle = ((ties[0]?.a ?? 0) + (ties.at(-1)?.a ?? 0)) / 2;
  const away = ties.map((t) => Math.abs(t.a - middle));
  return away.indexOf(Math.min(...away));
}

function round(value: number, digits: number): number {
  return Number(value.toFixed(digits));
}
